package dev.zabbet.jdbc;

import dev.zabbet.store.Change;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Savepoint;
import java.util.List;

/** Knows changes by comparing all contents, and takes them back to a savepoint. */
final class TransactionTracker implements Tracker {
    private final OneTransaction transaction;
    private final ComparingTracker comparing;

    private record At(Savepoint savepoint) implements Position {}

    TransactionTracker(OneTransaction transaction, ComparingTracker comparing) {
        this.transaction = transaction;
        this.comparing = comparing;
    }

    @Override
    public Position here(Connection connection) throws SQLException {
        return comparing.here(connection);
    }

    @Override
    public Position point(Connection connection) throws SQLException {
        return new At(transaction.savepoint());
    }

    @Override
    public void requireSameTables(Connection connection) {}

    @Override
    public List<Change> changes(Connection connection, Position since) throws SQLException {
        return comparing.changes(connection, since);
    }

    @Override
    public void undo(Connection connection, Position to) throws SQLException {
        transaction.backTo(((At) to).savepoint());
    }

    @Override
    public void remove(Connection connection) {}
}
