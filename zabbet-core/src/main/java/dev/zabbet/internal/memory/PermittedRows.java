package dev.zabbet.internal.memory;

import dev.zabbet.internal.memory.RolePermits.Operation;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.function.Predicate;

/** Rows in memory as a role sees them. */
final class PermittedRows implements MemoryRows {
    private final MemoryStore store;
    private final RolePermits permits;

    PermittedRows(MemoryStore store, RolePermits permits) {
        this.store = store;
        this.permits = permits;
    }

    @Override
    public Schema schema() {
        return store.schema();
    }

    @Override
    public Clock clock() {
        return store.clock();
    }

    @Override
    public List<Row> rows(Table table, Condition where) {
        Predicate<Row> visible = permits.rows(table, Operation.READ);
        return store.rows(table, where).stream().filter(visible).toList();
    }

    @Override
    public boolean holds(Table table, Condition where) {
        return !rows(table, where).isEmpty();
    }

    @Override
    public Optional<Row> find(Table table, Object key) {
        return store.find(table, key).filter(permits.rows(table, Operation.READ));
    }

    @Override
    public Row insert(Table table, Row row) {
        permits.rows(table, Operation.ADD);
        return store.insert(table, row, stored -> permits.require(table, Operation.ADD, stored));
    }

    @Override
    public int update(Table table, Condition where, Row changes) {
        Predicate<Row> changeable = permits.rows(table, Operation.CHANGE).and(permits.rows(table, Operation.READ));
        return store.update(
                table, where, changeable, changes, changed -> permits.require(table, Operation.CHANGE, changed));
    }

    @Override
    public int delete(Table table, Condition where) {
        return store.delete(
                table, where, permits.rows(table, Operation.REMOVE).and(permits.rows(table, Operation.READ)));
    }

    @Override
    public MemoryTransaction begin() {
        return store.begin();
    }

    @Override
    public Optional<MemoryTransaction> transaction() {
        return store.transaction();
    }
}
