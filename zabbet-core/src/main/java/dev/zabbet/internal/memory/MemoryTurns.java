package dev.zabbet.internal.memory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.store.ConstraintException;
import java.util.Optional;

/** Takes turns: one transaction at a time changes rows, and others wait. Every method is called with the store's lock held. */
final class MemoryTurns {
    private static final long PATIENCE = 5_000; // milliseconds

    private final MemoryStore store;

    MemoryTurns(MemoryStore store) {
        this.store = store;
    }

    MemoryTransaction begin() {
        if (store.open != null && store.open.isMine()) {
            throw new ZabbetException("This thread has a transaction open already; commit it or roll it back first.");
        }
        awaitTurn();
        MemoryTransaction begun = new MemoryTransaction(store, store.log.size());
        store.open = begun;
        return begun;
    }

    Optional<MemoryTransaction> transaction() {
        return Optional.ofNullable(store.open).filter(MemoryTransaction::isMine);
    }

    void commit(MemoryTransaction transaction) {
        try {
            store.references.require(store.log.since(transaction.start()), true);
            store.log.commit();
        } catch (ConstraintException e) {
            store.log.undoTo(transaction.start());
            throw e;
        } finally {
            ended();
        }
    }

    void rollback(MemoryTransaction transaction) {
        store.log.undoTo(transaction.start());
        ended();
    }

    void ended() {
        store.log.rolledBack(store.tables.values());
        store.open = null;
        store.notifyAll();
    }

    /** Waits until no other thread has a transaction open. */
    void awaitTurn() {
        long until = System.nanoTime() + PATIENCE * 1_000_000;
        while (store.open != null && !store.open.isMine()) {
            long left = (until - System.nanoTime()) / 1_000_000;
            if (left <= 0) {
                throw new ZabbetException("Waited " + PATIENCE / 1000 + " seconds for " + store.open.describe()
                        + ". Let it commit or roll back.");
            }
            try {
                store.wait(left);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new ZabbetException("Interrupted while waiting for " + store.open.describe() + ".", e);
            }
        }
    }

    /** Does one statement, all or nothing; outside of a transaction it is committed at once. */
    void statement(Runnable work) {
        awaitTurn();
        int before = store.log.size();
        try {
            work.run();
            store.references.require(store.log.since(before), false);
            if (store.open == null) {
                store.references.require(store.log.since(before), true);
                store.log.commit();
            }
        } catch (RuntimeException e) {
            store.log.undoTo(before);
            if (store.open == null) {
                store.log.rolledBack(store.tables.values());
            }
            throw e;
        }
    }
}
