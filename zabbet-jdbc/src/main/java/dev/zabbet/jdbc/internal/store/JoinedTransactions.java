package dev.zabbet.jdbc.internal.store;

import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.Session;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.jdbc.internal.engine.Engines;
import dev.zabbet.jdbc.internal.track.ComparingTracker;
import dev.zabbet.jdbc.internal.track.JournalTracker;
import dev.zabbet.jdbc.internal.track.Tracker;
import dev.zabbet.jdbc.internal.track.TransactionTracker;
import java.sql.Connection;
import java.sql.SQLException;

/** Stores that work beside the stage's own, in a transaction that somebody else has begun and will end. */
final class JoinedTransactions {
    private final JdbcStore store;

    JoinedTransactions(JdbcStore store) {
        this.store = store;
    }

    JdbcStore within(Connection connection) throws SQLException {
        if (!store.tables.areWatched()) {
            store.tables.point();
        }
        Journal journal = store.tables.journal();
        Dialect own = Engines.of(connection);
        SharedTransaction joined = SharedTransaction.joined(connection, own);
        Session inside = new Session(joined);
        inside.speaks(own);
        if (journal != null) {
            journal.joins(true);
        }
        Tracker knowing = journal == null
                ? new ComparingTracker(own, store.tables.schema(), null)
                : new JournalTracker(
                        own,
                        store.tables.schema(),
                        journal,
                        store.dialect.readsSnapshots()
                                ? number ->
                                        store.session.call("What changed cannot be read", c -> journal.noted(c, number))
                                : null);
        JdbcStore inner = new JdbcStore(
                joined,
                inside,
                own,
                store.place,
                store.lease,
                store.tables.schema(),
                new TransactionTracker(joined, knowing),
                JdbcStore.AtEnd.KEEP,
                null,
                store.keySequences);
        inner.transaction = joined;
        return inner;
    }

    void leaveTransaction() {
        Journal journal = store.tables.journal();
        if (journal != null) {
            journal.joins(false);
        }
    }
}
