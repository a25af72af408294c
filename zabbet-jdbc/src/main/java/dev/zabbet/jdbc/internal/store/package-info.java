/** The store over a database: its one connection, its loads, its rewinds. */
@NullMarked
package dev.zabbet.jdbc.internal.store;

import org.jspecify.annotations.NullMarked;
