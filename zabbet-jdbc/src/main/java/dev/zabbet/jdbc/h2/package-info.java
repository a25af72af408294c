/** What an H2 database in this process calls while it changes rows. Not for users. */
@NullMarked
package dev.zabbet.jdbc.h2;

import org.jspecify.annotations.NullMarked;
