/** Fakes: the methods of an interface read and carried out over rows in memory. */
@NullMarked
package dev.zabbet.internal.fake;

import org.jspecify.annotations.NullMarked;
