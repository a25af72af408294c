/** PostgreSQL. */
@NullMarked
package dev.zabbet.jdbc.internal.postgres;

import org.jspecify.annotations.NullMarked;
