package dev.zabbet.jdbc;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference.Action;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature.Form;
import java.sql.Connection;
import java.sql.PreparedStatement;
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
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Notes changes in PostgreSQL by one function for all tables, which keeps the row as text: exact for every type, since
 * the text is what the type's own input takes. The settings that the text depends on are fixed for the function.
 */
final class PostgresJournal implements Journal {
    private static final String LOCK_NOT_AVAILABLE = "55P03";
    private static final String OF_THE_USER =
            " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p')"
                    + " AND c.oid >= 16384 AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname NOT IN ('information_schema', 'zabbet')";

    /**
     * A writer locks the journal before it looks whether anything is to be noted; whoever lets notes begin looks at that
     * lock afterwards. What is being noted stands in a sequence, which shows everybody the same at once, whatever their
     * snapshot.
     */
    private static final String INSTALL = """
            CREATE SCHEMA IF NOT EXISTS zabbet;
            CREATE TABLE zabbet.journal (
                number bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, tab oid NOT NULL, before text, after text);
            CREATE SEQUENCE zabbet.noting MINVALUE 0 START 0;
            CREATE TABLE zabbet.altered (number bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY);
            CREATE FUNCTION zabbet.note() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER
                SET search_path = pg_catalog SET datestyle = 'ISO, MDY' SET intervalstyle = 'postgres'
                SET timezone = 'UTC' SET extra_float_digits = 1 SET bytea_output = 'hex' AS $note$
            BEGIN
                IF TG_OP = 'INSERT' THEN
                    INSERT INTO zabbet.journal (tab, after) SELECT TG_RELID, NEW::text FROM zabbet.noting WHERE last_value > 0;
                ELSIF TG_OP = 'UPDATE' THEN
                    INSERT INTO zabbet.journal (tab, before, after) SELECT TG_RELID, OLD::text, NEW::text
                        FROM zabbet.noting WHERE last_value > 0;
                ELSIF TG_OP = 'DELETE' THEN
                    INSERT INTO zabbet.journal (tab, before) SELECT TG_RELID, OLD::text FROM zabbet.noting WHERE last_value > 0;
                ELSE
                    LOCK TABLE zabbet.journal IN ROW EXCLUSIVE MODE;
                    IF (SELECT last_value FROM zabbet.noting) > 0 THEN
                        EXECUTE format('INSERT INTO zabbet.journal (tab, before) SELECT zabbet_row.tableoid, zabbet_row::text'
                            ' FROM ONLY %s zabbet_row', TG_RELID::regclass);
                    END IF;
                END IF;
                RETURN NULL;
            END $note$;
            """;

    private static final String LOOK = """
            CREATE FUNCTION zabbet.newest() RETURNS text LANGUAGE sql STABLE AS $newest$ {newest} $newest$;
            CREATE FUNCTION zabbet.look(since bigint, waiting boolean, counting boolean)
                RETURNS TABLE (number bigint, tab oid, before text, after text) LANGUAGE plpgsql AS $look$
            BEGIN
                IF waiting THEN
                    PERFORM set_config('lock_timeout', '2s', true);
                    LOCK TABLE zabbet.journal IN SHARE MODE;
                END IF;
                number := (SELECT coalesce(max(j.number), 0) FROM zabbet.journal j);
                before := ({newest});
                IF counting THEN
                    after := (SELECT coalesce(string_agg(s.seqrelid || ':' || s.last, ','), '')
                        FROM (SELECT p.seqrelid, pg_sequence_last_value(p.seqrelid) AS last FROM pg_sequence p) s
                        WHERE s.last IS NOT NULL);
                END IF;
                RETURN NEXT;
                IF since >= 0 THEN
                    RETURN QUERY SELECT j.number, j.tab, j.before, j.after FROM zabbet.journal j WHERE j.number > since
                        ORDER BY j.number;
                END IF;
            END $look$;
            """;

    /** The server tells of an event for each change of a table, if a superuser has asked for that. */
    private static final String EVENTS = """
            CREATE FUNCTION zabbet.altered() RETURNS event_trigger LANGUAGE plpgsql SECURITY DEFINER
                SET search_path = pg_catalog AS $altered$
            BEGIN
                INSERT INTO zabbet.altered DEFAULT VALUES;
            END $altered$;
            CREATE EVENT TRIGGER zabbet_altered ON ddl_command_end EXECUTE FUNCTION zabbet.altered();
            ALTER EVENT TRIGGER zabbet_altered ENABLE ALWAYS;
            """
            + LOOK.replace("{newest}", "SELECT count(*) || '/' || coalesce(max(a.number), 0) FROM zabbet.altered a");

