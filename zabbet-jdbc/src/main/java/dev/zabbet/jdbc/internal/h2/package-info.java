/** H2. */
@NullMarked
package dev.zabbet.jdbc.internal.h2;

import org.jspecify.annotations.NullMarked;
