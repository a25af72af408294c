package dev.zabbet.jdbc;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.internal.connect.DriverDataSource;
import dev.zabbet.jdbc.internal.connect.EndingDatabases;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Session;
import dev.zabbet.jdbc.internal.engine.Engines;
import dev.zabbet.jdbc.internal.guard.Dedication;
import dev.zabbet.jdbc.internal.guard.Lease;
import dev.zabbet.jdbc.internal.script.SqlInserts;
import dev.zabbet.jdbc.internal.script.SqlScript;
import dev.zabbet.jdbc.internal.store.CallerStore;
import dev.zabbet.jdbc.internal.store.JdbcStore;
import dev.zabbet.jdbc.internal.store.ReadingStore;
import dev.zabbet.jdbc.internal.store.StoreOpening;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.Store;
import java.io.UncheckedIOException;
import java.net.MalformedURLException;
import java.net.URL;
import java.net.URLClassLoader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.Driver;
import java.sql.SQLException;
import java.util.List;
import java.util.ServiceLoader;
import java.util.UUID;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** Opens stages over databases, and reads their schemas. */
public final class Jdbc {
    private static final StackWalker CALLER = StackWalker.getInstance(StackWalker.Option.RETAIN_CLASS_REFERENCE);

    private Jdbc() {}

    /**
     * Opens a stage on a new H2 database in this process's memory, after running the application's DDL there. The
     * database ends with the stage. Needs H2's driver on the class path.
     *
     * @param script a resource on the class path, such as {@code "/db/huts.sql"}, or a file
     * @return the stage, to be closed by the caller
     * @throws ZabbetException if the script is not found or a statement fails; the message gives file, line, statement
     *     and the database's reason
     */
    public static Stage embedded(String script) {
        Words.notNull(script, "script", "Jdbc.embedded");
        return embedded(SqlScript.find(script, CALLER.getCallerClass()));
    }

    /**
     * Opens a stage as {@link #embedded(String)} does, with a script that stands beside a class; for modules, whose
     * resources only their own classes see.
     *
     * @param script a resource on the class path, or a file
     * @param near a class of the module that has the script
     * @return the stage, to be closed by the caller
     */
    public static Stage embedded(String script, Class<?> near) {
        Words.notNull(script, "script", "Jdbc.embedded");
        return embedded(SqlScript.find(script, Words.notNull(near, "near", "Jdbc.embedded")));
    }

    /**
     * Opens a stage as {@link #embedded(String)} does, with statements that are given as they are.
     *
     * @param statements SQL statements, separated by semicolons
     * @return the stage, to be closed by the caller
     */
    public static Stage embeddedSql(String statements) {
        return embedded(SqlScript.of(Words.notNull(statements, "statements", "Jdbc.embeddedSql")));
    }

    /**
     * Opens a stage on PostgreSQL with nothing installed: a {@link LocalServer}, on a database of its own whose tables a script makes.
     * The second stage of a script takes milliseconds. Needs PostgreSQL's driver on the class path, and the jar with its programs.
     *
     * @param script a resource on the class path, such as {@code "/db/huts.sql"}, or a file
     * @return the stage, to be closed by the caller
     * @throws ZabbetException if the script is not found or a statement fails, or as {@link LocalServer#postgres()}
     */
    public static Stage postgres(String script) {
        Words.notNull(script, "script", "Jdbc.postgres");
        return Databases.beside("postgres:", "", "", script, CALLER.getCallerClass())
                .stage();
    }

    /**
     * Opens a stage on MariaDB with nothing installed, as {@link #postgres} does on PostgreSQL.
     *
     * @param script a resource on the class path, or a file
     * @return the stage, to be closed by the caller
     */
    public static Stage mariadb(String script) {
        Words.notNull(script, "script", "Jdbc.mariadb");
        return Databases.beside("mariadb:", "", "", script, CALLER.getCallerClass())
                .stage();
    }

    /**
     * Runs a script on a database that is dedicated to tests.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @param script a resource on the class path, or a file
     * @param near a class of the module that has the script
     * @throws ZabbetException if the database is not dedicated, the script is not found or a statement fails
     */
    public static void run(DataSource dataSource, String script, Class<?> near) {
        run(dataSource, SqlScript.find(script, near));
    }

    /**
     * Runs statements, separated by semicolons, on a database that is dedicated to tests; as {@link #run}.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @param statements statements, separated by semicolons
     */
    public static void runSql(DataSource dataSource, String statements) {
        run(dataSource, SqlScript.of(statements));
    }

