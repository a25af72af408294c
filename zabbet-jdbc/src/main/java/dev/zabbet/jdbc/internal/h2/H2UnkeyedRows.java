package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.TreeMap;
import java.util.function.LongSupplier;

/**
 * Rows without a key are compared: when two transactions meet on one, H2 tells the trigger of a state that never was committed, and
 * without a key there is no looking at the row itself.
 */
final class H2UnkeyedRows {
    private final H2Dialect dialect;
    private final Schema schema;
    private final NavigableMap<Long, Map<Table, List<Row>>> held = new TreeMap<>();

    H2UnkeyedRows(H2Dialect dialect, Schema schema) {
        this.dialect = dialect;
        this.schema = schema;
    }

    /** Reads all rows of tables without a key. */
    Map<Table, List<Row>> read(Connection connection) throws SQLException {
        Map<Table, List<Row>> contents = new LinkedHashMap<>();
        for (Table table : schema.tables()) {
            if (table.keyColumns().isEmpty()) {
                contents.put(table, read(connection, table));
            }
        }
        return contents;
    }

    List<Row> read(Connection connection, Table table) throws SQLException {
        List<Row> rows = new ArrayList<>();
        new TableSql(dialect, table).read(connection, Condition.all(), rows::add);
        return rows;
    }

    /** Keeps what such tables held at a number. */
    void keep(long number, Map<Table, List<Row>> contents) {
        held.put(number, contents);
    }

    void forgetAfter(long number) {
        held.tailMap(number, false).clear();
    }

    void forgetAll() {
        held.clear();
    }

    /** Adds what has become of such rows since a number; how often a row that occurs several times is there counts. */
    void addChanges(Connection connection, long after, LongSupplier numbers, List<Journal.Event> events)
            throws SQLException {
        for (Map.Entry<Table, List<Row>> then :
                held.getOrDefault(after, Map.of()).entrySet()) {
            Table table = then.getKey();
            Map<Row, Integer> copies = new LinkedHashMap<>();
            read(connection, table).forEach(row -> copies.merge(row, 1, Integer::sum));
            then.getValue().forEach(row -> copies.merge(row, -1, Integer::sum));
            copies.forEach((row, more) -> {
                for (int i = 0; i < Math.abs(more); i++) {
                    events.add(new Journal.Event(
                            numbers.getAsLong(), table, more < 0 ? row : null, more < 0 ? null : row));
                }
            });
        }
    }
}
