package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.NetEffect;
import dev.zabbet.jdbc.internal.dialect.NotedMeanwhileException;
import dev.zabbet.jdbc.internal.dialect.OpenTransactions;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.jdbc.internal.track.ShadowJournal;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Notes changes in MariaDB. What a reference's action does to other rows calls no trigger there: before a row is deleted,
 * or its key updated, the rows that will go or change with it are copied, down to the last one that follows.
 */
final class MariaDbJournal extends ShadowJournal {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");
    static final int NO_SUCH_RIGHT = 1227;
    private static final int LONGEST_NAME = 64;

    /** What the server counts of statements that change tables; TRUNCATE and OPTIMIZE only give them other numbers. */
    static final String COUNTED = """
            (SELECT CONCAT_WS('/', SUM(IF(VARIABLE_NAME IN ('COM_TRUNCATE', 'COM_OPTIMIZE'), 0, VARIABLE_VALUE)),
            SUM(IF(VARIABLE_NAME IN ('COM_TRUNCATE', 'COM_OPTIMIZE'), VARIABLE_VALUE, 0)),
            SUM(IF(VARIABLE_NAME = 'COM_CREATE_TRIGGER', VARIABLE_VALUE, 0)),
            SUM(IF(VARIABLE_NAME = 'COM_TRUNCATE', VARIABLE_VALUE, 0))) FROM information_schema.GLOBAL_STATUS
            WHERE VARIABLE_NAME IN ('COM_CREATE_TABLE', 'COM_ALTER_TABLE', 'COM_DROP_TABLE', 'COM_RENAME_TABLE',
            'COM_DROP_DB', 'COM_CREATE_TRIGGER', 'COM_DROP_TRIGGER', 'COM_TRUNCATE', 'COM_OPTIMIZE'))""";

    /** A journal of another version is replaced. */
    private static final String VERSION = "1";

    private final MariaDbLook looking = new MariaDbLook(this);
    private final MariaDbUndo undoing = new MariaDbUndo(this);
    final MariaDbDialect maria;
    final MariaDbTruncations truncations;
    final MariaDbNotes notes;
    final boolean together; // all happens in one transaction
    boolean joined; // what is asked now is
    long lastNumber;
    private long lastTables = -1;
    String columns = "";
    private String triggersMade = "";
    private String lastTriggersMade = "";
    private int unguarded;

    @Nullable
    MariaDbDatabases databases;

    MariaDbJournal(MariaDbDialect dialect, Schema schema, boolean together) {
        super(dialect, schema);
        this.maria = dialect;
        this.together = together;
        this.truncations = new MariaDbTruncations(this);
        this.notes = new MariaDbNotes(this, schema);
    }

    MariaDbDatabases databases(Connection connection) throws SQLException {
        MariaDbDatabases known = databases;
        if (known == null) {
            known = MariaDbDatabases.of(connection, schema);
            databases = known;
        }
        return known;
    }

    /**
     * The server's counts of statements that change tables are cheap to ask for; only when they have moved (by tables of
     * other databases, too) are the columns themselves looked at.
     */
    @Override
    public String fingerprint(Connection connection) throws SQLException {
        return fingerprint(
                connection, SchemaDraft.texts(connection, "SELECT " + COUNTED).get(0));
    }

    String fingerprint(Connection connection, String counted) throws SQLException {
        String[] counts = counted.split("/");
        long tables = Long.parseLong(counts[0]) - maria.counters().altered(); // not by ourselves
        truncations.look(connection, tables + "/" + counts[1], counts[3]);
        if (tables != lastTables) {
            columns = MariaDbCatalog.of(connection)
                    .get("columns of " + databases(connection).names(), String.class, this::columns, connection);
            lastTables = tables;
        }
        triggersMade = counts[2];
        if (!triggersMade.equals(lastTriggersMade)) { // a new one of the application's counts as a change
            unguarded = MariaDbGuards.missing(connection, databases(connection));
            lastTriggersMade = triggersMade;
        }
        return columns + unguarded;
    }

    String columns(Connection connection) throws SQLException {
        StringBuilder found = new StringBuilder();
        databases(connection)
                .each(
                        connection,
                        "SELECT COUNT(*), SUM(CRC32(CONCAT_WS('.', TABLE_NAME, COLUMN_NAME, COLUMN_TYPE, IS_NULLABLE)))"
                                + " FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE()"
                                + " AND TABLE_NAME NOT LIKE 'zabbet\\_%'",
                        rows -> found.append(rows.getString(1) + "/" + rows.getString(2) + "/"));
        return found.toString();
    }

    @Override
    public String since() {
        return "zabbet_number > ?";
    }