    private static void run(DataSource dataSource, SqlScript sql) {
        try (Session session = new Session(dataSource)) {
            session.run("The script cannot be run", connection -> {
                Dialect dialect = Engines.of(connection);
                Dedication.require(connection, dialect, dialect.place(connection), dialect.readSchema(connection));
                sql.run(connection);
            });
        }
    }

    private static Stage embedded(SqlScript sql) {
        String url = "jdbc:h2:mem:stage_" + UUID.randomUUID().toString().substring(0, 8) + ";DB_CLOSE_DELAY=-1";
        DriverDataSource database = new DriverDataSource(url, "sa", "");
        try {
            try (Connection connection = database.getConnection()) {
                sql.run(connection);
            } catch (RuntimeException e) {
                shutDown(database, e);
                throw e;
            }
            return Stage.on(clock -> StoreOpening.open(database, JdbcStore.AtEnd.END, sql));
        } catch (SQLException e) {
            throw new ZabbetException("An embedded H2 database cannot be opened: " + e.getMessage(), e);
        }
    }

    /**
     * Opens a stage on a database. Closing the stage leaves the database as it is.
     *
     * <p>The stage keeps one connection for itself, and gives it back as it was; a pool needs two at least. It reads the tables
     * now, and again where it notices that the application has changed them.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @return the stage, to be closed by the caller
     * @throws ZabbetException if the database cannot be read, or is not meant for tests; nothing is written then
     */
    public static Stage stage(DataSource dataSource) {
        Words.notNull(dataSource, "dataSource", "Jdbc.stage");
        return Stage.on(clock -> StoreOpening.open(dataSource, JdbcStore.AtEnd.KEEP, null));
    }

    /**
     * Opens a stage that only reads a database, whether or not it is dedicated to tests: to expect what is stored, and to validate
     * seeds.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @return the stage, to be closed by the caller
     * @throws ZabbetException if the database cannot be read
     */
    public static Stage reading(DataSource dataSource) {
        Words.notNull(dataSource, "dataSource", "Jdbc.reading");
        return Stage.on(clock -> ReadingStore.open(dataSource));
    }

    /**
     * Opens a stage in one transaction, which is rolled back when the stage is closed: for a database that nothing may
     * ever be committed to. It has to be dedicated to tests nevertheless. Limits:
     *
     * <ul>
     *   <li>The code under test has to take its connections from {@link Stage#dataSource()}; all of them are the same one.
     *       Other connections see nothing, and of these one at a time can have a transaction open.
     *   <li>A commit of the code under test ends nothing: what is checked or done only at the end of a transaction is not,
     *       but for deferred constraints on PostgreSQL. Isolation and read-only settings are left as they are.
     *   <li>Changes are found by comparing all rows, which takes as long as there are rows.
     *   <li>Numbers that a sequence (or MariaDB's counter) gave are not given again.
     *   <li>On MariaDB a statement that changes tables commits all; the stage says so at the next rewind. H2 is refused.
     *   <li>On SQLite deferred references are not checked.
     * </ul>
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @return the stage, to be closed by the caller
     * @throws ZabbetException as {@link #stage(DataSource)}, and on H2
     */
    public static Stage stageInTransaction(DataSource dataSource) {
        Words.notNull(dataSource, "dataSource", "Jdbc.stageInTransaction");
        return Stage.on(clock -> {
            try {
                return StoreOpening.inTransaction(dataSource);
            } catch (SQLException e) {
                throw new ZabbetException("The database cannot be opened: " + e.getMessage(), e);
            }
        });
    }

    /**
     * Opens a stage on a database whose tables a script makes. Where there is no table yet, the database is dedicated to
     * tests and the script is run. Since the stage knows the script, it can make the tables again when a test changed
     * them, as long as they held at most 20,000 rows.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @param script a resource on the class path, or a file
     * @param near a class of the module that has the script
     * @return the stage, to be closed by the caller
     * @throws ZabbetException as {@link #stage(DataSource)}, or if the script is not found or a statement fails
     */
    public static Stage stage(DataSource dataSource, String script, Class<?> near) {
        Words.notNull(dataSource, "dataSource", "Jdbc.stage");
        return stage(dataSource, SqlScript.find(Words.notNull(script, "script", "Jdbc.stage"), near));
    }

