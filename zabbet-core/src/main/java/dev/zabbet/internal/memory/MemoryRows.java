package dev.zabbet.internal.memory;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Store;
import java.time.Clock;
import java.util.List;
import java.util.Optional;

/** Rows in memory that are read and written one by one, as a whole or as a role sees them. Thread-safe. */
public interface MemoryRows {
    /** Returns a store as what it is, if its rows live in memory. */
    static Optional<MemoryStore> of(Store store) {
        return store instanceof MemoryStore memory ? Optional.of(memory) : Optional.empty();
    }

    /** Returns the tables. */
    Schema schema();

    /** Returns what the present time is taken from. */
    Clock clock();

    /** Returns the rows for which a condition holds, in key order where the table has a key. */
    List<Row> rows(Table table, Condition where);

    /** Tells whether there is a row for which a condition holds. */
    boolean holds(Table table, Condition where);

    /** Finds the row of a table that has this key, a single value. */
    Optional<Row> find(Table table, Object key);

    /**
     * Stores one row; columns left out get their number, default or null. Values may have any form that converts; they
     * are rounded as a database rounds.
     *
     * @return the row as stored, with all columns
     * @throws ConstraintException if a constraint or the role's rights refuse it
     */
    Row insert(Table table, Row row);

    /**
     * Changes columns of all rows for which a condition holds.
     *
     * @return how many rows were changed
     * @throws ConstraintException if one is refused; nothing is changed then
     */
    int update(Table table, Condition where, Row changes);

    /**
     * Deletes all rows for which a condition holds, and what their references take along.
     *
     * @return how many rows were deleted, without those taken along
     * @throws ConstraintException if one is refused; nothing is deleted then
     */
    int delete(Table table, Condition where);

    /** Begins a transaction of the current thread. */
    MemoryTransaction begin();

    /** Returns the transaction that the current thread has open. */
    Optional<MemoryTransaction> transaction();
}
