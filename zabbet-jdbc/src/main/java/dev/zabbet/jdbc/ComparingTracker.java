package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import dev.zabbet.store.NetChanges;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * Knows changes by comparing all contents before and after, where triggers cannot be installed. It costs as much as
 * there are rows, and needs no more rights than to read and write.
 */
final class ComparingTracker implements Tracker {
    private final Dialect dialect;
    private final Schema schema;

    /** All rows, found by key; rows without a key by their contents and how many alike came before. */
    private record Contents(Map<Table, Map<Object, Row>> rows) implements Position {}

    ComparingTracker(Dialect dialect, Schema schema) {
        this.dialect = dialect;
        this.schema = schema;
    }

    @Override
    public Position here(Connection connection) throws SQLException {
        Map<Table, Map<Object, Row>> all = new LinkedHashMap<>();
        for (Table table : schema.tables()) {
            Map<Object, Row> rows = new LinkedHashMap<>();
            Map<Row, Integer> copies = new HashMap<>();
            new TableSql(dialect, table).read(connection, Condition.ALL, row -> {
                Object key = table.keyColumns().isEmpty()
                        ? List.of(row, copies.merge(row, 1, Integer::sum))
                        : CurrentRows.key(table, row);
                rows.put(key, row);
            });
            all.put(table, rows);
        }
        return new Contents(all);
    }

    @Override
    public List<Change> changes(Connection connection, Position since) throws SQLException {
        Contents before = (Contents) since;
        Contents after = (Contents) here(connection);
        NetChanges net = new NetChanges(schema);
        for (Table table : schema.tables()) {
            Map<Object, Row> earlier = before.rows().getOrDefault(table, Map.of());
            Map<Object, Row> later = after.rows().getOrDefault(table, Map.of());
            earlier.forEach((key, row) -> net.add(table, key, row, later.get(key)));
            later.forEach((key, row) -> {
                if (!earlier.containsKey(key)) {
                    net.add(table, key, null, row);
                }
            });
        }
        return net.changes();
    }

    @Override
    public void undo(Connection connection, Position to) throws SQLException {
        List<Change> changes = changes(connection, to);
        boolean done = changes.isEmpty()
                || dialect.withoutReferences(connection, () -> {
                    for (Change change : changes) {
                        if (!(change instanceof Change.Removed)) {
                            new TableSql(dialect, change.table()).delete(connection, List.of(change.row()));
                        }
                    }
                    for (Change change : changes) {
                        if (change instanceof Change.Changed changed) {
                            new TableSql(dialect, change.table()).restore(connection, changed.before());
                        } else if (change instanceof Change.Removed removed) {
                            new TableSql(dialect, change.table()).restore(connection, removed.row());
                        }
                    }
                });
        if (!done) {
            undoChecked(connection, changes);
        }
    }

    /** Parents come back before their children, and rows that were added go after all others let go of them. */
    private void undoChecked(Connection connection, List<Change> changes) throws SQLException {
        List<Table> order = schema.storingOrder().tables();
        List<Change> sorted = new ArrayList<>(changes);
        sorted.sort(Comparator.comparingInt(change -> order.indexOf(change.table())));
        try {
            Dialect.atomically(connection, () -> takeBack(connection, sorted));
        } catch (SQLException e) {
            throw new ZabbetException(
                    "The rewind was refused, and nothing was undone: " + e.getMessage()
                            + "\nThe database user may not leave references unchecked, which would mend it"
                            + " (on PostgreSQL: GRANT SET ON PARAMETER session_replication_role TO the user).",
                    e);
        }
    }

    private void takeBack(Connection connection, List<Change> sorted) throws SQLException {
        for (Change change : sorted) {
            if (change instanceof Change.Removed removed) {
                new TableSql(dialect, change.table()).restore(connection, removed.row());
            }
        }
        for (Change change : sorted) {
            if (change instanceof Change.Changed changed) {
                new TableSql(dialect, change.table()).reset(connection, changed.before());
            }
        }
        Collections.reverse(sorted);
        for (Change change : sorted) {
            if (change instanceof Change.Added added) {
                new TableSql(dialect, change.table()).delete(connection, List.of(added.row()));
            }
        }
    }

    @Override
    public void remove(Connection connection) {}
}
