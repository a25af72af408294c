package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;

/** Knows changes from the journal that triggers write. It costs as much as there are changes. */
final class JournalTracker implements Tracker {
    private final Dialect dialect;
    private final Schema schema;
    private final Journal journal;

    private record At(long number) implements Position {}

    JournalTracker(Dialect dialect, Schema schema, Journal journal) {
        this.dialect = dialect;
        this.schema = schema;
        this.journal = journal;
    }

    Journal journal() {
        return journal;
    }

    @Override
    public Position here(Connection connection) throws SQLException {
        journal.install(connection);
        return new At(journal.settle(connection));
    }

    @Override
    public void requireSameTables(Connection connection) throws SQLException {
        journal.install(connection);
    }

    @Override
    public List<Change> changes(Connection connection, Position since) throws SQLException {
        requireSameTables(connection);
        journal.await(connection);
        return new NetEffect(schema, journal.events(connection, ((At) since).number())).changes();
    }

    @Override
    public void undo(Connection connection, Position to) throws SQLException {
        journal.installAfterAll(connection);
        journal.await(connection);
        undoAfter(connection, ((At) to).number());
    }

    /**
     * Undoes what a stage left behind that could not do it itself.
     *
     * @param end what was the stage's own, as {@link Journal#end} said it; empty if all was. Rows that others touched
     *     afterwards stay as they are
     */
    Settled settleLeftovers(Connection connection, String end) throws SQLException {
        NetEffect others = new NetEffect(schema, end.isEmpty() ? List.of() : journal.noted(connection, end));
        if (others.isEmpty()) {
            return new Settled(undoAfter(connection, 0, others), 0);
        }
        journal.forget(connection, end);
        return new Settled(undoAfter(connection, 0, others), others.rows());
    }

    /**
     * What became of a stage's leftovers.
     *
     * @param undone how many rows were brought back to how they were
     * @param others how many rows others have touched since
     */
    record Settled(int undone, int others) {}

    private int undoAfter(Connection connection, long number) throws SQLException {
        return undoAfter(connection, number, new NetEffect(schema, List.of()));
    }

    private int undoAfter(Connection connection, long number, NetEffect others) throws SQLException {
        Map<Table, NetEffect.Undo> undo = new NetEffect(schema, journal.noted(connection, number)).undo(others);
        if (undo.isEmpty()) {
            return 0;
        }
        boolean done = dialect.unnoticed(connection, () -> {
            for (Map.Entry<Table, NetEffect.Undo> table : undo.entrySet()) {
                NetEffect.Undo rows = table.getValue();
                if (!rows.toDelete.isEmpty()) {
                    new TableSql(dialect, table.getKey()).delete(connection, rows.toDelete);
                }
                if (!rows.toTakeAway.isEmpty()) {
                    journal.takeAway(connection, table.getKey(), rows.toTakeAway);
                }
            }
            for (Map.Entry<Table, NetEffect.Undo> table : undo.entrySet()) {
                if (!table.getValue().toRestore.isEmpty()) {
                    journal.restore(connection, table.getKey(), table.getValue().toRestore);
                }
            }
            journal.forget(connection, number);
        });
        if (!done && !journal.undoChecked(connection, undo, number)) {
            throw new ZabbetException(
                    "The database user may not leave references unchecked, which a rewind needs."
                            + " Give it the right (on PostgreSQL: GRANT SET ON PARAMETER session_replication_role TO the user).");
        }
        return undo.values().stream()
                .mapToInt(u -> Math.max(u.toDelete.size() + u.toTakeAway.size(), u.toRestore.size()))
                .sum();
    }

    @Override
    public void remove(Connection connection) throws SQLException {
        journal.remove(connection);
    }
}