    /**
     * Opens a stage as {@link #stage(DataSource, String, Class)} does, with statements that are given as they are.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @param statements statements, separated by semicolons
     * @return the stage, to be closed by the caller
     */
    public static Stage stageSql(DataSource dataSource, String statements) {
        Words.notNull(dataSource, "dataSource", "Jdbc.stageSql");
        return stage(dataSource, SqlScript.of(Words.notNull(statements, "statements", "Jdbc.stageSql")));
    }

    @SuppressWarnings("try") // it is there to be there
    private static Stage stage(DataSource dataSource, SqlScript script) {
        // between two connections a database in memory may come to its end
        try (EndingDatabases.Alive alive = EndingDatabases.keptAlive(dataSource)) {
            if (schema(dataSource).tables().isEmpty()) {
                makeTables(dataSource, script);
            }
            return Stage.on(clock -> StoreOpening.open(dataSource, JdbcStore.AtEnd.KEEP, script));
        } catch (SQLException e) {
            throw new ZabbetException("The database cannot be opened: " + e.getMessage(), e);
        }
    }

    /** Runs the script, unless another process that was about to open a stage was faster. */
    private static void makeTables(DataSource dataSource, SqlScript script) {
        try (Session session = new Session(dataSource)) {
            Dialect dialect = session.call("The database cannot be opened", Engines::of);
            session.speaks(dialect);
            DatabaseIdentity place = session.call("The database cannot be opened", dialect::place);
            Lease lease = Lease.take(session, dialect, List.of(place));
            try {
                if (schema(dataSource).tables().isEmpty()) {
                    dedicate(dataSource);
                    run(dataSource, script);
                }
            } finally {
                lease.close();
            }
        }
    }

    /**
     * Writes rows as SQL statements that store them: inserts, then what fills circles of references, then what moves the
     * counters past their keys. They are meant for the very kind of database that the stage is on.
     *
     * @param stage the stage
     * @param rows from {@code stage.planned(…)}
     * @param to where the statements are written
     * @throws ZabbetException if the stage is not on a database, or {@code to} cannot be written
     */
    public static void writeInserts(Stage stage, Load rows, Appendable to) {
        Store behind = stage.store() instanceof CallerStore caller ? caller.outside() : stage.store();
        if (!(behind instanceof SqlInserts.Writable store)) {
            throw new ZabbetException("Rows are written as SQL for a database, and this stage's rows live in "
                    + stage.store().description() + ".");
        }
        try {
            store.writeInserts(rows, to);
        } catch (UncheckedIOException e) {
            throw new ZabbetException("The statements cannot be written: " + e.getCause(), e);
        }
    }

    /**
     * Deletes all rows of some tables of a stage's database, all or none, and lets their counters begin again. A sequence of
     * which others may keep numbers (one in longer steps) goes on from where it is.
     *
     * @param stage the stage
     * @param tables the tables
     * @param mayLose the database's name, if it may be emptied although it holds many rows (1,000) more than stages left
     *     there: then it was dedicated empty, and is used for something else by now; null otherwise
     * @throws ZabbetException if rows of other tables refer to them, if the database holds many rows of others and is not
     *     named, or if the stage is not on a database
     */
    public static void clear(Stage stage, List<Table> tables, @Nullable String mayLose) {
        Words.notNull(stage, "stage", "Jdbc.clear");
        Words.notNull(tables, "tables", "Jdbc.clear");
        Store behind = stage.store() instanceof CallerStore caller ? caller.outside() : stage.store();
        if (!(behind instanceof JdbcStore store)) {
            throw new ZabbetException("Jdbc.clear empties a database, and this stage's rows live in "
                    + stage.store().description() + ".");
        }
        store.clear(tables, mayLose);
    }

    /**
     * Marks a database as meant for tests, so that stages can be opened on it. Does nothing if it is marked already.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @return what has been dedicated
     * @throws ZabbetException if it holds rows, which might be somebody's, or is named like a database in use (prod,
     *     live); the message names the command that dedicates it nevertheless
     */
    public static Dedicated dedicate(DataSource dataSource) {
        return dedicate(dataSource, null);
    }

