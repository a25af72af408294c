package dev.zabbet.jdbc;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Notes changes in MariaDB. What a reference's action does to other rows calls no trigger there: before a row is deleted,
 * or its key updated, the rows that will go or change with it are copied, down to the last one that follows.
 */
final class MariaDbJournal extends ShadowJournal {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");
    private static final int LOCK_WAIT_TIMEOUT = 1205;
    private static final int NULL_REFUSED = 1048;
    private static final int NO_SUCH_RIGHT = 1227;
    private static final int LONGEST_NAME = 64;

    /** What the server counts of statements that change tables; TRUNCATE and OPTIMIZE only give them other numbers. */
    private static final String COUNTED = """
            (SELECT CONCAT_WS('/', SUM(IF(VARIABLE_NAME IN ('COM_TRUNCATE', 'COM_OPTIMIZE'), 0, VARIABLE_VALUE)),
            SUM(IF(VARIABLE_NAME IN ('COM_TRUNCATE', 'COM_OPTIMIZE'), VARIABLE_VALUE, 0)),
            SUM(IF(VARIABLE_NAME = 'COM_CREATE_TRIGGER', VARIABLE_VALUE, 0)),
            SUM(IF(VARIABLE_NAME = 'COM_TRUNCATE', VARIABLE_VALUE, 0))) FROM information_schema.GLOBAL_STATUS
            WHERE VARIABLE_NAME IN ('COM_CREATE_TABLE', 'COM_ALTER_TABLE', 'COM_DROP_TABLE', 'COM_RENAME_TABLE',
            'COM_DROP_DB', 'COM_CREATE_TRIGGER', 'COM_DROP_TRIGGER', 'COM_TRUNCATE', 'COM_OPTIMIZE'))""";

    /** A journal of another version is made anew. */
    private static final String VERSION = "1";

    private final MariaDbDialect maria;
    private final MariaDbTruncations truncations;
    private final MariaDbNotes notes;
    private final boolean together; // all happens in one transaction
    private boolean joined; // what is asked now is
    private long lastNumber;
    private long lastTables = -1;
    private String columns = "";
    private String triggersMade = "";
    private String lastTriggersMade = "";
    private int unguarded;
    private @Nullable MariaDbDatabases databases;

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

