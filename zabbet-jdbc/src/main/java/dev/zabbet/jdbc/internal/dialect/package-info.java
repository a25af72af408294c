/**
 * What an engine tells the rest: its SQL, its values, its counters, its catalog, its journal. {@link
 * dev.zabbet.jdbc.internal.dialect.Dialect} is the entry; the packages of the engines implement it.
 */
@NullMarked
package dev.zabbet.jdbc.internal.dialect;

import org.jspecify.annotations.NullMarked;
