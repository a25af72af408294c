/** Databases that stand beside a given one, for tests that run at the same time. */
@NullMarked
package dev.zabbet.jdbc.internal.siblings;

import org.jspecify.annotations.NullMarked;