    private String fingerprint(Connection connection, String counted) throws SQLException {
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

    private String columns(Connection connection) throws SQLException {
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
    String since() {
        return "zabbet_number > ?";
    }

    /** What of it is there already need not be made again. */
    @Override
    void create(Connection connection) throws SQLException {
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
                if (e.getErrorCode() == LOCK_WAIT_TIMEOUT) {
                    open.addAll(transactions(connection, databases(connection), ""));
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
            throw StillOpen.toBegin(open);
        }
    }

    /** A copy of a database brings along a journal that is of the one that it was copied from. */
    private String version(Connection connection) throws SQLException {
        return VERSION + " of " + dialect.place(connection).identity();
    }

    /** Changes of tables wait for whoever has read them in an open transaction: for a day, if nothing is said. */
    private static void withoutWaiting(Connection connection, Dialect.SqlWork work) throws SQLException {
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
    String shadow(Table table) {
        return beside(table, "zabbet_of_");
    }

    @Override
    public long settle(Connection connection) throws SQLException {
        return look(connection, -1, Telling.NOTHING).number();
    }

    @Override
    public Look here(Connection connection, boolean sequences) throws SQLException {
        if (fingerprint.isEmpty()) {
            install(connection);
        }
        return look(connection, -1, sequences ? Telling.IF_CHANGED : Telling.NOTHING);
    }

    @Override
    public Look changed(Connection connection, long after) throws SQLException {
        return look(connection, after, Telling.NOTHING);
    }

    @Override
    public Look toUndo(Connection connection, long after) throws SQLException {
        return look(connection, after, Telling.COUNTERS);
    }

    @Override
    public void joins(boolean transaction) {
        joined = transaction;
    }

    /** What is to be told of counters. */
    private enum Telling {
        NOTHING,
        IF_CHANGED,
        COUNTERS
    }

    /** All in one statement, which gives a result for each table that was touched. */
    private Look look(Connection connection, long after, Telling telling) throws SQLException {
        boolean inside = together || joined;
        boolean counters =
                telling == Telling.COUNTERS && !inside && maria.counters().isTold();
        boolean changes = telling == Telling.IF_CHANGED && !inside;
        StringBuilder sql = new StringBuilder("BEGIN NOT ATOMIC ");
        if (!inside) {
            sql.append("DECLARE n INT; SET innodb_lock_wait_timeout = 2; SELECT noting INTO n FROM ")
                    .append(notes.name("zabbet_noting"))
                    .append(" WHERE one = 1 FOR UPDATE; SET innodb_lock_wait_timeout = 5; ");
        }
        sql.append("SELECT ").append(next()).append(inside ? "" : ", " + COUNTED);
        if (changes) {
            sql.append(", EXISTS (SELECT 1 FROM " + notes.logged(lastNumber) + ")");
        }
        sql.append("; ");
        if (counters) {
            sql.append(maria.counters().telling(databases(connection))).append("; ");
        }
        if (after >= 0) {
            sql.append(notes.reading(after));
        }
        List<Event> events = new ArrayList<>();
        long[] number = {0};
        String[] counted = {""};
        boolean[] followed = {false};
        StringBuilder told = new StringBuilder();
        boolean[] changed = {false};
        try (Statement statement = connection.createStatement()) {
            boolean more = statement.execute(sql + "END");
            for (int at = 0; more || statement.getUpdateCount() != -1; more = statement.getMoreResults()) {
                if (!more) {
                    continue;
                }
                try (ResultSet rows = statement.getResultSet()) {
                    if (at == 0) {
                        rows.next();
                        number[0] = rows.getLong(1);
                        counted[0] = inside ? "" : rows.getString(2);
                        changed[0] = changes && rows.getBoolean(3);
                    } else if (at == 1 && counters) {
                        while (rows.next()) {
                            told.append(rows.getString(1)).append(MariaDbCounters.END);
                        }
                    } else {
                        while (rows.next()) {
                            followed[0] |= read(rows, events);
                        }
                    }
                }
                at++;
            }
        } catch (SQLException e) {
            if (e.getErrorCode() == LOCK_WAIT_TIMEOUT) {
                execute(connection, List.of("SET innodb_lock_wait_timeout = 5"));
                throw StillOpen.of(transactions(connection, databases(connection), "t.trx_rows_modified > 0 AND "));
            }
            if (e.getErrorCode() == NO_SUCH_RIGHT && counters) {
                maria.counters().mayNotBeTold();
                return look(connection, after, telling);
            }
            throw e;
        }
        if (!inside) {
            if (!fingerprint(connection, counted[0]).equals(fingerprint) && !fingerprint.isEmpty()) {
                throw new SchemaChanged();
            }
            truncations.settled(connection, number[0]);
            if (after >= 0) {
                truncations.requireNone(connection, after);
            }
        }
        lastNumber = telling == Telling.NOTHING ? lastNumber : number[0];
        events.sort(Comparator.comparingLong(Event::number));
        boolean complete = telling == Telling.NOTHING && followed[0];
        return new Look(
                number[0],
                complete ? new CurrentRows(dialect, connection).complete(events) : events,
                counters
                        ? Optional.of(told.toString())
                        : changes && !changed[0] ? Optional.of(MariaDbCounters.UNCHANGED) : Optional.empty());
    }

    /** Reads one image; tells whether it is of a row that followed another. */
    private boolean read(ResultSet rows, List<Event> events) throws SQLException {
        Table table = notes.table(rows.getInt(1));
        if (table == null) {
            return false; // of one that is gone
        }
        String side = rows.getString(3);
        @Nullable Object[] values = new @Nullable Object[table.columns().size()];
        for (int i = 0; i < values.length; i++) {
            values[i] = dialect.read(rows, i + 4, table.columns().get(i));
        }
        Row row = Row.of(table.columnNames(), values);
        boolean before = side.equalsIgnoreCase("b");
        events.add(new Event(rows.getLong(2), table, before ? row : null, before ? null : row));
        return side.equals("B") || side.equals("A");
    }

    private static List<String> transactions(Connection connection, MariaDbDatabases databases, String which) {
        List<String> open = new ArrayList<>();
        try {
            databases.each(
                    connection,
                    "SELECT t.trx_mysql_thread_id, COALESCE(t.trx_query, 'between two statements'), p.USER FROM"
                            + " information_schema.INNODB_TRX t JOIN information_schema.PROCESSLIST p"
                            + " ON p.ID = t.trx_mysql_thread_id WHERE " + which + "p.DB = DATABASE()"
                            + " AND t.trx_mysql_thread_id <> CONNECTION_ID()",
                    rows -> open.add(
                            "connection " + rows.getLong(1) + " of " + rows.getString(3) + ", " + rows.getString(2)));
        } catch (SQLException e) {
            open.add("another connection (the right PROCESS would tell which: " + e.getMessage() + ")");
        }
        if (open.isEmpty()) {
            open.add("of a connection that the server does not name");
        }
        return open;
    }

    /** Those of a journal that another process left. */
    @Override
    List<Table> touched(Connection connection, long after) throws SQLException {
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

    @Override
    public List<Event> noted(Connection connection, long after) throws SQLException {
        truncations.requireNone(connection, after);
        return super.noted(connection, after);
    }

    @Override
    public void takeAway(Connection connection, Table table, Collection<Event> events) throws SQLException {
        String alike = table.columns().stream()
                .map(c -> dialect.quote(c.sqlName()))
                .map(c -> "t." + c + " <=> s." + c)
                .collect(Collectors.joining(" AND "));
        for (Event event : events) {
            // Rows that are alike in every column cannot be told apart; all but one of them come back.
            try (Statement statement = connection.createStatement()) {
                aside(statement, table, List.of(event));
                String all = columns(table, "");
                statement.execute("CREATE TEMPORARY TABLE zabbet_alike AS SELECT " + columns(table, "t.") + " FROM "
                        + dialect.name(table) + " t JOIN zabbet_aside s ON " + alike);
                statement.execute("DELETE t FROM " + dialect.name(table) + " t JOIN zabbet_aside s ON " + alike);
                int copies = count(statement);
                String written = table.columns().stream()
                        .filter(c -> !c.isComputed())
                        .map(c -> dialect.quote(c.sqlName()))
                        .collect(Collectors.joining(", "));
                if (copies > 1) {
                    statement.execute("INSERT INTO " + dialect.name(table) + " (" + written + ") SELECT " + written
                            + " FROM (SELECT " + all + " FROM zabbet_alike LIMIT " + (copies - 1) + ") again");
                }
                statement.execute("DROP TEMPORARY TABLE zabbet_aside, zabbet_alike");
            }
        }
    }

    private static int count(Statement statement) throws SQLException {
        try (ResultSet row = statement.executeQuery("SELECT COUNT(*) FROM zabbet_alike")) {
            row.next();
            return row.getInt(1);
        }
    }

    /** The table's triggers write to its shadow, so that images are put aside before a statement uses them. */
    private void aside(Statement statement, Table table, Collection<Event> events) throws SQLException {
        String numbers = events.stream().map(e -> String.valueOf(e.number())).collect(Collectors.joining(", "));
        statement.execute("CREATE TEMPORARY TABLE zabbet_aside AS SELECT " + columns(table, "") + " FROM "
                + shadow(table) + " WHERE zabbet_number IN (" + numbers + ")");
    }

    @Override
    public void restore(Connection connection, Table table, Collection<Event> events) throws SQLException {
        List<String> columns = table.columns().stream()
                .filter(c -> !c.isComputed())
                .map(c -> dialect.quote(c.sqlName()))
                .toList();
        try (Statement statement = connection.createStatement()) {
            aside(statement, table, events);
            insertAside(statement, table, columns);
            statement.execute("DROP TEMPORARY TABLE zabbet_aside");
        }
    }

    /**
     * MariaDB 11.4.5, and others of its time, take the second row of such a statement to be null where the table has a trigger
     * before inserts; rows that are inserted one by one they take as they are.
     */
    private void insertAside(Statement statement, Table table, List<String> columns) throws SQLException {
        String names = String.join(", ", columns);
        String insert = "INSERT INTO " + dialect.name(table) + " (" + names + ") ";
        try {
            statement.execute(insert + "SELECT " + names + " FROM zabbet_aside");
        } catch (SQLException e) {
            if (e.getErrorCode() != NULL_REFUSED) {
                throw e;
            }
            statement.execute("BEGIN NOT ATOMIC FOR image IN (SELECT " + names + " FROM zabbet_aside) DO " + insert
                    + "VALUES (" + columns.stream().map(name -> "image." + name).collect(Collectors.joining(", "))
                    + "); END FOR; END");
        }
    }

    @Override
    public void forget(Connection connection, long after) throws SQLException {
        super.forget(connection, after);
        execute(connection, notes.forgetting(after));
        truncations.forget(after);
    }

    /** In one statement, where keys can be written into it as they are. */
    @Override
    public boolean undoAtOnce(Connection connection, Map<Table, NetEffect.Undo> undo, long after) throws SQLException {
        List<String> sql = new ArrayList<>();
        for (Map.Entry<Table, NetEffect.Undo> one : undo.entrySet()) {
            List<String> deleting = WrittenKeys.delete(dialect, one.getKey(), one.getValue().toDelete);
            if (deleting.isEmpty() || !one.getValue().toTakeAway.isEmpty()) {
                return false;
            }
            sql.addAll(deleting);
        }
        undo.forEach((table, rows) -> {
            if (!rows.toRestore.isEmpty()) {
                sql.add(notes.restoring(table, rows.toRestore));
            }
        });
        undo.keySet().forEach(table -> sql.add("DELETE FROM " + shadow(table) + " WHERE zabbet_number > " + after));
        sql.addAll(notes.forgetting(after));
        String undone = MariaDbDialect.UNCHECKED.replace("{quiet}", "1") + "; START TRANSACTION; "
                + String.join("; ", sql) + "; COMMIT; " + MariaDbDialect.CHECKED + "; ";
        try (Statement statement = connection.createStatement()) {
            try {
                statement.execute("BEGIN NOT ATOMIC " + undone + "END");
            } catch (SQLException e) {
                statement.execute("ROLLBACK");
                statement.execute(MariaDbDialect.CHECKED);
                throw e;
            }
        }
        truncations.forget(after);
        return true;
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
                if (e.getErrorCode() == LOCK_WAIT_TIMEOUT) {
                    throw StillOpen.of(transactions(connection, databases(connection), "t.trx_rows_modified > 0 AND "));
                }
                throw e;
            }
            try {
                MariaDbGuards.take(connection, databases(connection), dialect);
            } catch (SQLException e) {
                if (e.getErrorCode() != LOCK_WAIT_TIMEOUT) {
                    throw e;
                }
                LOG.log(
                        Level.WARNING,
                        "Triggers of the application keep, until the next stage, what lets them rest during a rewind: a"
                                + " transaction is open on their tables, {0}.",
                        String.join("; ", transactions(connection, databases(connection), "")));
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
                if (e.getErrorCode() == LOCK_WAIT_TIMEOUT) {
                    throw StillOpen.of(transactions(connection, databases(connection), ""));
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
}
