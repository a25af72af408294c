package dev.zabbet.jdbc.internal.engine;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.h2.H2Dialect;
import dev.zabbet.jdbc.internal.mariadb.MariaDbDialect;
import dev.zabbet.jdbc.internal.postgres.PostgresDialect;
import dev.zabbet.jdbc.internal.sqlite.SqliteDialect;
import java.sql.Connection;
import java.sql.SQLException;

/** The databases that Zabbet knows: an engine is a package of its own and a line here. */
public final class Engines {
    private Engines() {}

    /**
     * Returns a dialect for the database behind a connection. It belongs to one stage.
     *
     * @throws ZabbetException if Zabbet does not know the database
     */
    public static Dialect of(Connection connection) throws SQLException {
        String product = connection.getMetaData().getDatabaseProductName();
        return switch (product) {
            case "H2" -> new H2Dialect();
            case "PostgreSQL" -> new PostgresDialect();
            case "MariaDB" -> new MariaDbDialect();
            case "SQLite" -> new SqliteDialect();
            default ->
                throw new ZabbetException("Zabbet does not know the database " + product
                        + ". It knows H2, PostgreSQL, MariaDB and SQLite.");
        };
    }
}
