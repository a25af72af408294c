package dev.zabbet.jdbc;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature.Form;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Notes changes in PostgreSQL by one function for all tables, which keeps the row as text: exact for every type, since
 * the text is what the type's own input takes. The settings that the text depends on are fixed for the function.
 */
final class PostgresJournal implements Journal {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");
    private static final String LOCK_NOT_AVAILABLE = "55P03";
    private static final String OF_THE_USER =
            " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p')"
                    + " AND c.oid >= 16384 AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname NOT IN ('information_schema', 'zabbet')";
    private static final String INSTALL = """
            CREATE SCHEMA IF NOT EXISTS zabbet;
            CREATE TABLE IF NOT EXISTS zabbet.journal (
                number bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, tab oid NOT NULL, before text, after text);
            CREATE OR REPLACE FUNCTION zabbet.note() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER
                SET search_path = pg_catalog SET datestyle = 'ISO, MDY' SET intervalstyle = 'postgres'
                SET timezone = 'UTC' SET extra_float_digits = 1 SET bytea_output = 'hex' AS $note$
            BEGIN
                IF TG_OP = 'INSERT' THEN
                    INSERT INTO zabbet.journal (tab, after) VALUES (TG_RELID, NEW::text);
                ELSIF TG_OP = 'UPDATE' THEN
                    INSERT INTO zabbet.journal (tab, before, after) VALUES (TG_RELID, OLD::text, NEW::text);
                ELSIF TG_OP = 'DELETE' THEN
                    INSERT INTO zabbet.journal (tab, before) VALUES (TG_RELID, OLD::text);
                ELSE
                    EXECUTE format('INSERT INTO zabbet.journal (tab, before) SELECT zabbet_row.tableoid, zabbet_row::text FROM ONLY %s zabbet_row',
                        TG_RELID::regclass);
                END IF;
                RETURN NULL;
            END $note$;
            """;

    /** Leaves the triggers, and takes away what they do. */
    private static final String NOTE_NOTHING = """
            BEGIN; SET LOCAL lock_timeout = '2s';
            CREATE OR REPLACE FUNCTION zabbet.note() RETURNS trigger LANGUAGE plpgsql AS $note$
            BEGIN
                RETURN NULL;
            END $note$;
            DROP TABLE IF EXISTS zabbet.journal;
            """;

    /** The row type of the table that an image is of, with its schema: a table may be called like a type (path, box). */
    static final String ROW_TYPE = "(SELECT format('%I.%I', n.nspname, c.relname) FROM pg_class c"
            + " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.oid = j.tab)";

    private final PostgresDialect dialect;
    private final Schema schema;
    private final Map<Long, Table> byOid = new HashMap<>();
    private final Map<Long, String> types = new HashMap<>();
    private String fingerprint = "";
    private String lastNewest = "";
    private String columns = "";

    PostgresJournal(PostgresDialect dialect, Schema schema) {
        this.dialect = dialect;
        this.schema = schema;
    }

    @Override
    public void install(Connection connection) throws SQLException {
        if (fingerprint(connection).equals(fingerprint)) {
            return;
        }
        if (!fingerprint.isEmpty()) {
            throw new SchemaChanged();
        }
        StringBuilder sql = new StringBuilder("BEGIN; SET LOCAL lock_timeout = '2s';"
                + INSTALL); // triggers fire in the order of their names: ours come first
        for (Table table : schema.tables()) {
            String name = dialect.name(table);
            // A part gets the row trigger of the whole by itself; TRUNCATE has to be seen on each.
            if (table.nature().form() != Form.PART) {
                sql.append("CREATE OR REPLACE TRIGGER \"!zabbet_row\" AFTER INSERT OR UPDATE OR DELETE ON ")
                        .append(name)
                        .append(" FOR EACH ROW EXECUTE FUNCTION zabbet.note();\n");
            }
            if (table.nature().form() != Form.PARTITIONED) {
                sql.append("CREATE OR REPLACE TRIGGER \"!zabbet_truncate\" BEFORE TRUNCATE ON ")
                        .append(name)
                        .append(" FOR EACH STATEMENT EXECUTE FUNCTION zabbet.note();\n");
            }
        }
        try {
            inTransaction(connection, sql.append("COMMIT").toString());
        } catch (SQLException e) {
            if (LOCK_NOT_AVAILABLE.equals(e.getSQLState())) {
                throw StillOpen.toBegin(users(connection));
            }
            throw e;
        }
        readOids(connection);
        fingerprint = fingerprint(connection);
    }

