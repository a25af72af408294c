package dev.zabbet.jdbc;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import dev.zabbet.store.NetChanges;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** Finds out what changed by comparing all contents before and after. It costs as much as there are rows. */
final class Comparison {
    private final Dialect dialect;
    private final Schema schema;

    /** All rows, found by key; rows without a key by their contents and how many of them came before. */
    record Contents(Map<Table, Map<Object, Row>> rows) {}

    Comparison(Dialect dialect, Schema schema) {
        this.dialect = dialect;
        this.schema = schema;
    }

    Contents read(Connection connection) throws SQLException {
        Map<Table, Map<Object, Row>> all = new LinkedHashMap<>();
        for (Table table : schema.tables()) {
            Map<Object, Row> rows = new LinkedHashMap<>();
            Map<Row, Integer> copies = new HashMap<>();
            new TableSql(dialect, table).read(connection, Condition.ALL, row -> {
                Object key = table.keyColumns().isEmpty()
                        ? List.of(row, copies.merge(row, 1, Integer::sum))
                        : Row.of(
                                table.keyColumns(),
                                table.keyColumns().stream().map(row::get).toArray());
                rows.put(key, row);
            });
            all.put(table, rows);
        }
        return new Contents(all);
    }

    List<Change> between(Contents before, Contents after) {
        NetChanges net = new NetChanges(schema);
        for (Table table : schema.tables()) {
            Map<Object, Row> earlier = before.rows().getOrDefault(table, Map.of());
            Map<Object, Row> later = after.rows().getOrDefault(table, Map.of());
            earlier.forEach((key, row) -> {
                Row now = later.get(key);
                if (now != row) {
                    net.add(table, key, row, now);
                }
            });
            later.forEach((key, row) -> {
                if (!earlier.containsKey(key)) {
                    net.add(table, key, null, row);
                }
            });
        }
        return net.changes();
    }
}
