/** The properties of Java types: how they are read, named and put together again. */
@NullMarked
package dev.zabbet.internal.type;

import org.jspecify.annotations.NullMarked;
