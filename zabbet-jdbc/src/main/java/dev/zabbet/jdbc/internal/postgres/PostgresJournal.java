package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.NetEffect;
import dev.zabbet.jdbc.internal.dialect.NotedMeanwhileException;
import dev.zabbet.jdbc.internal.dialect.OpenTransactions;
import dev.zabbet.jdbc.internal.dialect.SchemaChangedException;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature.Form;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Notes changes in PostgreSQL by one function for all tables, which keeps the row as text: exact for every type, since
 * the text is what the type's own input takes. The settings that the text depends on are fixed for the function.
 */
final class PostgresJournal implements Journal {
    private static final String LOCK_NOT_AVAILABLE = "55P03";

    private final PostgresUndo undoing = new PostgresUndo(this);
    private final Map<Long, String> types = new HashMap<>();
    final PostgresDialect dialect;
    final Schema schema;
    private final Map<Long, Table> byOid = new HashMap<>();
    private boolean noted; // the journal is there
    private final boolean together; // all happens in one transaction
    private boolean joined; // what is asked now is
    private String fingerprint = "";
    private String lastNewest = "";
    private String columns = "";

    PostgresJournal(PostgresDialect dialect, Schema schema, boolean together) {
        this.dialect = dialect;
        this.schema = schema;
        this.together = together;
    }

    @Override
    public void install(Connection connection) throws SQLException {
        if (fingerprint.isEmpty()) {
            begin(connection);
        } else {
            requireSame(connection, newest(connection));
        }
    }

    /** The journal stays in the database: what of it is there need not be made again. */
    private void begin(Connection connection) throws SQLException {
        String version = version(connection);
        Set<String> watched = new HashSet<>();
        if (isThere(connection)
                && SchemaDraft.texts(connection, "SELECT obj_description('zabbet.journal'::regclass)")
                        .contains(version)) {
            watched.addAll(SchemaDraft.texts(
                    connection,
                    "SELECT t.tgname || ' ' || t.tgrelid::regclass FROM pg_trigger t WHERE t.tgenabled = 'O'"
                            + " AND t.tgfoid = 'zabbet.note'::regproc"));
        } else {
            inTransaction(
                    connection,
                    "BEGIN; SET LOCAL lock_timeout = '2s'; " + PostgresJournalSql.UNINSTALL + PostgresJournalSql.INSTALL
                            + (mayAskForEvents(connection) ? PostgresJournalSql.EVENTS : PostgresJournalSql.NO_EVENTS)
                            + "COMMENT ON TABLE zabbet.journal IS "
                            + dialect.literal(version) + "; COMMIT");
        }
        watch(connection, watched);
        readOids(connection);
        run(connection, "SELECT setval('zabbet.noting', " + (together ? 2 : 1) + ")");
        settle(connection);
        run(connection, "DELETE FROM zabbet.altered; DELETE FROM zabbet.journal");
        noted = true;
        fingerprint = fingerprint(connection);
    }

    /** A copy of a database brings along a journal that is of the one that it was copied from. */
    private String version(Connection connection) throws SQLException {
        return "version "
                + Integer.toHexString(
                        (PostgresJournalSql.INSTALL + PostgresJournalSql.EVENTS + PostgresJournalSql.NO_EVENTS)
                                .hashCode())
                + " of " + dialect.place(connection).identity();
    }

    private static boolean mayAskForEvents(Connection connection) throws SQLException {
        return SchemaDraft.texts(connection, "SELECT rolsuper FROM pg_roles WHERE rolname = current_user")
                .contains("t");
    }

    private void watch(Connection connection, Set<String> watched) throws SQLException {
        Map<String, String> names = new HashMap<>(); // as regclass writes them
        SchemaDraft.each(
                connection,
                "SELECT format('%I.%I', n.nspname, c.relname), c.oid::regclass FROM pg_class c"
                        + PostgresJournalSql.OF_THE_USER,
                rows -> names.put(rows.getString(1), rows.getString(2)));
        StringBuilder sql = new StringBuilder(); // triggers fire in the order of their names: ours come first
        for (Table table : schema.tables()) {
            String name = dialect.name(table);
            String known = names.getOrDefault(table.sqlSchema() + "." + table.sqlName(), name);
            // A part gets the row trigger of the whole by itself; TRUNCATE has to be seen on each.
            if (table.nature().form() != Form.PART && !watched.contains("!zabbet_row " + known)) {
                sql.append("CREATE OR REPLACE TRIGGER \"!zabbet_row\" AFTER INSERT OR UPDATE OR DELETE ON ")
                        .append(name)
                        .append(" FOR EACH ROW EXECUTE FUNCTION zabbet.note();\n");
            }
            if (table.nature().form() != Form.PARTITIONED && !watched.contains("!zabbet_truncate " + known)) {
                sql.append("CREATE OR REPLACE TRIGGER \"!zabbet_truncate\" BEFORE TRUNCATE ON ")
                        .append(name)
                        .append(" FOR EACH STATEMENT EXECUTE FUNCTION zabbet.note();\n");
            }
        }
        if (sql.length() == 0) {
            return;
        }
        try {
            inTransaction(connection, "BEGIN; SET LOCAL lock_timeout = '2s'; " + sql + "COMMIT");
        } catch (SQLException e) {
            if (LOCK_NOT_AVAILABLE.equals(e.getSQLState())) {
                throw OpenTransactions.toBegin(PostgresOpenTransactions.users(connection));
            }
            throw e;
        }
    }

