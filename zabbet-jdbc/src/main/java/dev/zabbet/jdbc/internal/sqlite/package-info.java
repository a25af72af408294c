/** SQLite. */
@NullMarked
package dev.zabbet.jdbc.internal.sqlite;

import org.jspecify.annotations.NullMarked;
