package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Json;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * What an H2 file keeps of the images of rows, so that another process can undo what one has changed that died: the rows of a change
 * beside its marker, and at the beginning how many rows each table has, and all of tables without a key.
 */
final class H2Images {
    private static final String BYTES = "bytes";

    private H2Images() {}

    /** What a process that died has noted, and what tables without a key held before. */
    record Left(List<Journal.Event> events, Map<Table, List<Row>> unkeyed) {}

    /** Tells whether the database is in a file, which outlives the process. */
    static boolean isInFile(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                var path = statement.executeQuery("SELECT DATABASE_PATH()")) {
            return path.next() && path.getString(1) != null;
        }
    }

    /** The name by which a table is found again by another process. */
    static String name(Table table) {
        return table.sqlSchema() + "." + table.sqlName();
    }

    /**
     * Writes down what the tables hold before anything is noted.
     *
     * <p>As long as something is noted, each commit is written at once: a file that H2 writes to half a second late is broken now and
     * then when its process is killed, or holds a part of a transaction.
     */
    static void begin(Connection connection, Map<Table, Long> counts, Map<Table, List<Row>> unkeyed)
            throws SQLException {
        try (Statement statement = connection.createStatement()) {
            remove(connection);
            statement.execute("CREATE TABLE ZABBET.COUNTED (NAME VARCHAR PRIMARY KEY, HELD BIGINT NOT NULL)");
            statement.execute("CREATE TABLE ZABBET.UNKEYED (NAME VARCHAR NOT NULL, HELD CLOB NOT NULL)");
            statement.execute(
                    "CREATE TABLE ZABBET.DELAY AS SELECT SETTING_VALUE AS BEFORE" // what was said comes first
                            + " FROM INFORMATION_SCHEMA.SETTINGS WHERE SETTING_NAME = 'WRITE_DELAY' FETCH FIRST ROW ONLY");
            statement.execute("SET WRITE_DELAY 0");
        }
        try (PreparedStatement count = connection.prepareStatement("INSERT INTO ZABBET.COUNTED VALUES (?, ?)")) {
            for (Map.Entry<Table, Long> one : counts.entrySet()) {
                count.setString(1, name(one.getKey()));
                count.setLong(2, one.getValue());
                count.addBatch();
            }
            count.executeBatch();
        }
        try (PreparedStatement keep = connection.prepareStatement("INSERT INTO ZABBET.UNKEYED VALUES (?, ?)")) {
            for (Map.Entry<Table, List<Row>> one : unkeyed.entrySet()) {
                for (Row row : one.getValue()) {
                    keep.setString(1, name(one.getKey()));
                    keep.setString(2, text(row));
                    keep.addBatch();
                }
            }
            keep.executeBatch();
        }
    }

    static void remove(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("DROP TABLE IF EXISTS ZABBET.COUNTED");
            statement.execute("DROP TABLE IF EXISTS ZABBET.UNKEYED");
            if (H2JournalTables.hasTable(connection, "DELAY")) {
                for (String before : SchemaDraft.texts(connection, "SELECT BEFORE FROM ZABBET.DELAY")) {
                    statement.execute("SET WRITE_DELAY " + Integer.parseInt(before));
                }
                statement.execute("DROP TABLE ZABBET.DELAY");
            }
        }
    }

    /**
     * Reads what a process that died has left.
     *
     * @param now how many rows each table has
     * @throws ZabbetException if not all that it has changed can be told
     */
    static Left read(Connection connection, Schema schema, Map<Table, Long> now) throws SQLException {
        if (!H2JournalTables.hasTable(connection, "COUNTED")) {
            return new Left(List.of(), Map.of()); // it had not come to note anything
        }
        Map<String, Table> byName = new HashMap<>();
        schema.tables().forEach(table -> byName.put(name(table), table));
        List<Journal.Event> events = new ArrayList<>();
        Map<Table, Long> held = new LinkedHashMap<>();
        Map<Table, List<Row>> unkeyed = new LinkedHashMap<>();
        schema.tables().stream()
                .filter(table -> table.keyColumns().isEmpty())
                .forEach(table -> unkeyed.put(table, new ArrayList<>()));
        try (Statement statement = connection.createStatement()) {
            try (var counted = statement.executeQuery("SELECT NAME, HELD FROM ZABBET.COUNTED")) {
                while (counted.next()) {
                    held.put(known(byName, counted.getString(1)), counted.getLong(2));
                }
            }
            try (var rows = statement.executeQuery("SELECT NAME, HELD FROM ZABBET.UNKEYED")) {
                while (rows.next()) {
                    Table table = known(byName, rows.getString(1));
                    unkeyed.computeIfAbsent(table, t -> new ArrayList<>()).add(row(table, rows.getString(2)));
                }
            }
            try (var noted =
                    statement.executeQuery("SELECT NUMBER, NAME, BEFORE, NOW FROM ZABBET.JOURNAL ORDER BY NUMBER")) {
                while (noted.next()) {
                    if (noted.getLong(1) < 0) {
                        throw cannot("afterwards another process wrote to " + noted.getString(2));
                    }
                    Table table = known(byName, noted.getString(2));
                    String before = noted.getString(3);
                    String after = noted.getString(4);
                    events.add(new Journal.Event(
                            noted.getLong(1),
                            table,
                            before == null ? null : row(table, before),
                            after == null ? null : row(table, after)));
                }
            }
        }
        requireAll(held, events, now);
        return new Left(events, unkeyed);
    }

    /** The rows that are there now have to follow from those that were, and from what was noted. */
    private static void requireAll(Map<Table, Long> held, List<Journal.Event> events, Map<Table, Long> now) {
        Map<String, Long> expected = new TreeMap<>();
        held.forEach((table, rows) -> expected.put(name(table), rows));
        for (Journal.Event event : events) {
            int more = (event.after() == null ? 0 : 1) - (event.before() == null ? 0 : 1);
            expected.merge(name(event.table()), (long) more, Long::sum);
        }
        held.keySet().forEach(table -> {
            boolean same = table.keyColumns().isEmpty()
                    || Objects.equals(expected.get(name(table)), now.getOrDefault(table, 0L));
            if (!same) {
                throw cannot(table.name() + " has " + now.getOrDefault(table, 0L) + " rows, and from what was noted "
                        + expected.get(name(table)) + " follow: it was truncated, or written to without triggers");
            }
        });
    }

    private static Table known(Map<String, Table> byName, @Nullable String name) {
        Table table = byName.get(String.valueOf(name));
        if (table == null) {
            throw cannot("table " + name + " is not there any more");
        }
        return table;
    }

    private static ZabbetException cannot(String why) {
        return new ZabbetException(
                "A process that died had changed rows of this H2 file, and what they held cannot be told: " + why
                        + ". Make the file again, or, if what it holds now is as good: DROP TABLE ZABBET.JOURNAL");
    }

    /** Returns a row as text: a list of JSON, in which bytes are an object, and what JSON has no form for is text. */
    static String text(Row row) {
        List<@Nullable Object> values = new ArrayList<>();
        for (int i = 0; i < row.columns().size(); i++) {
            values.add(written(row.at(i)));
        }
        try {
            return Json.write(values);
        } catch (InexactValueException e) {
            throw new IllegalStateException("it is plain", e);
        }
    }

    private static @Nullable Object written(@Nullable Object value) {
        if (value instanceof byte[] bytes) {
            return Map.of(BYTES, HexFormat.of().formatHex(bytes));
        }
        if (value instanceof List<?> list) {
            return list.stream().<@Nullable Object>map(H2Images::written).toList();
        }
        return value == null || value instanceof Boolean || value instanceof Long ? value : value.toString();
    }

    /** Returns the row of a table that a text stands for. */
    static Row row(Table table, String text) {
        List<?> values = (List<?>) Json.read(text).orElseThrow().value();
        List<Column> columns = table.columns();
        if (values == null || values.size() != columns.size()) {
            throw cannot(table.name() + " has other columns now");
        }
        @Nullable Object[] all = new @Nullable Object[columns.size()];
        for (int i = 0; i < all.length; i++) {
            try {
                Object plain = plain(values.get(i));
                boolean real = plain instanceof String && columns.get(i).type().kind() == Kind.FLOAT;
                all[i] = real
                        ? Double.valueOf((String) plain) // NaN and the infinities too
                        : CanonicalForm.of(columns.get(i).type(), plain);
            } catch (InexactValueException e) {
                throw cannot(table.name() + "." + columns.get(i).name() + " is "
                        + columns.get(i).type().sqlName() + " now");
            }
        }
        return Row.of(table.columnNames(), all);
    }

    private static @Nullable Object plain(@Nullable Object value) {
        if (value instanceof Map<?, ?> map) {
            return HexFormat.of().parseHex(String.valueOf(map.get(BYTES)));
        }
        if (value instanceof List<?> list) {
            return list.stream().<@Nullable Object>map(H2Images::plain).toList();
        }
        return value;
    }
}
