package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Reference.Action;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import dev.zabbet.store.NetChanges;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Savepoint;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;

/**
 * Knows changes by comparing all contents before and after, where triggers cannot be installed. It costs as much as
 * there are rows, and needs no more rights than to read and write.
 */
final class ComparingTracker implements Tracker {
    private static final String CONSTRAINT_VIOLATED = "23";

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

    /** One thing to do to a row. */
    private record Step(Dialect.SqlWork work, Kind kind, Change change) {
        private enum Kind {
            RESTORE,
            CHANGE,
            DELETE
        }

        boolean isChange() {
            return kind == Kind.CHANGE;
        }

        boolean isDelete() {
            return kind == Kind.DELETE;
        }
    }

    /** Parents come back before their children, and rows that were added go after all others let go of them. */
    private void undoChecked(Connection connection, List<Change> changes) throws SQLException {
        List<Table> order = schema.storingOrder().tables();
        List<Change> sorted = new ArrayList<>(changes);
        sorted.sort(Comparator.comparingInt(change -> order.indexOf(change.table())));
        List<Step> steps = new ArrayList<>();
        for (Change change : sorted) {
            TableSql table = new TableSql(dialect, change.table());
            if (change instanceof Change.Removed removed) {
                steps.add(new Step(() -> table.restore(connection, removed.row()), Step.Kind.RESTORE, change));
            } else if (change instanceof Change.Changed changed) {
                steps.add(new Step(() -> table.reset(connection, changed.before()), Step.Kind.CHANGE, change));
            }
        }
        Collections.reverse(sorted);
        for (Change change : sorted) {
            if (change instanceof Change.Added) {
                steps.add(new Step(() -> delete(connection, change), Step.Kind.DELETE, change));
            }
        }
        try {
            Dialect.atomically(connection, () -> takeBack(connection, steps));
        } catch (SQLException e) {
            throw new ZabbetException(
                    "The rewind was refused, and nothing was undone: " + e.getMessage()
                            + "\nThe database user may not leave references unchecked, which would mend it"
                            + " (on PostgreSQL: GRANT SET ON PARAMETER session_replication_role TO the user).",
                    e);
        }
    }

    private void delete(Connection connection, Change change) throws SQLException {
        new TableSql(dialect, change.table()).delete(connection, List.of(change.row()));
    }

    /** What is refused is tried again after the others; where all are, changed rows are deleted and stored again. */
    private void takeBack(Connection connection, List<Step> steps) throws SQLException {
        List<Step> left = steps;
        while (!left.isEmpty()) {
            List<Step> refused = new ArrayList<>();
            SQLException refusal = null;
            for (Step step : left) {
                if (step.isDelete() && !refused.isEmpty() && takesAlong(connection, step.change())) {
                    refused.add(step); // until the rows that would follow it have let go of it
                    continue;
                }
                Savepoint before = connection.setSavepoint();
                try {
                    step.work().run();
                    connection.releaseSavepoint(before);
                } catch (SQLException e) {
                    if (!String.valueOf(e.getSQLState()).startsWith(CONSTRAINT_VIOLATED)) {
                        throw e;
                    }
                    connection.rollback(before);
                    refused.add(step);
                    refusal = e;
                }
            }
            if (refused.size() == left.size() && refusal != null) {
                List<Step> other = new ArrayList<>();
                for (Step step : refused) {
                    if (step.isChange() && !takesAlong(connection, step.change())) {
                        anew(connection, step.change()).forEach(other::add);
                    } else {
                        other.add(step);
                    }
                }
                if (other.equals(refused)) {
                    throw refusal;
                }
                refused = other;
            }
            left = refused;
        }
    }

    /** Tells whether a row follows, by deletion or with an empty reference, when this one is deleted. */
    private boolean takesAlong(Connection connection, Change change) throws SQLException {
        for (Table child : schema.tables()) {
            for (Reference reference : child.references()) {
                if (!reference.target().equals(change.table().name()) || reference.onDelete() == Action.REFUSE) {
                    continue;
                }
                List<Condition> same = new ArrayList<>();
                for (int i = 0; i < reference.columns().size(); i++) {
                    Object value = change.row().get(reference.targetColumns().get(i));
                    same.add(new Condition.Equal(reference.columns().get(i), value));
                }
                if (new TableSql(dialect, child).any(connection, new Condition.And(same))) {
                    return true;
                }
            }
        }
        return false;
    }

    private Stream<Step> anew(Connection connection, Change change) {
        Row before = ((Change.Changed) change).before();
        return Stream.of(
                new Step(() -> delete(connection, change), Step.Kind.DELETE, change),
                new Step(
                        () -> new TableSql(dialect, change.table()).restore(connection, before),
                        Step.Kind.RESTORE,
                        change));
    }

    @Override
    public void remove(Connection connection) {}
}
