package dev.zabbet.jdbc.internal.track;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.NetEffect;
import dev.zabbet.jdbc.internal.dialect.NotedMeanwhileException;
import dev.zabbet.jdbc.internal.dialect.OpenTransactions;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** Knows changes from the journal that triggers write. It costs as much as there are changes. */
public final class JournalTracker implements Tracker {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");
    private static final int MOST_ATTEMPTS = 20; // to undo while others write
    private static final long PATIENCE_NS = 5_000_000_000L;

    private final Dialect dialect;
    private final Schema schema;
    private final Journal journal;

    private final @Nullable Beside beside;

    /** Reads what others have committed, where a transaction does not see it. */
    @FunctionalInterface
    public interface Beside {
        List<Journal.Event> noted(long after);
    }

    private record At(long number, Optional<String> sequences) implements Position {}

    public JournalTracker(Dialect dialect, Schema schema, Journal journal) {
        this(dialect, schema, journal, null);
    }

    public JournalTracker(Dialect dialect, Schema schema, Journal journal, @Nullable Beside beside) {
        this.beside = beside;
        this.dialect = dialect;
        this.schema = schema;
        this.journal = journal;
    }

    Journal journal() {
        return journal;
    }

    @Override
    public Position here(Connection connection) throws SQLException {
        return at(journal.here(SharedTransaction.direct(connection), false));
    }

    @Override
    public Position point(Connection connection) throws SQLException {
        return at(journal.here(SharedTransaction.direct(connection), true));
    }

    private static Position at(Journal.Look look) {
        return new At(look.number(), look.sequences());
    }

    @Override
    public void requireSameTables(Connection connection) throws SQLException {
        journal.install(connection);
    }

    @Override
    public List<Change> changes(Connection connection, Position since) throws SQLException {
        long number = ((At) since).number();
        List<Journal.Event> seen =
                journal.changed(SharedTransaction.direct(connection), number).events();
        return new NetEffect(schema, beside == null ? seen : together(seen, beside.noted(number))).changes();
    }

    private static List<Journal.Event> together(List<Journal.Event> seen, List<Journal.Event> others) {
        Map<Long, Journal.Event> byNumber = new TreeMap<>();
        others.forEach(event -> byNumber.put(event.number(), event));
        seen.forEach(event -> byNumber.put(event.number(), event));
        return List.copyOf(byNumber.values());
    }

    @Override
    public Optional<String> undo(Connection connection, Position to) throws SQLException {
        long number = ((At) to).number();
        NetEffect noOthers = new NetEffect(schema, List.of());
        Journal.Look look = journal.toUndo(connection, number);
        long deadline = System.nanoTime() + PATIENCE_NS;
        int attempts = 0;
        while (attempts < MOST_ATTEMPTS && System.nanoTime() - deadline < 0) {
            attempts++;
            try {
                undo(connection, new NetEffect(schema, look.events()).undo(noOthers), Journal.Stretch.of(number, look));
                return look.sequences();
            } catch (SQLException e) {
                look = lookAgain(connection, number, look, e);
            }
        }
        throw OpenTransactions.beside(attempts);
    }

    /** Others may have got in the way: then they have been noted. */
    private Journal.Look lookAgain(Connection connection, long number, Journal.Look last, SQLException failure)
            throws SQLException {
        Journal.Look now;
        try {
            now = journal.toUndo(connection, number);
        } catch (SQLException | RuntimeException e) {
            if (failure instanceof NotedMeanwhileException) {
                throw e;
            }
            failure.addSuppressed(e);
            throw failure;
        }
        boolean inTheWay = failure instanceof NotedMeanwhileException
                || now.seen() != last.seen()
                || OpenTransactions.isRolledBack(failure);
        if (!inTheWay) {
            throw failure;
        }
        return now;
    }

    /**
     * Undoes what a stage left behind that could not do it itself.
     *
     * @param end what was the stage's own, as {@link Journal#end} said it; empty if all was. Rows that others touched
     *     afterwards stay as they are
     */
    public Settled settleLeftovers(Connection connection, String end) throws SQLException {
        awaitLastStatement(connection);
        NetEffect others = new NetEffect(schema, end.isEmpty() ? List.of() : journal.noted(connection, end));
        if (others.isEmpty()) {
            return new Settled(undoAll(connection, others), 0);
        }
        journal.forget(connection, end);
        return new Settled(undoAll(connection, others), others.rows());
    }

    /** A server carries a statement to its end although the process that asked for it is dead. Whoever stays open is another. */
    private void awaitLastStatement(Connection connection) throws SQLException {
        try {
            journal.await(connection);
        } catch (ZabbetException e) {
            LOG.log(Level.DEBUG, "While leftovers are undone: {0}", e.getMessage());
        }
    }

    /**
     * What became of a stage's leftovers.
     *
     * @param undone how many rows were brought back to how they were
     * @param others how many rows others have touched since
     */
    public record Settled(int undone, int others) {}

    private int undoAll(Connection connection, NetEffect others) throws SQLException {
        Map<Table, NetEffect.Undo> undo = new NetEffect(schema, journal.noted(connection, 0)).undo(others);
        undo(connection, undo, Journal.Stretch.all(0));
        return undo.values().stream()
                .mapToInt(u -> Math.max(u.toDelete.size() + u.toTakeAway.size(), u.toRestore.size()))
                .sum();
    }

    private void undo(Connection connection, Map<Table, NetEffect.Undo> undo, Journal.Stretch stretch)
            throws SQLException {
        if (undo.isEmpty() || journal.undoAtOnce(connection, undo, stretch)) {
            return;
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
            journal.forget(connection, stretch);
        });
        if (!done && !journal.undoChecked(connection, undo, stretch)) {
            throw new ZabbetException(
                    "The database user may not leave references unchecked, which a rewind needs."
                            + " Give it the right (on PostgreSQL: GRANT SET ON PARAMETER session_replication_role TO the user).");
        }
    }

    @Override
    public void undone() {
        journal.undone();
    }

    @Override
    public void end(Connection connection) throws SQLException {
        journal.rest(connection);
    }
}
