package dev.zabbet.jdbc.internal.track;

import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.store.Change;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Optional;

/** Takes changes back to a savepoint, and leaves it to another way to know them. */
public final class TransactionTracker implements Tracker {
    private final SharedTransaction transaction;
    private final Tracker knowing;

    private record At(SharedTransaction.Spot spot) implements Position {}

    public TransactionTracker(SharedTransaction transaction, Tracker knowing) {
        this.transaction = transaction;
        this.knowing = knowing;
    }

    @Override
    public Position here(Connection connection) throws SQLException {
        return knowing.here(connection);
    }

    @Override
    public Position point(Connection connection) throws SQLException {
        return new At(transaction.spot());
    }

    @Override
    public void requireSameTables(Connection connection) {}

    @Override
    public List<Change> changes(Connection connection, Position since) throws SQLException {
        return knowing.changes(connection, since);
    }

    @Override
    public Optional<String> undo(Connection connection, Position to) throws SQLException {
        transaction.backTo(((At) to).spot());
        knowing.undone();
        return Optional.empty();
    }

    @Override
    public void end(Connection connection) {}
}
