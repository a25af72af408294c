package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.internal.connect.DriverDataSource;
import dev.zabbet.jdbc.internal.script.SqlScript;
import dev.zabbet.jdbc.internal.server.RunningServer;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/**
 * A PostgreSQL or MariaDB server with nothing installed: its programs come from a jar on the class path, which is unpacked once. One
 * server for each user of the machine and version runs in the background at a port of the loopback address, shared by all processes,
 * and ends when none has used it for five minutes ({@code -Dzabbet.server.idleSeconds}). It is a cache: what it holds may be gone
 * the next time, and is after a crash.
 *
 * <p>Wherever a JDBC URL is taken, {@code postgres:} and {@code mariadb:} stand for it, with the name of a database behind the
 * colon or without. Thread-safe.
 */
public final class LocalServer {
    private static final Pattern URL = Pattern.compile("(postgres|mariadb):(.*)");
    private static final Pattern NAME = Pattern.compile("[a-z][a-z0-9_]{0,57}");
    private static final String UNNAMED = "zabbet";
    private static final int MOST_SCRIPTS = 20;

    private final RunningServer server;
    private final boolean postgres;

    private LocalServer(RunningServer server, boolean postgres) {
        this.server = server;
        this.postgres = postgres;
    }

    /**
     * {@return PostgreSQL, started if it does not run}
     *
     * @throws ZabbetException if no jar with it is on the class path, which names the one to add; or if it cannot be started
     */
    public static LocalServer postgres() {
        return new LocalServer(RunningServer.postgres(), true);
    }

    /**
     * {@return MariaDB, started if it does not run}
     *
     * @throws ZabbetException as {@link #postgres()}
     */
    public static LocalServer mariadb() {
        return new LocalServer(RunningServer.mariadb(), false);
    }

    /**
     * {@return whether a URL stands for a server of this kind}
     *
     * @param url a JDBC URL, or a server from a jar such as {@code postgres:huts}
     */
    public static boolean isMeantBy(String url) {
        return URL.matcher(url).matches();
    }

    /**
     * {@return the JDBC URL that one stands for: of {@code postgres:huts} or {@code mariadb:huts} that of a database on a server of
     * this kind, with user and password, as {@link #url} makes it; of any other itself}
     *
     * @param url a JDBC URL, or a server from a jar such as {@code postgres:huts}
     * @throws ZabbetException as {@link #postgres()} and {@link #url}
     */
    public static String jdbcUrl(String url) {
        Words.notNull(url, "url", "LocalServer.jdbcUrl");
        Matcher local = URL.matcher(url);
        if (!local.matches()) {
            return url;
        }
        return of(local).url(local.group(2).isEmpty() ? UNNAMED : local.group(2));
    }

    /** As {@link #jdbcUrl}; without a name, it is a database for the tables of one script. */
    static String jdbcUrl(String url, SqlScript script) {
        Matcher local = URL.matcher(url);
        if (!local.matches() || !local.group(2).isEmpty()) {
            return jdbcUrl(url);
        }
        LocalServer server = of(local);
        String base = "script_" + script.fingerprint().substring(0, 12);
        String made = server.url(base);
        server.noteUse(base);
        return made;
    }

    private static LocalServer of(Matcher local) {
        return local.group(1).equals("postgres") ? postgres() : mariadb();
    }

    /**
     * {@return the JDBC URL of a database, with user and password in it} The database is made if it is not there yet, dedicated to
     * tests.
     *
     * @param database its name: small letters, digits and underlines, at most 58
     * @throws ZabbetException if the name is another, or the database cannot be made
     */
    public String url(String database) {
        Words.notNull(database, "database", "LocalServer.url");
        if (!NAME.matcher(database).matches()) {
            throw new ZabbetException(
                    "'" + database + "' is no name of a database here: it has to begin with a small letter, and"
                            + " to have small letters, digits and underlines, at most 58.");
        }
        try (Connection connection = connect();
                Statement statement = connection.createStatement()) {
            if (!names(statement).contains(database)) {
                make(statement, database);
                Jdbc.dedicate(new DriverDataSource(server.url(database), "", "")); // it is nobody's
            }
        } catch (SQLException e) {
            throw new ZabbetException("The database " + database + " cannot be made: " + e.getMessage(), e);
        }
        return server.url(database);
    }

    /** A server that has just begun to answer may still ask for patience. */
    private Connection connect() throws SQLException {
        DriverDataSource first = new DriverDataSource(server.url(), "", "");
        SQLException trouble = null;
        for (int i = 0; i < 400; i++) {
            try {
                return first.getConnection();
            } catch (SQLException e) {
                String state = String.valueOf(e.getSQLState());
                if (!state.equals("57P03") && !state.startsWith("08")) {
                    throw e;
                }
                trouble = e;
            }
            try {
                Thread.sleep(25);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new ZabbetException("Interrupted while a server was starting.", e);
            }
        }
        throw new ZabbetException("The server in " + server.folder() + " does not answer: " + trouble, trouble);
    }

    private List<String> names(Statement statement) throws SQLException {
        List<String> names = new ArrayList<>();
        try (ResultSet rows = statement.executeQuery(
                postgres ? "SELECT datname FROM pg_database" : "SELECT SCHEMA_NAME FROM information_schema.SCHEMATA")) {
            while (rows.next()) {
                names.add(rows.getString(1));
            }
        }
        return names;
    }

    /** Another process may be faster. */
    private void make(Statement statement, String database) throws SQLException {
        try {
            statement.execute("CREATE DATABASE " + database);
        } catch (SQLException e) {
            if (!names(statement).contains(database)) {
                throw e;
            }
        }
    }

    /** Remembers when a script's databases were used, and drops those of scripts that have not been for longest. */
    private void noteUse(String base) {
        Path used = server.folder().resolve("used");
        try {
            Files.createDirectories(used);
            Path own = used.resolve(base);
            if (Files.exists(own)) {
                Files.setLastModifiedTime(own, FileTime.from(Instant.now()));
                return;
            }
            Files.writeString(own, "");
            List<Path> latestFirst;
            try (Stream<Path> all = Files.list(used)) {
                latestFirst = new ArrayList<>(all.toList());
            }
            latestFirst.sort(Comparator.comparing((Path file) -> file.toFile().lastModified())
                    .reversed());
            for (Path old : latestFirst.subList(Math.min(MOST_SCRIPTS, latestFirst.size()), latestFirst.size())) {
                if (drop(old.getFileName().toString())) {
                    Files.deleteIfExists(old);
                }
            }
        } catch (IOException e) {
            System.getLogger("dev.zabbet.jdbc")
                    .log(System.Logger.Level.INFO, "Databases of old scripts stay: {0}", e.toString());
        }
    }

    /** Drops the databases of a script, unless one is in use. */
    private boolean drop(String base) {
        Pattern own = Pattern.compile(base + "(_\\d+)?");
        try (Connection connection = connect();
                Statement statement = connection.createStatement()) {
            for (String name : names(statement)) {
                if (own.matcher(name).matches()) {
                    statement.execute("DROP DATABASE " + name);
                }
            }
            return true;
        } catch (SQLException e) {
            return false;
        }
    }
}