    private static boolean isThere(Connection connection) throws SQLException {
        return SchemaDraft.texts(
                        connection,
                        "SELECT to_regclass('zabbet.journal') IS NOT NULL AND to_regclass('zabbet.noting') IS NOT NULL")
                .contains("t");
    }

    private static void run(Connection connection, String sql) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    /** Runs statements from BEGIN to COMMIT. */
    static void inTransaction(Connection connection, String sql) throws SQLException {
        try {
            run(connection, sql);
        } catch (SQLException e) {
            run(connection, "ROLLBACK");
            throw e;
        }
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

    /** That something was made, altered or dropped is cheap to ask for; only then are the columns themselves looked at. */
    @Override
    public String fingerprint(Connection connection) throws SQLException {
        return fingerprint(connection, newest(connection));
    }

    private String newest(Connection connection) throws SQLException {
        return dialect.firstOften(
                connection,
                noted ? "SELECT zabbet.newest()" : PostgresJournalSql.FOUND_NEWEST,
                rows -> rows.getString(1),
                "");
    }

    private String fingerprint(Connection connection, String newest) throws SQLException {
        if (!newest.equals(lastNewest)) {
            SchemaDraft.each(
                    connection,
                    "SELECT coalesce(md5(string_agg(concat_ws('.', c.oid, c.relname, a.attname, a.atttypid, a.atttypmod,"
                            + " a.attnotnull), ',' ORDER BY c.oid, a.attnum)), '-') FROM pg_class c JOIN pg_attribute a"
                            + " ON a.attrelid = c.oid AND a.attnum > 0" + PostgresJournalSql.OF_THE_USER,
                    rows -> columns = rows.getString(1));
            lastNewest = newest;
        }
        return columns;
    }

    private void requireSame(Connection connection, String newest) throws SQLException {
        if (!fingerprint(connection, newest).equals(fingerprint)) {
            throw new SchemaChangedException();
        }
    }

    @Override
    public void joins(boolean transaction) {
        joined = transaction;
    }

    @Override
    public long settle(Connection connection) throws SQLException {
        return look(connection, -1, true, false).number();
    }

    @Override
    public Look here(Connection connection, boolean sequences) throws SQLException {
        if (fingerprint.isEmpty()) {
            install(connection);
        }
        return look(connection, -1, false, sequences);
    }

    @Override
    public Look changed(Connection connection, long after) throws SQLException {
        return look(connection, after, false, false);
    }

    @Override
    public Look toUndo(Connection connection, long after) throws SQLException {
        return look(connection, after, false, true);
    }

    /** A lock that writers' own lock on the journal keeps out waits for them; all in one round trip. */
    private Look look(Connection connection, long after, boolean anyTables, boolean sequences) throws SQLException {
        List<Noted> noted = new ArrayList<>();
        try {
            dialect.readOften(
                    connection,
                    "SELECT number, tab, before, after FROM zabbet.look(?, " + !(together || joined) + ", " + sequences
                            + ")",
                    rows -> noted.add(
                            new Noted(rows.getLong(1), rows.getLong(2), rows.getString(3), rows.getString(4))),
                    after);
        } catch (SQLException e) {
            if (LOCK_NOT_AVAILABLE.equals(e.getSQLState())) {
                throw OpenTransactions.of(PostgresOpenTransactions.writers(connection));
            }
            throw e;
        }
        Noted first = noted.get(0);
        if (!anyTables) {
            requireSame(connection, String.valueOf(first.before()));
        }
        return new Look(
                first.number(),
                first.number(),
                events(connection, noted.subList(1, noted.size()), after),
                Optional.ofNullable(first.after()));
    }

    /** A line of the journal as it stands there. */
    private record Noted(
            long number,
            long oid,
            @Nullable String before,
            @Nullable String after) {}

    @Override
    public List<Event> noted(Connection connection, long after) throws SQLException {
        List<Noted> noted = new ArrayList<>();
        dialect.readOften(
                connection,
                "SELECT number, tab, before, after FROM zabbet.journal WHERE number > ? ORDER BY number",
                rows -> noted.add(new Noted(rows.getLong(1), rows.getLong(2), rows.getString(3), rows.getString(4))),
                after);
        return events(connection, noted, after);
    }

    private List<Event> events(Connection connection, List<Noted> noted, long after) throws SQLException {
        if (byOid.isEmpty() && !noted.isEmpty()) {
            readOids(connection); // what another process installed
        }
        List<Event> events = new ArrayList<>();
        Set<Long> asked = new HashSet<>();
        for (Noted one : noted) {
            Table table = byOid.get(one.oid());
            Event event = table == null || asked.contains(one.oid()) ? null : event(table, one);
            if (event != null) {
                events.add(event);
            } else if (table != null && asked.add(one.oid())) {
                Set<Long> numbers = noted.stream()
                        .filter(other -> other.oid() == one.oid())
                        .map(Noted::number)
                        .collect(Collectors.toSet());
                events.removeIf(other -> numbers.contains(other.number()));
                read(connection, table, one.oid(), types.getOrDefault(one.oid(), ""), after, events);
            }
        }
        events.sort(Comparator.comparingLong(Event::number));
        return events;
    }

    /** Returns an event from the texts alone; null if the server has to be asked for its values. */
    private static @Nullable Event event(Table table, Noted noted) {
        if (table.nature().form() == Form.PARTITIONED || !PostgresImage.canRead(table)) {
            return null; // a part may have its columns in another order
        }
        String before = noted.before();
        String after = noted.after();
        Row then = before == null ? null : PostgresImage.row(table, before);
        Row now = after == null ? null : PostgresImage.row(table, after);
        return (before != null && then == null) || (after != null && now == null)
                ? null
                : new Event(noted.number(), table, then, now);
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
    public void forget(Connection connection, Stretch stretch) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(PostgresUndo.forgetting(stretch));
        } catch (SQLException e) {
            throw PostgresUndo.isNotedMeanwhile(e) ? new NotedMeanwhileException() : e;
        }
    }

