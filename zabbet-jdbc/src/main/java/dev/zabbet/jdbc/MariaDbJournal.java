package dev.zabbet.jdbc;

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
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/**
 * Notes changes in MariaDB. What a reference's action does to other rows calls no trigger there: before a row is deleted,
 * or its key updated, the rows that will go or change with it are copied, down to the last one that follows.
 */
final class MariaDbJournal extends ShadowJournal {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");
    private static final int LOCK_WAIT_TIMEOUT = 1205;
    private static final int LONGEST_NAME = 64;
    private static final String COUNTS = "SHOW GLOBAL STATUS WHERE Variable_name IN ('Com_create_table',"
            + " 'Com_alter_table', 'Com_drop_table', 'Com_rename_table', 'Com_drop_db', 'Com_create_trigger',"
            + " 'Com_drop_trigger', 'Com_truncate', 'Com_optimize')";

    private final MariaDbTruncations truncations;
    private long lastSettled;
    private long settledBefore;

    /** Which shadows had images when a position was settled, since the one before the last. */
    private final NavigableMap<Long, Set<Table>> seen = new TreeMap<>();

    private String lastCounts = "";
    private String columns = "";
    private String triggersMade = "";
    private String lastTriggersMade = "";
    private int unguarded;
    private boolean counted; // just now
    private @Nullable MariaDbDatabases databases;

    MariaDbJournal(MariaDbDialect dialect, Schema schema) {
        super(dialect, schema);
        this.truncations = new MariaDbTruncations(this);
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
     * other databases, too, and by our own) are the columns themselves looked at.
     */
    @Override
    public String fingerprint(Connection connection) throws SQLException {
        String counts = counts(connection);
        counted = true;
        if (!counts.equals(lastCounts)) {
            StringBuilder found = new StringBuilder();
            databases(connection)
                    .each(
                            connection,
                            "SELECT COUNT(*), SUM(CRC32(CONCAT_WS('.', TABLE_NAME, COLUMN_NAME, COLUMN_TYPE, IS_NULLABLE)))"
                                    + " FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE()"
                                    + " AND TABLE_NAME NOT LIKE 'zabbet\\_%'",
                            rows -> found.append(rows.getString(1) + "/" + rows.getString(2) + "/"));
            columns = found.toString();
            lastCounts = counts;
        }
        if (!triggersMade.equals(lastTriggersMade)) { // a new one of the application's counts as a change
            unguarded = MariaDbGuards.missing(connection, databases(connection));
            lastTriggersMade = triggersMade;
        }
        return columns + unguarded;
    }

    /** Reads the numbers of the tables too, if a statement has been counted that changes them: they cost a look at all. */
    private String counts(Connection connection) throws SQLException {
        StringBuilder tables = new StringBuilder();
        StringBuilder all = new StringBuilder();
        String[] truncated = {""};
        SchemaDraft.each(connection, COUNTS, rows -> {
            String count = rows.getString(2) + "/";
            all.append(count);
            boolean columns = !rows.getString(1).equals("Com_truncate")
                    && !rows.getString(1).equals("Com_optimize");
            tables.append(columns ? count : "");
            triggersMade = rows.getString(1).equals("Com_create_trigger") ? count : triggersMade;
            truncated[0] = rows.getString(1).equals("Com_truncate") ? count : truncated[0];
        });
        truncations.look(connection, all.toString(), truncated[0]);
        return tables.toString();
    }

    @Override
    String since() {
        return "zabbet_number > ?";
    }

