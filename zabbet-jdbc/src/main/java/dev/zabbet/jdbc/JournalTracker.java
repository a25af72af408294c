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

    /** Undoes all that a process that died left behind; returns how many rows it had touched. */
    int settleLeftovers(Connection connection) throws SQLException {
        return undoAfter(connection, 0);
    }

    private int undoAfter(Connection connection, long number) throws SQLException {
        Map<Table, NetEffect.Undo> undo = new NetEffect(schema, journal.noted(connection, number)).undo();
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
