package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.jdbc.internal.dialect.Journal.Event;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Replaces what events say of rows afterwards by what is stored now, found by key. Triggers do not see all that happens
 * to a row after them (computed columns, rows replaced or set null by the engine); the row itself does.
 */
public final class CurrentRows {
    private final Dialect dialect;
    private final Connection connection;

    public CurrentRows(Dialect dialect, Connection connection) {
        this.dialect = dialect;
        this.connection = connection;
    }

    /** Returns one event for each touched row of a table with a key; those of tables without a key stay as they are. */
    public List<Event> complete(List<Event> events) throws SQLException {
        List<Event> complete = new ArrayList<>();
        Map<Table, Map<Row, Event>> first = new LinkedHashMap<>();
        for (Event event : events) {
            Table table = event.table();
            if (!isKeyed(event)) {
                complete.add(event);
                continue;
            }
            Map<Row, Event> ofTable = first.computeIfAbsent(table, t -> new LinkedHashMap<>());
            Row before = event.before();
            Row after = event.after();
            if (before != null) {
                ofTable.putIfAbsent(key(table, before), new Event(event.number(), table, before, null));
            }
            if (after != null) {
                ofTable.putIfAbsent(key(table, after), new Event(event.number(), table, null, after));
            }
        }
        for (Map.Entry<Table, Map<Row, Event>> ofTable : first.entrySet()) {
            Table table = ofTable.getKey();
            Map<Row, Row> now = new HashMap<>();
            new TableSql(dialect, table)
                    .readKeys(
                            connection, List.copyOf(ofTable.getValue().keySet()), row -> now.put(key(table, row), row));
            ofTable.getValue().forEach((key, event) -> {
                @Nullable Row current = now.get(key);
                if (event.before() != null || current != null) {
                    complete.add(new Event(event.number(), table, event.before(), current));
                }
            });
        }
        return complete;
    }

    /** Tells whether an event's row is found by its key: in SQLite a primary key may be null, and so be that of many rows. */
    static boolean isKeyed(Event event) {
        Row before = event.before();
        Row after = event.after();
        return (before == null || isKeyed(event.table(), before)) && (after == null || isKeyed(event.table(), after));
    }

    public static boolean isKeyed(Table table, Row row) {
        return !table.keyColumns().isEmpty()
                && table.keyColumns().stream().noneMatch(column -> row.get(column) == null);
    }

    public static Row key(Table table, Row row) {
        return Row.of(
                table.keyColumns(), table.keyColumns().stream().map(row::get).toArray());
    }
}