    /**
     * Marks a database as meant for tests, whether or not it is empty. All that it holds may be lost then.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @param mayLose the name of the database, of a file its last part, as a proof that the right one is meant; null if
     *     it has to be empty
     * @return what has been dedicated
     * @throws ZabbetException if it holds rows and has another name, or the mark cannot be written
     */
    public static Dedicated dedicate(DataSource dataSource, @Nullable String mayLose) {
        Words.notNull(dataSource, "dataSource", "Jdbc.dedicate");
        try (Session session = new Session(dataSource)) {
            DatabaseIdentity place = session.call(
                    "The database cannot be dedicated",
                    connection -> Dedication.dedicate(connection, Engines.of(connection), mayLose));
            return new Dedicated(place.describe());
        }
    }

    /**
     * Takes all that Zabbet keeps in a database out of it: the mark, the journal with its triggers, and labels. Rows stay.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @return the database that was dedicated to tests, and is no longer
     * @throws ZabbetException if it is not dedicated, a stage is open on it, or a transaction keeps triggers from being dropped
     */
    public static Dedicated undedicate(DataSource dataSource) {
        Words.notNull(dataSource, "dataSource", "Jdbc.undedicate");
        try (JdbcStore store = StoreOpening.open(dataSource, JdbcStore.AtEnd.KEEP, null)) {
            return new Dedicated(store.undedicate().describe());
        }
    }

    /**
     * {@return whether {@link #dedicate(DataSource, String)} would mark a database, and writes nothing}
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @param mayLose the database's name, typed by a person: what it holds may be lost
     * @throws ZabbetException if it would not
     */
    public static Dedicated mayDedicate(DataSource dataSource, @Nullable String mayLose) {
        Words.notNull(dataSource, "dataSource", "Jdbc.mayDedicate");
        try (Session session = new Session(dataSource)) {
            DatabaseIdentity place = session.call(
                    "The database cannot be looked at",
                    connection -> Dedication.requireMayDedicate(connection, Engines.of(connection), mayLose));
            return new Dedicated(place.describe());
        }
    }

    /**
     * Reads the tables of a database; nothing is written.
     *
     * @param dataSource the database; connections are taken from it as they are needed
     * @return the tables
     * @throws ZabbetException if the database cannot be read
     */
    public static Schema schema(DataSource dataSource) {
        Words.notNull(dataSource, "dataSource", "Jdbc.schema");
        try (Session session = new Session(dataSource)) {
            return session.call("The schema cannot be read", connection -> Engines.of(connection)
                    .readSchema(connection));
        }
    }

    /**
     * {@return a source of connections for a URL, through the driver that takes it} An H2 database in memory stays while this
     * process lives, as with {@code DB_CLOSE_DELAY=-1}, unless the URL sets that itself.
     *
     * @param url a JDBC URL; or {@code postgres:} or {@code mariadb:} for a {@link LocalServer}
     * @param user the user; empty for none
     * @param password the password; empty for none
     * @throws ZabbetException for an H2 database in memory without a name
     */
    public static DataSource dataSource(String url, String user, String password) {
        if (LocalServer.isMeantBy(url)) {
            return new DriverDataSource(LocalServer.jdbcUrl(url), "", "");
        }
        EndingDatabases.requireName(url);
        return new DriverDataSource(url, user, password);
    }

    /**
     * {@return a source of connections for a URL, through the driver in a jar, be there another on the class path or not}
     *
     * @param url a JDBC URL
     * @param user the user; empty if the URL says it
     * @param password the password; empty if there is none
     * @param driver the jar
     * @throws ZabbetException if there is no driver in it
     */
    public static DataSource dataSource(String url, String user, String password, Path driver) {
        if (!Files.isRegularFile(driver)) {
            throw new ZabbetException("There is no file " + driver + " to take a driver from.");
        }
        try {
            URL[] jar = {driver.toUri().toURL()};
            // stays open as long as the process: connections come from it at any time
            @SuppressWarnings("resource")
            URLClassLoader loader = new URLClassLoader(jar, ClassLoader.getPlatformClassLoader());
            Driver found = ServiceLoader.load(Driver.class, loader)
                    .findFirst()
                    .orElseThrow(() -> new ZabbetException("There is no JDBC driver in " + driver + "."));
            return new DriverDataSource(url, user, password, found);
        } catch (MalformedURLException e) {
            throw new ZabbetException("The driver " + driver + " cannot be read: " + e, e);
        }
    }

    private static void shutDown(DataSource database, RuntimeException reason) {
        try (Connection connection = database.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("SHUTDOWN");
        } catch (SQLException e) {
            reason.addSuppressed(e);
        }
    }
}
