/** What stores share. */
@NullMarked
package dev.zabbet.internal.store;

import org.jspecify.annotations.NullMarked;
