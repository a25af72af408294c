/** MariaDB. */
@NullMarked
package dev.zabbet.jdbc.internal.mariadb;

import org.jspecify.annotations.NullMarked;
