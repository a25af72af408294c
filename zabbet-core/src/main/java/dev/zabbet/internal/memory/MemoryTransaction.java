package dev.zabbet.internal.memory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.store.ConstraintException;
import org.jspecify.annotations.Nullable;

/**
 * A transaction on rows in memory, begun by {@link MemoryStore#begin}. What the thread that began it does to the store
 * belongs to it; other threads see the rows as they were, and wait when they want to change some. For that thread alone.
 */
public final class MemoryTransaction implements AutoCloseable {
    private final MemoryStore store;
    private final Thread thread = Thread.currentThread();
    private final int start;
    private boolean open = true;

    MemoryTransaction(MemoryStore store, int start) {
        this.store = store;
        this.start = start;
    }

    /** A moment in a transaction that {@link #rollbackTo} goes back to. */
    public static final class Savepoint {
        private final MemoryTransaction of;
        private final int size;

        private Savepoint(MemoryTransaction of, int size) {
            this.of = of;
            this.size = size;
        }
    }

    /**
     * Makes all changes visible to other threads, after the references that wait for it are tested.
     *
     * @throws ConstraintException if such a reference leads nowhere; the transaction is rolled back then
     * @throws ZabbetException if the transaction is over, or belongs to another thread
     */
    public void commit() {
        requireOpen("committed");
        open = false;
        store.commit(this);
    }

    /**
     * Undoes all changes. Numbers that were given stay given, as in a database.
     *
     * @throws ZabbetException if the transaction is over, or belongs to another thread
     */
    public void rollback() {
        requireOpen("rolled back");
        open = false;
        store.rollback(this);
    }

    /** Notes this moment. */
    public Savepoint savepoint() {
        requireOpen("given a savepoint");
        return new Savepoint(this, store.logSize());
    }

    /**
     * Undoes the changes since a savepoint, which stays valid; later ones do not.
     *
     * @throws ZabbetException if it belongs to another transaction, or to a part that was rolled back
     */
    public void rollbackTo(Savepoint savepoint) {
        requireOpen("rolled back");
        if (savepoint.of != this || savepoint.size > store.logSize()) {
            throw new ZabbetException("This savepoint is not of this transaction, or a rollback went behind it.");
        }
        store.undoTo(savepoint.size);
    }

    /** Tells whether it is neither committed nor rolled back. */
    public boolean isOpen() {
        return open;
    }

    /** Rolls back what was not committed. */
    @Override
    public void close() {
        if (open) {
            rollback();
        }
    }

    int start() {
        return start;
    }

    boolean isMine() {
        return thread == Thread.currentThread();
    }

    /** Ends it from outside, when the store is rewound. */
    void abandon() {
        open = false;
    }

    String describe() {
        return "a transaction of thread '" + thread.getName() + "'";
    }

    private void requireOpen(@Nullable String what) {
        if (!open) {
            throw new ZabbetException("The transaction is over and cannot be " + what + ".");
        }
        if (!isMine()) {
            throw new ZabbetException("A transaction belongs to the thread that began it, '" + thread.getName()
                    + "'; this is '" + Thread.currentThread().getName() + "'.");
        }
    }
}
