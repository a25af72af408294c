package dev.zabbet.jdbc.internal.track;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.store.NetChanges;
import dev.zabbet.jdbc.internal.dialect.CurrentRows;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Reference.Action;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
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
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Knows changes by comparing all contents before and after, where triggers cannot be installed. It costs as much as
 * there are rows, and needs no more rights than to read and write.
 */
public final class ComparingTracker implements Tracker {
    private static final String CONSTRAINT_VIOLATED = "23";
    private static final int ROUNDS = 4;

    private final Dialect dialect;
    private final Schema schema;
    private final @Nullable TablesAsRead tables;

    /** All rows, found by key; rows without a key by their contents and how many alike came before. */
    private record Contents(Map<Table, Map<Object, Row>> rows) implements Position {}

    /** @param tables notice changes of the tables themselves; null if nobody changes them */
    public ComparingTracker(Dialect dialect, Schema schema, @Nullable TablesAsRead tables) {
        this.dialect = dialect;
        this.schema = schema;
        this.tables = tables;
    }

    @Override
    public Position here(Connection connection) throws SQLException {
        requireSameTables(connection);
        Map<Table, Map<Object, Row>> all = new LinkedHashMap<>();
        for (Table table : schema.tables()) {
            Map<Object, Row> rows = new LinkedHashMap<>();
            Map<Row, Integer> copies = new HashMap<>();
            new TableSql(dialect, table).read(connection, Condition.all(), row -> {
                Object key = CurrentRows.isKeyed(table, row)
                        ? CurrentRows.key(table, row)
                        : List.of(row, copies.merge(row, 1, Integer::sum));
                rows.put(key, row);
            });
            all.put(table, rows);
        }
        return new Contents(all);
    }

    @Override
    public void requireSameTables(Connection connection) throws SQLException {
        if (tables != null) {
            tables.require(connection);
        }
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
    public Optional<String> undo(Connection connection, Position to) throws SQLException {
        List<Change> changes = changes(connection, to);
        boolean done = changes.isEmpty()
                || dialect.withoutReferences(
                        connection, () -> inRounds(connection, to, changes, some -> takeBack(connection, some)));
        if (!done) {
            undoChecked(connection, to, changes);
        }
        return Optional.empty();
    }

    private void takeBack(Connection connection, List<Change> changes) throws SQLException {
        for (Change change : changes) {
            if (change.rowAfter().isPresent()) {
                new TableSql(dialect, change.table())
                        .delete(connection, List.of(change.rowAfter().get()));
            }
        }
        for (Change change : changes) {
            if (change.rowBefore().isPresent()) {
                new TableSql(dialect, change.table())
                        .restore(connection, change.rowBefore().get());
            }
        }
    }

    /** Takes changes back. */
    @FunctionalInterface
    private interface TakingBack {
        void run(List<Change> changes) throws SQLException;
    }

    /** What the application's triggers do while changes are taken back is taken back in the next round. */
    private void inRounds(Connection connection, Position to, List<Change> changes, TakingBack work)
            throws SQLException {
        work.run(changes);
        boolean none =
                schema.tables().stream().allMatch(t -> t.nature().triggers().isEmpty());
        if (none && dialect.showsTriggers()) {
            return;
        }
        List<Change> left = changes(connection, to);
        for (int round = 1; round < ROUNDS && !left.isEmpty(); round++) {
            work.run(left);
            left = changes(connection, to);
        }
        if (!left.isEmpty()) {
            Change first = left.stream()
                    .filter(Change.Changed.class::isInstance)
                    .findFirst()
                    .orElse(left.get(0));
            throw new ZabbetException(
                    "The rewind was refused, and nothing was undone: triggers of the application change"
                            + " rows as they are put back, and the database user may not switch them off. What stays different is "
                            + first.table().name() + " " + first.row()
                            + (first instanceof Change.Changed changed ? ", which was " + changed.before() : "")
                            + (left.size() == 1 ? "" : ", and " + (left.size() - 1) + " more")
                            + ". Give the user the right to install triggers ("
                            + dialect.howToAllowTriggers() + ").");
        }
    }

    /** One thing to do to a row. */
    private record Step(Transactions.SqlWork work, Kind kind, Change change) {
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
    private void undoChecked(Connection connection, Position to, List<Change> changes) throws SQLException {
        try {
            Transactions.atomically(
                    connection,
                    () -> inRounds(
                            connection, to, changes, some -> takeBackSteps(connection, steps(connection, some))));
        } catch (SQLException e) {
            throw new ZabbetException(
                    "The rewind was refused, and nothing was undone: " + e.getMessage()
                            + "\nThe database user may not leave references unchecked, which would mend it"
                            + " (on PostgreSQL: GRANT SET ON PARAMETER session_replication_role TO the user).",
                    e);
        }
    }

    private List<Step> steps(Connection connection, List<Change> changes) {
        List<Table> order = schema.storingOrder().tables();
        List<Change> sorted = new ArrayList<>(changes);
        sorted.sort(Comparator.comparingInt(change -> order.indexOf(change.table())));
        List<Step> steps = new ArrayList<>();
        for (Change change : sorted) {
            TableSql table = new TableSql(dialect, change.table());
            Row before = change.rowBefore().orElse(null);
            if (before != null && change.rowAfter().isPresent()) {
                steps.add(new Step(() -> table.reset(connection, before), Step.Kind.CHANGE, change));
            } else if (before != null) {
                steps.add(new Step(() -> table.restore(connection, before), Step.Kind.RESTORE, change));
            }
        }
        Collections.reverse(sorted);
        for (Change change : sorted) {
            if (change.rowBefore().isEmpty()) {
                steps.add(new Step(() -> delete(connection, change), Step.Kind.DELETE, change));
            }
        }
        return steps;
    }

    private void delete(Connection connection, Change change) throws SQLException {
        new TableSql(dialect, change.table()).delete(connection, List.of(change.row()));
    }

    /** What is refused is tried again after the others; where all are, changed rows are deleted and stored again. */
    private void takeBackSteps(Connection connection, List<Step> steps) throws SQLException {
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
    public void end(Connection connection) {}
}