    @Override
    void create(Connection connection) throws SQLException {
        List<String> open = new ArrayList<>();
        withoutWaiting(connection, () -> {
            try {
                dropAll(connection);
                MariaDbGuards.put(connection, databases(connection), dialect);
                createAll(connection);
            } catch (SQLException e) {
                if (e.getErrorCode() == LOCK_WAIT_TIMEOUT) {
                    open.addAll(transactions(connection, databases(connection), ""));
                }
                try {
                    remove(connection); // a user may have some of the rights, and not all
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

    private void createAll(Connection connection) throws SQLException {
        List<String> sql = new ArrayList<>();
        sql.add("CREATE SEQUENCE " + numbers() + " CACHE 1000");
        Map<String, String> engines = untransacted(connection);
        for (Table table : schema.tables()) {
            String engine = engines.getOrDefault(table.sqlSchema() + "/" + table.sqlName(), "InnoDB");
            sql.add("CREATE TABLE " + shadow(table) + " (PRIMARY KEY (zabbet_number)) ENGINE = " + engine + " AS"
                    + " SELECT CAST(0 AS UNSIGNED) AS zabbet_number, 'b' AS zabbet_side, " + columns(table, "")
                    + " FROM "
                    + dialect.name(table) + " WHERE FALSE");
        }
        for (Table table : schema.tables()) {
            triggers(table, sql);
        }
        execute(connection, sql);
    }

    /** Rows of a table that knows no transactions stay when one is rolled back: so do those of its shadow, then. */
    private Map<String, String> untransacted(Connection connection) throws SQLException {
        Map<String, String> engines = new HashMap<>();
        databases(connection)
                .each(
                        connection,
                        "SELECT TABLE_SCHEMA, TABLE_NAME, ENGINE FROM information_schema.TABLES WHERE TABLE_SCHEMA ="
                                + " DATABASE() AND ENGINE IN ('Aria', 'MyISAM', 'MEMORY')",
                        rows -> engines.put(
                                rows.getString(1) + "/" + rows.getString(2),
                                rows.getString(3).equals("Aria") ? "Aria TRANSACTIONAL = 0" : "MyISAM"));
        return engines;
    }

    private void triggers(Table table, List<String> sql) {
        MariaDbFollowers followers = new MariaDbFollowers(schema, this);
        String after = into(table) + " VALUES (" + next() + ", 'a', " + columns(table, "NEW.") + ");";
        String before = into(table) + " VALUES (" + next() + ", 'b', " + columns(table, "OLD.") + ");";
        sql.add(trigger(table, "i", "AFTER INSERT", after));
        sql.add(trigger(table, "u", "BEFORE UPDATE", before + followers.of(table, true)));
        sql.add(trigger(table, "v", "AFTER UPDATE", after));
        sql.add(trigger(table, "d", "BEFORE DELETE", before + followers.of(table, false)));
    }

    private String numbers() {
        String home = databases == null ? "" : dialect.quote(databases.home()) + ".";
        return home + "zabbet_numbers";
    }

    /** Returns the next number, for triggers in other databases too. */
    String next() {
        return "NEXT VALUE FOR " + numbers();
    }

    /** Returns the name of something that belongs to a table, in its database; names have 64 characters at most. */
    private String beside(Table table, String prefix) {
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

    private String into(Table table) {
        return "INSERT INTO " + shadow(table) + " (zabbet_number, zabbet_side, " + columns(table, "") + ")";
    }

    private String trigger(Table table, String kind, String when, String body) {
        return "CREATE TRIGGER " + beside(table, "zabbet_" + kind + "_") + " " + when + " ON " + dialect.name(table)
                + " FOR EACH ROW BEGIN IF @zabbet_quiet IS NULL THEN " + body + " END IF; END";
    }

    /** A locking read of the newest images waits for whoever has written some and not yet committed. */
    @Override
    public long settle(Connection connection) throws SQLException {
        try {
            List<Table> tables = schema.tables();
            String sql = IntStream.range(0, tables.size())
                    .mapToObj(i -> "(SELECT " + i + ", COUNT(*) FROM " + shadow(tables.get(i)) + " WHERE "
                            + since().replace("?", String.valueOf(settledBefore)) + " LOCK IN SHARE MODE WAIT 2)")
                    .collect(Collectors.joining(" UNION ALL "));
            Set<Table> withImages = new LinkedHashSet<>();
            long[] number = {0};
            String next = "SELECT -1, " + next(); // taken after the locks, as it stands last
            SchemaDraft.each(connection, sql.isEmpty() ? next : sql + " UNION ALL " + next, rows -> {
                if (rows.getInt(1) == -1) {
                    number[0] = rows.getLong(2);
                } else if (rows.getLong(2) > 0) {
                    withImages.add(tables.get(rows.getInt(1)));
                }
            });
            settledBefore = lastSettled;
            lastSettled = number[0];
            seen.put(lastSettled, withImages);
        } catch (SQLException e) {
            if (e.getErrorCode() == LOCK_WAIT_TIMEOUT) {
                throw StillOpen.of(transactions(connection, databases(connection), "t.trx_rows_modified > 0 AND "));
            }
            throw e;
        }
        if (!counted) {
            counts(connection);
        }
        counted = false;
        truncations.settled(connection, lastSettled);
        return lastSettled;
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

    /** What settling has just looked at needs no further question. */
    @Override
    List<Table> touched(Connection connection, long after) throws SQLException {
        if (!seen.containsKey(after)) {
            return super.touched(connection, after);
        }
        Set<Table> touched = new LinkedHashSet<>();
        seen.tailMap(after, false).values().forEach(touched::addAll);
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
        String names = table.columns().stream()
                .filter(c -> !c.isComputed())
                .map(c -> dialect.quote(c.sqlName()))
                .collect(Collectors.joining(", "));
        try (Statement statement = connection.createStatement()) {
            aside(statement, table, events);
            statement.execute(
                    "INSERT INTO " + dialect.name(table) + " (" + names + ") SELECT " + names + " FROM zabbet_aside");
            statement.execute("DROP TEMPORARY TABLE zabbet_aside");
        }
    }

    @Override
    public void forget(Connection connection, long after) throws SQLException {
        super.forget(connection, after);
        lastSettled = Math.min(lastSettled, after);
        settledBefore = Math.min(settledBefore, after);
        seen.tailMap(after, false).clear();
        truncations.forget(after);
    }

    /** Numbers of transactions that are still open are not after it. */
    @Override
    public String end(Connection connection) throws SQLException {
        return SchemaDraft.texts(connection, "SELECT " + next()).get(0);
    }

    /** What a stage had to leave that was closed is no trouble. */
    @Override
    public boolean isInstalled(Connection connection) throws SQLException {
        List<String> ours = SchemaDraft.texts(
                connection,
                "SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME IN"
                        + " ('zabbet_numbers', 'zabbet_left')");
        return ours.contains("zabbet_numbers") && !ours.contains("zabbet_left");
    }

    @Override
    public void remove(Connection connection) throws SQLException {
        fingerprint = "";
        withoutWaiting(connection, () -> {
            try {
                dropAll(connection);
                MariaDbGuards.take(connection, databases(connection), dialect);
            } catch (SQLException e) {
                if (e.getErrorCode() != LOCK_WAIT_TIMEOUT) {
                    throw e;
                }
                // A trigger does not go while a transaction is open that has read its table: all that it needs stays,
                // too.
                execute(connection, List.of("CREATE TABLE IF NOT EXISTS zabbet_left (why TEXT)"));
                LOG.log(
                        Level.WARNING,
                        "Triggers stay in the database until the next stage, which takes no notice of what they note: a"
                                + " transaction is open on these tables, {0}.",
                        String.join("; ", transactions(connection, databases(connection), "")));
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
                        + " DATABASE() AND (TABLE_NAME IN ('zabbet_numbers', 'zabbet_left') OR TABLE_NAME LIKE 'zabbet\\_of\\_%')",
                rows -> sql.add((rows.getString(2).equals("SEQUENCE") ? "DROP SEQUENCE " : "DROP TABLE ")
                        + dialect.quote(rows.getString(3)) + "." + dialect.quote(rows.getString(1))));
        execute(connection, sql);
    }
}