    /** What of it is there already need not be made again. */
    @Override
    public void create(Connection connection) throws SQLException {
        List<String> open = new ArrayList<>();
        String version = version(connection);
        boolean there = notes.areThere(connection, version);
        withoutWaiting(connection, () -> {
            try {
                if (!there) {
                    dropAll(connection);
                    notes.make(connection, version);
                }
                MariaDbGuards.put(connection, databases(connection), dialect);
                notes.watch(connection, untransacted(connection));
                notes.begin(connection, together);
            } catch (SQLException e) {
                if (e.getErrorCode() == MariaDbLook.LOCK_WAIT_TIMEOUT) {
                    open.addAll(MariaDbLook.transactions(connection, databases(connection), ""));
                }
                try {
                    if (!there) {
                        remove(connection); // a user may have some of the rights, and not all
                    }
                } catch (SQLException left) {
                    e.addSuppressed(left);
                }
                if (!open.isEmpty()) {
                    return;
                }
                throw e;
            }
        });
        if (!open.isEmpty()) {
            throw OpenTransactions.toBegin(open);
        }
    }

    /** A copy of a database brings along a journal that is of the one that it was copied from. */
    private String version(Connection connection) throws SQLException {
        return VERSION + " of " + dialect.place(connection).identity();
    }

    /** Changes of tables wait for whoever has read them in an open transaction: for a day, if nothing is said. */
    private static void withoutWaiting(Connection connection, Transactions.SqlWork work) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            String patience =
                    SchemaDraft.texts(connection, "SELECT @@lock_wait_timeout").get(0);
            statement.execute("SET lock_wait_timeout = 2");
            try {
                work.run();
            } finally {
                statement.execute("SET lock_wait_timeout = " + patience);
            }
        }
    }

    /** Rows of a table that knows no transactions stay when one is rolled back: so do those of its shadow, then. */
    private Map<String, String> untransacted(Connection connection) throws SQLException {
        return MariaDbCatalog.of(connection)
                .get("engines of " + databases(connection).names(), Engines.class, this::engines, connection)
                .byPlace();
    }

    private record Engines(Map<String, String> byPlace) {}

    private Engines engines(Connection connection) throws SQLException {
        Map<String, String> engines = new HashMap<>();
        databases(connection)
                .each(
                        connection,
                        "SELECT TABLE_SCHEMA, TABLE_NAME, ENGINE FROM information_schema.TABLES WHERE TABLE_SCHEMA ="
                                + " DATABASE() AND ENGINE IN ('Aria', 'MyISAM', 'MEMORY')",
                        rows -> engines.put(
                                rows.getString(1) + "/" + rows.getString(2),
                                rows.getString(3).equals("Aria") ? "Aria TRANSACTIONAL = 0" : "MyISAM"));
        return new Engines(engines);
    }

    /** What stands before the names of our own tables, for triggers in other databases too. */
    String home() {
        return databases == null ? "" : dialect.quote(databases.home()) + ".";
    }

    /** Returns the statement that says that a table was touched. */
    String logged(Table table) {
        return notes.logged(table);
    }

    /** Returns the next number, for triggers in other databases too. */
    String next() {
        return "NEXT VALUE FOR " + home() + "zabbet_numbers";
    }

    /** Returns the name of something that belongs to a table, in its database; names have 64 characters at most. */
    String beside(Table table, String prefix) {
        String name = prefix + table.sqlName();
        if (name.length() > LONGEST_NAME) {
            String hash = Integer.toHexString(name.hashCode());
            name = name.substring(0, LONGEST_NAME - hash.length()) + hash;
        }
        return dialect.quote(table.sqlSchema()) + "." + dialect.quote(name);
    }

    @Override
    public String shadow(Table table) {
        return beside(table, "zabbet_of_");
    }

    @Override
    public long settle(Connection connection) throws SQLException {
        return look(connection, -1, MariaDbLook.Telling.NOTHING).number();
    }

    @Override
    public Look here(Connection connection, boolean sequences) throws SQLException {
        if (fingerprint.isEmpty()) {
            install(connection);
        }
        return look(connection, -1, sequences ? MariaDbLook.Telling.IF_CHANGED : MariaDbLook.Telling.NOTHING);
    }

    @Override
    public Look changed(Connection connection, long after) throws SQLException {
        return look(connection, after, MariaDbLook.Telling.NOTHING);
    }

    @Override
    public Look toUndo(Connection connection, long after) throws SQLException {
        return look(connection, after, MariaDbLook.Telling.COUNTERS);
    }

    @Override
    public void joins(boolean transaction) {
        joined = transaction;
    }

    @Override
    public List<Event> noted(Connection connection, long after) throws SQLException {
        truncations.requireNone(connection, after);
        return super.noted(connection, after);
    }

    @Override
    public void forget(Connection connection, Stretch stretch) throws SQLException {
        if (stretch.seen().isPresent()
                && !SchemaDraft.texts(
                                connection,
                                "SELECT 1 FROM " + notes.logged(stretch.seen().getAsLong()) + " LIMIT 1")
                        .isEmpty()) {
            throw new NotedMeanwhileException();
        }
        forget(connection, stretch.after(), upTo(stretch, "zabbet_number"));
        execute(connection, notes.forgetting(stretch));
        truncations.forget(stretch.after());
    }

    /** Returns the condition that keeps what was noted later. */
    static String upTo(Stretch stretch, String number) {
        return stretch.seen().isPresent()
                ? " AND " + number + " <= " + stretch.seen().getAsLong()
                : "";
    }

    /** Numbers of transactions that are still open are not after it. */
    @Override
    public String end(Connection connection) throws SQLException {
        return SchemaDraft.texts(connection, "SELECT " + next()).get(0);
    }

    @Override
    public boolean isNoting(Connection connection) throws SQLException {
        return notes.isNoting(connection, version(connection));
    }

    @Override
    public void rest(Connection connection) throws SQLException {
        fingerprint = "";
        withoutWaiting(connection, () -> {
            try {
                notes.rest(connection);
            } catch (SQLException e) {
                if (e.getErrorCode() == MariaDbLook.LOCK_WAIT_TIMEOUT) {
                    throw OpenTransactions.of(MariaDbLook.transactions(
                            connection, databases(connection), "t.trx_rows_modified > 0 AND "));
                }
                throw e;
            }
            try {
                MariaDbGuards.take(connection, databases(connection), dialect);
            } catch (SQLException e) {
                if (e.getErrorCode() != MariaDbLook.LOCK_WAIT_TIMEOUT) {
                    throw e;
                }
                LOG.log(
                        Level.WARNING,
                        "Triggers of the application keep, until the next stage, what lets them rest during a rewind: a"
                                + " transaction is open on their tables, {0}.",
                        String.join("; ", MariaDbLook.transactions(connection, databases(connection), "")));
            }
        });
    }

    @Override
    public void remove(Connection connection) throws SQLException {
        fingerprint = "";
        withoutWaiting(connection, () -> {
            try {
                dropAll(connection);
                MariaDbGuards.take(connection, databases(connection), dialect);
            } catch (SQLException e) {
                if (e.getErrorCode() == MariaDbLook.LOCK_WAIT_TIMEOUT) {
                    throw OpenTransactions.of(MariaDbLook.transactions(connection, databases(connection), ""));
                }
                throw e;
            }
        });
    }

    private void dropAll(Connection connection) throws SQLException {
        List<String> sql = new ArrayList<>();
        MariaDbDatabases all = databases(connection);
        all.each(
                connection,
                "SELECT TRIGGER_NAME, TRIGGER_SCHEMA FROM information_schema.TRIGGERS WHERE TRIGGER_SCHEMA = DATABASE()"
                        + " AND TRIGGER_NAME LIKE 'zabbet\\_%'",
                rows -> sql.add(
                        "DROP TRIGGER " + dialect.quote(rows.getString(2)) + "." + dialect.quote(rows.getString(1))));
        all.each(
                connection,
                "SELECT TABLE_NAME, TABLE_TYPE, TABLE_SCHEMA FROM information_schema.TABLES WHERE TABLE_SCHEMA ="
                        + " DATABASE() AND (TABLE_NAME IN ('zabbet_numbers', 'zabbet_left', 'zabbet_noting', 'zabbet_log', 'zabbet_kept',"
                        + " 'zabbet_tables') OR TABLE_NAME LIKE 'zabbet\\_of\\_%')",
                rows -> sql.add((rows.getString(2).equals("SEQUENCE") ? "DROP SEQUENCE " : "DROP TABLE ")
                        + dialect.quote(rows.getString(3)) + "." + dialect.quote(rows.getString(1))));
        execute(connection, sql);
    }

    @Override
    public void takeAway(Connection connection, Table table, Collection<Event> events) throws SQLException {
        undoing.takeAway(connection, table, events);
    }

    @Override
    public void restore(Connection connection, Table table, Collection<Event> events) throws SQLException {
        undoing.restore(connection, table, events);
    }

    /** In one statement, where keys can be written into it as they are. */
    @Override
    public boolean undoAtOnce(Connection connection, Map<Table, NetEffect.Undo> undo, Stretch stretch)
            throws SQLException {
        return undoing.undoAtOnce(connection, undo, stretch);
    }

    /** All in one statement, which gives a result for each table that was touched. */
    private Look look(Connection connection, long after, MariaDbLook.Telling telling) throws SQLException {
        return looking.look(connection, after, telling);
    }

    /** Those of a journal that another process left. */
    @Override
    public List<Table> touched(Connection connection, long after) throws SQLException {
        notes.know(connection);
        Set<Table> touched = new LinkedHashSet<>();
        SchemaDraft.each(connection, "SELECT DISTINCT l.tab FROM " + notes.logged(after), rows -> {
            Table table = notes.table(rows.getInt(1));
            if (table != null) {
                touched.add(table);
            }
        });
        return schema.tables().stream().filter(touched::contains).toList();
    }
}
