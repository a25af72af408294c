package dev.zabbet.jdbc.internal.siblings;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.connect.DriverDataSource;
import dev.zabbet.jdbc.internal.connect.JdbcUrl;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.mariadb.MariaDbDialect;
import dev.zabbet.jdbc.internal.postgres.PostgresDialect;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Databases of a PostgreSQL or MariaDB server, made over a connection to the one that is given. */
final class ServerSiblings implements Siblings {
    private static final Pattern NAME = Pattern.compile("^(jdbc:\\w+://[^/]+/)([^?]+)(.*)$");
    private static final int LONGEST = 58;

    private final Connection connection;
    private final boolean postgres;
    private final String before;
    private final String base;
    private final String after;

    ServerSiblings(String url, String user, String password) throws SQLException {
        Matcher parts = NAME.matcher(url);
        if (!parts.matches() || parts.group(2).length() > LONGEST) {
            throw new ZabbetException("To make databases beside it, the URL has to name a database, in at most "
                    + LONGEST + " characters: jdbc:postgresql://HOST/NAME. It is " + JdbcUrl.shown(url) + ".");
        }
        before = parts.group(1);
        base = parts.group(2);
        after = parts.group(3);
        postgres = url.startsWith("jdbc:postgresql:");
        connection = new DriverDataSource(url, user, password).getConnection();
        try (PreparedStatement lock = connection.prepareStatement(
                postgres ? "SELECT pg_advisory_lock(hashtext(?))" : "SELECT GET_LOCK(?, 120)")) {
            lock.setString(1, "zabbet/" + base);
            lock.execute();
        } catch (SQLException e) {
            connection.close();
            throw e;
        }
    }

    @Override
    public String url(int number) {
        return before + name(number) + after;
    }

    @Override
    public String name(int number) {
        return base + "_" + number;
    }

    @Override
    public boolean exists(int number) throws SQLException {
        try (PreparedStatement find = connection.prepareStatement(
                postgres
                        ? "SELECT 1 FROM pg_database WHERE datname = ?"
                        : "SELECT 1 FROM information_schema.SCHEMATA WHERE SCHEMA_NAME = ?")) {
            find.setString(1, name(number));
            try (ResultSet rows = find.executeQuery()) {
                return rows.next();
            }
        }
    }

    @Override
    public boolean copies() {
        return postgres;
    }

    @Override
    public void create(int number) throws SQLException {
        execute("CREATE DATABASE " + quoted(number) + (postgres && number > 0 ? " TEMPLATE " + quoted(0) : ""));
    }

    @Override
    public void drop(int number) throws SQLException {
        execute("DROP DATABASE " + quoted(number));
    }

    private String quoted(int number) {
        return postgres ? new PostgresDialect().quote(name(number)) : new MariaDbDialect().quote(name(number));
    }

    private void execute(String sql) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(sql);
        } catch (SQLException e) {
            Dialect dialect = postgres ? new PostgresDialect() : new MariaDbDialect();
            if (!dialect.isMissingRight(e)) {
                throw e;
            }
            throw new ZabbetException(
                    "The database user may not make or drop databases: " + e.getMessage() + ". Give it the right ("
                            + (postgres
                                    ? "ALTER ROLE … CREATEDB"
                                    : "GRANT ALL ON `" + base.replace("_", "\\_") + "\\_%`.* TO …")
                            + "), or give each test process a database of its own.",
                    e);
        }
    }

    @Override
    public void close() throws SQLException {
        connection.close();
    }
}