    /** Runs statements from BEGIN to COMMIT. */
    private static void inTransaction(Connection connection, String sql) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            try {
                statement.execute(sql);
            } catch (SQLException e) {
                statement.execute("ROLLBACK");
                throw e;
            }
        }
    }

    /** Who has a transaction open that has used a table of the application's. */
    private static List<String> users(Connection connection) throws SQLException {
        return SchemaDraft.texts(
                connection,
                "SELECT DISTINCT 'process ' || a.pid || ' of ' || a.usename || ', ' || a.state || ': ' || left(a.query, 200)"
                        + " FROM pg_locks l JOIN pg_stat_activity a USING (pid) JOIN pg_class c ON c.oid = l.relation"
                        + OF_THE_USER
                        + " AND l.database = (SELECT oid FROM pg_database WHERE datname = current_database())"
                        + " AND l.granted AND a.pid <> pg_backend_pid()");
    }

    /** A part's rows are told as those of the whole. */
    private void readOids(Connection connection) throws SQLException {
        byOid.clear();
        Map<String, Table> byName = new HashMap<>();
        schema.tables().forEach(table -> byName.put(table.sqlSchema() + "." + table.sqlName(), table));
        SchemaDraft.each(
                connection,
                "SELECT c.oid, n.nspname || '.' || r.relname, format('%I.%I', own.nspname, c.relname) FROM pg_class c"
                        + " JOIN pg_class r ON r.oid = coalesce(pg_partition_root(c.oid), c.oid) JOIN pg_namespace n"
                        + " ON n.oid = r.relnamespace JOIN pg_namespace own ON own.oid = c.relnamespace"
                        + " WHERE c.relkind IN ('r', 'p')",
                rows -> {
                    Table table = byName.get(rows.getString(2));
                    if (table != null) {
                        types.put(rows.getLong(1), rows.getString(3));
                        byOid.put(rows.getLong(1), table);
                    }
                });
    }

    /**
     * Whether a row of pg_class is newer is cheap to ask for; only then (TRUNCATE makes one newer, too) are the columns
     * themselves looked at.
     */
    @Override
    public String fingerprint(Connection connection) throws SQLException {
        String[] newest = {""};
        dialect.readOften(
                connection,
                "SELECT count(*) || '/' || coalesce(max(c.xmin::text::bigint), 0) FROM pg_class c" + OF_THE_USER,
                rows -> newest[0] = rows.getString(1));
        if (!newest[0].equals(lastNewest)) {
            SchemaDraft.each(
                    connection,
                    "SELECT coalesce(md5(string_agg(concat_ws('.', c.oid, c.relname, a.attname, a.atttypid, a.atttypmod,"
                            + " a.attnotnull), ',' ORDER BY c.oid, a.attnum)), '-') FROM pg_class c JOIN pg_attribute a"
                            + " ON a.attrelid = c.oid AND a.attnum > 0" + OF_THE_USER,
                    rows -> columns = rows.getString(1));
            lastNewest = newest[0];
        }
        return columns;
    }

    /** A lock that writers' own lock on the journal keeps out waits for them; all in one round trip. */
    @Override
    public long settle(Connection connection) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "BEGIN; SET LOCAL lock_timeout = '2s'; LOCK TABLE zabbet.journal IN SHARE MODE;"
                        + " SELECT coalesce(max(number), 0) FROM zabbet.journal; COMMIT")) {
            boolean rows = statement.execute();
            while (!rows) {
                rows = statement.getMoreResults();
            }
            try (ResultSet row = statement.getResultSet()) {
                row.next();
                return row.getLong(1);
            }
        } catch (SQLException e) {
            try (Statement statement = connection.createStatement()) {
                statement.execute("ROLLBACK");
            }
            if (LOCK_NOT_AVAILABLE.equals(e.getSQLState())) {
                throw StillOpen.of(writers(connection));
            }
            throw e;
        }
    }

    private static List<String> writers(Connection connection) throws SQLException {
        List<String> writers = new ArrayList<>();
        SchemaDraft.each(
                connection,
                "SELECT DISTINCT 'process ' || a.pid || ' of ' || a.usename || ', ' || a.state || ': ' || left(a.query, 200)"
                        + " FROM pg_locks l JOIN pg_stat_activity a USING (pid) WHERE l.relation = 'zabbet.journal'::regclass"
                        + " AND l.mode = 'RowExclusiveLock' AND a.pid <> pg_backend_pid()",
                rows -> writers.add(rows.getString(1)));
        return writers;
    }

    @Override
    public List<Event> noted(Connection connection, long after) throws SQLException {
        if (byOid.isEmpty()) {
            readOids(connection); // what another process installed
        }
        List<Long> touched = new ArrayList<>();
        dialect.readOften(
                connection,
                "SELECT DISTINCT tab FROM zabbet.journal WHERE number > ?",
                rows -> touched.add(rows.getLong(1)),
                after);
        List<Event> events = new ArrayList<>();
        for (Long oid : touched) {
            Table table = byOid.get(oid);
            if (table != null) {
                read(connection, table, oid, types.getOrDefault(oid, ""), after, events);
            }
        }
        events.sort(Comparator.comparingLong(Event::number));
        return events;
    }

    private void read(Connection connection, Table table, long oid, String type, long after, List<Event> events)
            throws SQLException {
        String columns = table.columns().stream()
                .map(c -> dialect.selected(c, "(b)." + dialect.quote(c.sqlName())))
                .collect(Collectors.joining(", "));
        // With what the tables look like in its text, so that no prepared statement meets a row type that was altered.
        String sql = "SELECT number, before IS NULL, after IS NULL, " + columns + ", " + columns.replace("(b).", "(a).")
                + " FROM (SELECT number, before, after, before::" + type + " AS b, after::" + type
                + " AS a FROM zabbet.journal WHERE number > ? AND tab = ? OFFSET 0) images /* " + this.columns + " */";
        SchemaDraft.RowReader reader = rows -> {
            int width = table.columns().size();
            events.add(new Event(
                    rows.getLong(1),
                    table,
                    rows.getBoolean(2) ? null : row(table, rows, 4),
                    rows.getBoolean(3) ? null : row(table, rows, 4 + width)));
        };
        dialect.readOften(connection, sql, reader, after, oid);
    }

    private Row row(Table table, ResultSet rows, int from) throws SQLException {
        @Nullable Object[] values = new @Nullable Object[table.columns().size()];
        for (int i = 0; i < values.length; i++) {
            values[i] = dialect.read(rows, from + i, table.columns().get(i));
        }
        return Row.of(table.columnNames(), values);
    }

    @Override
    public void takeAway(Connection connection, Table table, Collection<Event> events) throws SQLException {
        String sql = "DELETE FROM " + dialect.name(table) + " WHERE (tableoid, ctid) = (SELECT tableoid, ctid FROM "
                + dialect.nameToRead(table)
                + " zabbet_row WHERE zabbet_row::text = (SELECT after FROM zabbet.journal WHERE number = ?) LIMIT 1)";
        try (Statement settings = connection.createStatement();
                PreparedStatement delete = connection.prepareStatement(sql)) {
            settings.execute("SET LOCAL datestyle = 'ISO, MDY'; SET LOCAL intervalstyle = 'postgres';"
                    + " SET LOCAL timezone = 'UTC'; SET LOCAL extra_float_digits = 1; SET LOCAL bytea_output = 'hex'");
            for (Event event : events) {
                delete.setLong(1, event.number());
                delete.addBatch();
            }
            delete.executeBatch();
        }
    }

    @Override
    public void restore(Connection connection, Table table, Collection<Event> events) throws SQLException {
        String columns = table.columns().stream()
                .filter(c -> !c.isComputed())
                .map(Column::sqlName)
                .map(dialect::quote)
                .collect(Collectors.joining(", "));
        String values = table.columns().stream()
                .filter(c -> !c.isComputed())
                .map(c -> "(b)." + dialect.quote(c.sqlName()))
                .collect(Collectors.joining(", "));
        // Parts of a table have row types of their own, so that each image is read as the type of its own part.
        Map<String, List<Long>> byType = new HashMap<>();
        if (table.nature().form() != Form.PARTITIONED) {
            byType.put(dialect.name(table), events.stream().map(Event::number).toList());
        } else {
            byType.putAll(typesOf(connection, events));
        }
        for (Map.Entry<String, List<Long>> type : byType.entrySet()) {
            String sql = "INSERT INTO " + dialect.name(table) + " (" + columns + ")" + dialect.overriding(table)
                    + " SELECT " + values + " FROM (SELECT before::" + type.getKey()
                    + " AS b FROM zabbet.journal WHERE number = ANY(?) OFFSET 0) images";
            try (PreparedStatement insert = connection.prepareStatement(sql)) {
                insert.setArray(
                        1, connection.createArrayOf("bigint", type.getValue().toArray()));
                insert.executeUpdate();
            }
        }
    }

    @Override
    public boolean undoChecked(Connection connection, Map<Table, NetEffect.Undo> undo, long after) throws SQLException {
        new PostgresCheckedUndo(dialect, this, connection).run(undo, after);
        return true;
    }

    static Map<String, List<Long>> typesOf(Connection connection, Collection<Event> events) throws SQLException {
        Map<String, List<Long>> byType = new HashMap<>();
        Object[] numbers = events.stream().map(Event::number).toArray();
        try (PreparedStatement find = connection.prepareStatement(
                "SELECT number, " + ROW_TYPE + " FROM zabbet.journal j WHERE number = ANY(?)")) {
            find.setArray(1, connection.createArrayOf("bigint", numbers));
            try (ResultSet rows = find.executeQuery()) {
                while (rows.next()) {
                    byType.computeIfAbsent(rows.getString(2), t -> new ArrayList<>())
                            .add(rows.getLong(1));
                }
            }
        }
        return byType;
    }

    @Override
    public void forget(Connection connection, long after) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("DELETE FROM zabbet.journal WHERE number > ?")) {
            statement.setLong(1, after);
            statement.executeUpdate();
        }
    }

    /** Numbers of transactions that are still open are not after it. */
    @Override
    public String end(Connection connection) throws SQLException {
        return SchemaDraft.texts(connection, "SELECT last_value FROM zabbet.journal_number_seq")
                .get(0);
    }

    @Override
    public boolean isInstalled(Connection connection) throws SQLException {
        boolean[] found = {false};
        SchemaDraft.each(
                connection, "SELECT 1 WHERE to_regclass('zabbet.journal') IS NOT NULL", rows -> found[0] = true);
        return found[0];
    }

    @Override
    public void remove(Connection connection) throws SQLException {
        fingerprint = "";
        String drop = "DROP FUNCTION IF EXISTS zabbet.note() CASCADE; DROP TABLE IF EXISTS zabbet.journal; COMMIT";
        try {
            inTransaction(connection, "BEGIN; SET LOCAL lock_timeout = '2s'; " + drop);
        } catch (SQLException e) {
            if (!LOCK_NOT_AVAILABLE.equals(e.getSQLState())) {
                throw e;
            }
            // To drop a trigger waits for whoever has read its table; to give its function nothing to do does not.
            try {
                inTransaction(connection, NOTE_NOTHING + "COMMIT");
            } catch (SQLException again) {
                if (LOCK_NOT_AVAILABLE.equals(again.getSQLState())) {
                    throw StillOpen.of(writers(connection));
                }
                throw again;
            }
            LOG.log(
                    Level.WARNING,
                    "The triggers stay in the database, and note nothing, until the next stage: a transaction is open on these"
                            + " tables, {0}.",
                    String.join("; ", users(connection)));
        }
    }
}