    private static final String FOUND_NEWEST =
            "SELECT count(*) || '/' || coalesce(max(c.xmin::text::bigint), 0) FROM pg_class c" + OF_THE_USER;

    private static final String NO_EVENTS = LOOK.replace("{newest}", FOUND_NEWEST);

    private static final String UNINSTALL = """
            DROP EVENT TRIGGER IF EXISTS zabbet_altered;
            DROP FUNCTION IF EXISTS zabbet.note(), zabbet.look(bigint, boolean, boolean), zabbet.newest(),
                zabbet.altered() CASCADE;
            DROP TABLE IF EXISTS zabbet.journal, zabbet.altered;
            DROP SEQUENCE IF EXISTS zabbet.noting;
            """;

    /** The row type of the table that an image is of, with its schema: a table may be called like a type (path, box). */
    static final String ROW_TYPE = "(SELECT format('%I.%I', n.nspname, c.relname) FROM pg_class c"
            + " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.oid = j.tab)";

    private final PostgresDialect dialect;
    private final Schema schema;
    private final Map<Long, Table> byOid = new HashMap<>();
    private final Map<Long, String> types = new HashMap<>();
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
                    "BEGIN; SET LOCAL lock_timeout = '2s'; " + UNINSTALL + INSTALL
                            + (mayAskForEvents(connection) ? EVENTS : NO_EVENTS) + "COMMENT ON TABLE zabbet.journal IS "
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
        return "version " + Integer.toHexString((INSTALL + EVENTS + NO_EVENTS).hashCode()) + " of "
                + dialect.place(connection).identity();
    }

    private static boolean mayAskForEvents(Connection connection) throws SQLException {
        return SchemaDraft.texts(connection, "SELECT rolsuper FROM pg_roles WHERE rolname = current_user")
                .contains("t");
    }

    private void watch(Connection connection, Set<String> watched) throws SQLException {
        Map<String, String> names = new HashMap<>(); // as regclass writes them
        SchemaDraft.each(
                connection,
                "SELECT format('%I.%I', n.nspname, c.relname), c.oid::regclass FROM pg_class c" + OF_THE_USER,
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
                throw StillOpen.toBegin(users(connection));
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
    private static void inTransaction(Connection connection, String sql) throws SQLException {
        try {
            run(connection, sql);
        } catch (SQLException e) {
            run(connection, "ROLLBACK");
            throw e;
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

    /** That something was made, altered or dropped is cheap to ask for; only then are the columns themselves looked at. */
    @Override
    public String fingerprint(Connection connection) throws SQLException {
        return fingerprint(connection, newest(connection));
    }

    private String newest(Connection connection) throws SQLException {
        String[] newest = {""};
        dialect.readOften(
                connection, noted ? "SELECT zabbet.newest()" : FOUND_NEWEST, rows -> newest[0] = rows.getString(1));
        return newest[0];
    }

    private String fingerprint(Connection connection, String newest) throws SQLException {
        if (!newest.equals(lastNewest)) {
            SchemaDraft.each(
                    connection,
                    "SELECT coalesce(md5(string_agg(concat_ws('.', c.oid, c.relname, a.attname, a.atttypid, a.atttypmod,"
                            + " a.attnotnull), ',' ORDER BY c.oid, a.attnum)), '-') FROM pg_class c JOIN pg_attribute a"
                            + " ON a.attrelid = c.oid AND a.attnum > 0" + OF_THE_USER,
                    rows -> columns = rows.getString(1));
            lastNewest = newest;
        }
        return columns;
    }

    private void requireSame(Connection connection, String newest) throws SQLException {
        if (!fingerprint(connection, newest).equals(fingerprint)) {
            throw new SchemaChanged();
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
                throw StillOpen.of(writers(connection));
            }
            throw e;
        }
        Noted first = noted.get(0);
        if (!anyTables) {
            requireSame(connection, String.valueOf(first.before()));
        }
        return new Look(
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
        return before != null && then == null || after != null && now == null
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
        // Parts of a table have row types of their own, so that each image is read as the type of its own part.
        Map<String, List<Long>> byType = new HashMap<>();
        if (table.nature().form() != Form.PARTITIONED) {
            byType.put(dialect.name(table), events.stream().map(Event::number).toList());
        } else {
            byType.putAll(typesOf(connection, events));
        }
        for (Map.Entry<String, List<Long>> type : byType.entrySet()) {
            try (PreparedStatement insert = connection.prepareStatement(restoring(table, type.getKey(), "?"))) {
                insert.setArray(
                        1, connection.createArrayOf("bigint", type.getValue().toArray()));
                insert.executeUpdate();
            }
        }
    }

    /** In one round trip, where keys can be written into the statements as they are. */
    @Override
    public boolean undoAtOnce(Connection connection, Map<Table, NetEffect.Undo> undo, long after) throws SQLException {
        List<String> deleting = new ArrayList<>();
        List<String> storing = new ArrayList<>();
        for (Map.Entry<Table, NetEffect.Undo> one : undo.entrySet()) {
            Table table = one.getKey();
            List<Event> events = one.getValue().toRestore;
            List<String> statements = WrittenKeys.delete(dialect, table, one.getValue().toDelete);
            if (statements.isEmpty()
                    || !one.getValue().toTakeAway.isEmpty()
                    || !events.isEmpty() && table.nature().form() == Form.PARTITIONED) {
                return false;
            }
            deleting.addAll(statements);
            if (!events.isEmpty()) {
                String numbers =
                        events.stream().map(e -> String.valueOf(e.number())).collect(Collectors.joining(","));
                storing.add(restoring(table, dialect.name(table), "'{" + numbers + "}'"));
            }
        }
        String forgetting = "; DELETE FROM zabbet.journal WHERE number > " + after + "; COMMIT";
        boolean quiet =
                undo.keySet().stream().allMatch(t -> t.nature().triggers().isEmpty() && !isFollowed(t));
        return quiet && storing.isEmpty() && !deleting.isEmpty() && deletedTogether(connection, deleting, forgetting)
                || doneUnchecked(connection, deleting, storing, forgetting);
    }

    /**
     * Rows that were not there before can be deleted with references checked: those that refer to them were not there
     * either. In one statement, so that no order has to be found. The server plans all statements of the session anew when
     * references are left unchecked in it.
     */
    private static boolean deletedTogether(Connection connection, List<String> deleting, String forgetting)
            throws SQLException {
        StringBuilder sql = new StringBuilder("BEGIN; ");
        for (int i = 0; i < deleting.size() - 1; i++) {
            sql.append(i == 0 ? "WITH " : ", ").append("deleted_" + i + " AS (" + deleting.get(i) + ")");
        }
        try {
            inTransaction(connection, sql + " " + deleting.get(deleting.size() - 1) + forgetting);
            return true;
        } catch (SQLException e) {
            return false; // a rule or a constraint of the application's own, perhaps
        }
    }

    /** A row that was stored with references unchecked, and leads nowhere, would go with one that takes the place. */
    private boolean isFollowed(Table table) {
        return schema.tables().stream()
                .flatMap(child -> child.references().stream())
                .anyMatch(r -> r.target().equals(table.name()) && r.onDelete() != Action.REFUSE);
    }

    private static boolean doneUnchecked(
            Connection connection, List<String> deleting, List<String> storing, String forgetting) throws SQLException {
        try {
            inTransaction(
                    connection,
                    "BEGIN; SET LOCAL session_replication_role = replica; "
                            + Stream.of(deleting, storing).flatMap(List::stream).collect(Collectors.joining("; "))
                            + forgetting);
            return true;
        } catch (SQLException e) {
            if (PostgresDialect.PERMISSION_DENIED.equals(e.getSQLState())) {
                return false;
            }
            throw e;
        }
    }

    /** Returns the statement that stores rows of one row type again, of events with these numbers. */
    private String restoring(Table table, String type, String numbers) {
        List<String> columns = table.columns().stream()
                .filter(c -> !c.isComputed())
                .map(Column::sqlName)
                .map(dialect::quote)
                .toList();
        return "INSERT INTO " + dialect.name(table) + " (" + String.join(", ", columns) + ")"
                + dialect.overriding(table) + " SELECT "
                + columns.stream().map(c -> "(b)." + c).collect(Collectors.joining(", ")) + " FROM (SELECT before::"
                + type + " AS b FROM zabbet.journal WHERE number = ANY(" + numbers + ") OFFSET 0) images";
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
            inTransaction(connection, "BEGIN; SET LOCAL lock_timeout = '2s'; " + UNINSTALL + "COMMIT");
        } catch (SQLException e) {
            if (LOCK_NOT_AVAILABLE.equals(e.getSQLState())) {
                throw StillOpen.of(users(connection));
            }
            throw e;
        }
    }
}