    /** Numbers of transactions that are still open are not after it. */
    @Override
    public String end(Connection connection) throws SQLException {
        return SchemaDraft.texts(connection, "SELECT last_value FROM zabbet.journal_number_seq")
                .get(0);
    }

    /** Older versions took the journal away when a stage was closed; what a copy brings along says nothing of it. */
    @Override
    public boolean isNoting(Connection connection) throws SQLException {
        if (!isThere(connection)) {
            return SchemaDraft.texts(connection, "SELECT to_regclass('zabbet.journal') IS NOT NULL")
                    .contains("t");
        }
        String made = SchemaDraft.texts(connection, "SELECT coalesce(obj_description('zabbet.journal'::regclass), '')")
                .get(0);
        return SchemaDraft.texts(connection, "SELECT last_value FROM zabbet.noting")
                        .contains("1")
                && version(connection).endsWith(made.replaceFirst("^.*? of ", " of "));
    }

    @Override
    public void rest(Connection connection) throws SQLException {
        fingerprint = "";
        if (isThere(connection)) {
            run(
                    connection,
                    "SELECT setval('zabbet.noting', 0); DELETE FROM zabbet.journal; DELETE FROM zabbet.altered");
        }
    }

    /** To drop a trigger waits for whoever has read its table. */
    @Override
    public void remove(Connection connection) throws SQLException {
        fingerprint = "";
        noted = false;
        try {
            inTransaction(
                    connection, "BEGIN; SET LOCAL lock_timeout = '2s'; " + PostgresJournalSql.UNINSTALL + "COMMIT");
        } catch (SQLException e) {
            if (LOCK_NOT_AVAILABLE.equals(e.getSQLState())) {
                throw OpenTransactions.of(PostgresOpenTransactions.users(connection));
            }
            throw e;
        }
    }

    @Override
    public void takeAway(Connection connection, Table table, Collection<Event> events) throws SQLException {
        undoing.takeAway(connection, table, events);
    }

    @Override
    public void restore(Connection connection, Table table, Collection<Event> events) throws SQLException {
        undoing.restore(connection, table, events);
    }

    /** In one round trip, where keys can be written into the statements as they are. */
    @Override
    public boolean undoAtOnce(Connection connection, Map<Table, NetEffect.Undo> undo, Stretch stretch)
            throws SQLException {
        return undoing.undoAtOnce(connection, undo, stretch);
    }

    @Override
    public boolean undoChecked(Connection connection, Map<Table, NetEffect.Undo> undo, Stretch stretch)
            throws SQLException {
        return undoing.undoChecked(connection, undo, stretch);
    }
}
