package dev.zabbet.jdbc;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.internal.connect.DriverDataSource;
import dev.zabbet.jdbc.internal.connect.JdbcUrl;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Session;
import dev.zabbet.jdbc.internal.engine.Engines;
import dev.zabbet.jdbc.internal.guard.Dedication;
import dev.zabbet.jdbc.internal.guard.Lease;
import dev.zabbet.jdbc.internal.script.SqlScript;
import dev.zabbet.jdbc.internal.siblings.Siblings;
import dev.zabbet.jdbc.internal.store.JdbcStore;
import dev.zabbet.jdbc.internal.store.StoreOpening;
import dev.zabbet.schema.Schema;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/**
 * Databases with the same tables for tests that run at the same time, in threads or in processes: each stage gets one
 * that no other stage holds. They are named after a database that is given, in which nothing is written: {@code huts_1},
 * {@code huts_2} and so on; on PostgreSQL and SQLite {@code huts_0} is the one that the others are copied from. Each is
 * made when it is first needed and used again afterwards, also by later runs. When a stage is closed its database is
 * rewound. A database left behind by a process that died is made again, and so are all when the script changes.
 *
 * <p>Immutable and thread-safe.
 */
public final class Databases {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");
    private static final String MADE_FROM = "made from ";
    private static final String UNFINISHED = "a script that was not run to its end";
    private static final int MOST = 99;
    private static final Map<String, String> IN_MEMORY = new ConcurrentHashMap<>();

    private final String url;
    private final String user;
    private final String password;
    private final SqlScript script;
    private final @Nullable Function<? super String, ? extends DataSource> opening;

    private Databases(
            String url,
            String user,
            String password,
            SqlScript script,
            @Nullable Function<? super String, ? extends DataSource> opening) {
        this.url = url;
        this.user = user;
        this.password = password;
        this.script = script;
        this.opening = opening;
    }

    /**
     * Databases beside the one that a URL names. On a server that one has to exist, and the user needs the right to make
     * databases; of H2 and SQLite it need not exist.
     *
     * @param url a JDBC URL of H2 (a file, or in memory), PostgreSQL, MariaDB or SQLite (a file); or {@code postgres:} or
     *     {@code mariadb:} for a {@link LocalServer}
     * @param user the user; empty for none
     * @param password the password; empty for none
     * @param script the application's DDL: a resource on the class path or a file
     * @param near a class of the module that has the script
     * @return the databases; none is made before it is needed
     * @throws ZabbetException if there is no such script
     */
    public static Databases beside(String url, String user, String password, String script, Class<?> near) {
        Words.notNull(url, "url", "Databases.beside");
        return of(url, user, password, SqlScript.find(script, near));
    }

    /**
     * Databases as {@link #beside} makes them, from statements that are separated by semicolons.
     *
     * @param url a JDBC URL
     * @param user the user; empty if the URL says it
     * @param password the password; empty if there is none
     * @param statements statements, separated by semicolons
     * @return the databases; none is made before it is needed
     */
    public static Databases besideSql(String url, String user, String password, String statements) {
        Words.notNull(url, "url", "Databases.besideSql");
        return of(url, user, password, SqlScript.of(statements));
    }

    private static Databases of(String url, String user, String password, SqlScript script) {
        return LocalServer.isMeantBy(url)
                ? new Databases(LocalServer.jdbcUrl(url, script), "", "", script, null)
                : new Databases(url, user, password, script, null);
    }

    /**
     * {@return the same, but connections come from what {@code opening} makes for the URL of a database: the application's
     * own pool, for example} It is called once for each stage, and whoever made it closes it.
     *
     * @param opening makes the application's kind of {@code DataSource} for a database's JDBC URL
     */
    public Databases opening(Function<? super String, ? extends DataSource> opening) {
        return new Databases(url, user, password, script, Words.notNull(opening, "opening", "Databases.opening"));
    }

    /**
     * Opens a stage on the first of the databases that no stage holds, and makes one if there is none. When the stage is
     * closed, rows and counters are as they were when it was opened.
     *
     * @return the databases; none is made before it is needed
     * @throws ZabbetException if none can be made; the message says why
     */
    public Stage stage() {
        try (Siblings siblings = Siblings.beside(url, user, password)) {
            for (int number = 1; number <= MOST; number++) {
                Stage stage = stage(siblings, number);
                if (stage != null) {
                    return stage;
                }
            }
        } catch (SQLException e) {
            throw new ZabbetException(
                    "No database can be made beside " + JdbcUrl.shown(url) + ": " + e.getMessage(), e);
        }
        throw new ZabbetException("There are " + MOST + " databases beside " + JdbcUrl.shown(url)
                + " already, and stages hold all of them. Close stages that are done.");
    }

    /** Drops all of these databases that Zabbet made and that no stage holds. */
    public void drop() {
        try (Siblings siblings = Siblings.beside(url, user, password)) {
            for (int number = MOST; number >= 0; number--) {
                if (siblings.exists(number) && state(siblings, number) != State.NOT_OURS && isFree(siblings, number)) {
                    drop(siblings, number);
                }
            }
        } catch (SQLException e) {
            throw new ZabbetException(
                    "The databases beside " + JdbcUrl.shown(url) + " cannot be dropped: " + e.getMessage(), e);
        }
    }

    private @Nullable Stage stage(Siblings siblings, int number) throws SQLException {
        if (!ready(siblings, number)) {
            return null;
        }
        String place = siblings.url(number);
        DataSource database = opening == null ? new DriverDataSource(place, user, password) : opening.apply(place);
        try {
            return open(database);
        } catch (Lease.TakenException e) {
            return null;
        } catch (ZabbetException e) {
            // For example, what a dead process left in it cannot be undone; the database is ours, so it is made again.
            if (!isFree(siblings, number)) {
                return null;
            }
            LOG.log(Level.INFO, "{0} is made again: {1}", siblings.name(number), e.getMessage());
            drop(siblings, number);
            return ready(siblings, number) ? open(database) : null;
        }
    }

    private Stage open(DataSource database) {
        return Stage.on(clock -> StoreOpening.open(database, JdbcStore.AtEnd.REWIND, script, 0));
    }

    /** Makes sure that there is such a database and that it has the right tables; false if it cannot be had. */
    private boolean ready(Siblings siblings, int number) throws SQLException {
        if (siblings.exists(number)) {
            State state = state(siblings, number);
            if (state == State.READY && !wasLeft(siblings, number)) {
                return true;
            }
            if (state == State.NOT_OURS) {
                LOG.log(
                        Level.INFO,
                        "{0} was not made by Zabbet and is left alone; the next number is taken.",
                        siblings.name(number));
                return false;
            }
            if (!isFree(siblings, number)) {
                return false;
            }
            drop(siblings, number);
        }
        boolean copy = siblings.copies() && number > 0;
        if (copy && !ready(siblings, 0)) {
            throw new ZabbetException(
                    "The database " + siblings.name(0) + ", which others would be copied from, was not"
                            + " made by Zabbet. Rename it, or name another database.");
        }
        siblings.create(number);
        try (Connection connection = connect(siblings, number)) {
            Dialect dialect = Engines.of(connection);
            if (!dialect.place(connection).inThisProcess()) {
                Dedication.dedicate(connection, dialect, siblings.name(number));
            }
            note(connection, dialect, siblings.url(number), UNFINISHED);
            if (!copy) {
                script.run(connection);
            }
            note(connection, dialect, siblings.url(number), script.fingerprint());
        } catch (SQLException | RuntimeException e) {
            drop(siblings, number);
            throw e;
        }
        return true;
    }

    private void drop(Siblings siblings, int number) throws SQLException {
        siblings.drop(number);
        IN_MEMORY.remove(siblings.url(number));
    }

    private enum State {
        READY,
        /** Made from another script, or never made to the end. */
        OUTDATED,
        NOT_OURS
    }

    private State state(Siblings siblings, int number) throws SQLException {
        String wanted = MADE_FROM + script.fingerprint();
        String known = IN_MEMORY.get(siblings.url(number));
        if (known != null) {
            return known.equals(wanted) ? State.READY : State.OUTDATED;
        }
        try (Connection connection = connect(siblings, number)) {
            Dialect dialect = Engines.of(connection);
            DatabaseIdentity place = dialect.place(connection);
            if (place.inThisProcess()) {
                return State.OUTDATED;
            }
            Set<String> notes = new HashSet<>();
            try {
                SchemaDraft.each(
                        connection,
                        "SELECT identity FROM " + dialect.markTable(),
                        rows -> notes.add(rows.getString(1)));
            } catch (SQLException e) {
                return isEmpty(connection, dialect) ? State.OUTDATED : State.NOT_OURS;
            }
            boolean marked = notes.contains(place.identity());
            if (marked && notes.contains(wanted)) {
                return State.READY;
            }
            boolean halfCopied = !marked && number > 0 && siblings.copies() && notes.contains(identity(siblings, 0));
            boolean made = marked && notes.stream().anyMatch(n -> n.startsWith(MADE_FROM));
            return halfCopied || made || isEmpty(connection, dialect) ? State.OUTDATED : State.NOT_OURS;
        }
    }

    private static boolean isEmpty(Connection connection, Dialect dialect) throws SQLException {
        return dialect.readSchema(connection).tables().isEmpty();
    }

    /** A stage that is open, or one whose process died, has its journal there. */
    private boolean wasLeft(Siblings siblings, int number) throws SQLException {
        try (Connection connection = connect(siblings, number)) {
            Dialect dialect = Engines.of(connection);
            return !dialect.place(connection).inThisProcess()
                    && dialect.journal(new Schema(List.of())).isNoting(connection);
        }
    }

    private String identity(Siblings siblings, int number) throws SQLException {
        if (!siblings.exists(number)) {
            return "";
        }
        try (Connection connection = connect(siblings, number)) {
            return Engines.of(connection).place(connection).identity();
        }
    }

    private boolean isFree(Siblings siblings, int number) {
        try (Session session = new Session(new DriverDataSource(siblings.url(number), user, password))) {
            Dialect dialect = session.call("The database cannot be opened", Engines::of);
            DatabaseIdentity place = session.call("The database cannot be opened", dialect::place);
            Lease.take(session, dialect, List.of(place), 0).close();
            return true;
        } catch (Lease.TakenException e) {
            return false;
        }
    }

    private static void note(Connection connection, Dialect dialect, String place, String madeFrom)
            throws SQLException {
        String note = MADE_FROM + madeFrom;
        if (dialect.place(connection).inThisProcess()) {
            IN_MEMORY.put(place, note);
            return;
        }
        try (Statement statement = connection.createStatement()) {
            statement.executeUpdate(
                    "DELETE FROM " + dialect.markTable() + " WHERE identity = '" + MADE_FROM + UNFINISHED + "'");
            statement.executeUpdate("INSERT INTO " + dialect.markTable() + " VALUES ('" + note + "')");
        }
    }

    private Connection connect(Siblings siblings, int number) throws SQLException {
        return new DriverDataSource(siblings.url(number), user, password).getConnection();
    }
}
