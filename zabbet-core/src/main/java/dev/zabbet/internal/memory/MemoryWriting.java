package dev.zabbet.internal.memory;

import dev.zabbet.internal.mapping.ColumnFit;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import java.util.List;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/** Writes single rows: fills them, requires what the schema says, and follows references. Called with the store's lock held. */
final class MemoryWriting implements MemoryReferences.Editor {
    private final boolean enforcesTypes;
    private final MemoryLog log;
    private final MemoryReferences references;

    MemoryWriting(boolean enforcesTypes, MemoryLog log, MemoryReferences references) {
        this.enforcesTypes = enforcesTypes;
        this.log = log;
        this.references = references;
    }

    void set(MemoryTable table, @Nullable Object[] values, boolean[] given, Row row) {
        List<String> names = row.columns();
        for (int i = 0; i < names.size(); i++) {
            int at = table.table.requirePosition(names.get(i));
            Column column = table.table.columns().get(at);
            if (column.isComputed()) {
                throw MemoryConstraints.refused(
                        table, column.name() + " is computed and cannot be written", "428C9", null, values);
            }
            values[at] = row.at(i);
            given[at] = true;
        }
        for (int i = 0; i < values.length; i++) {
            if (given[i] || row.has(table.names.get(i))) {
                try {
                    values[i] = ColumnFit.of(table.table.columns().get(i), values[i]);
                } catch (ColumnFit.MisfitException e) {
                    if (enforcesTypes) {
                        throw MemoryConstraints.refused(table, e.clause(), e.sqlState, null, values);
                    }
                }
            }
        }
    }

    @Nullable
    Object[] insert(MemoryTable table, @Nullable Object[] values, boolean[] given) {
        return insert(table, values, given, row -> {});
    }

    /** Rights are tested before constraints, as PostgreSQL does it. */
    @Nullable
    Object[] insert(MemoryTable table, @Nullable Object[] values, boolean[] given, Consumer<Row> allowed) {
        for (int i = 0; i < values.length; i++) {
            Column column = table.table.columns().get(i);
            if (column.isNumbered()) {
                if (values[i] == null) {
                    values[i] = column.generation() == Generation.SEQUENCE && given[i] ? null : nextNumber(table);
                } else if (values[i] instanceof Long number) {
                    table.counter = Math.max(table.counter, number);
                }
            } else if (!given[i] && table.filling.hasDefault(i)) {
                values[i] = table.filling.defaultOf(i);
            }
        }
        table.filling.compute(values);
        allowed.accept(Row.of(table.names, values));
        MemoryConstraints.require(table, null, values, enforcesTypes);
        Object key = table.keyOf(values);
        if (table.has(key)) {
            throw MemoryConstraints.duplicateKey(table, key, values);
        }
        log.put(table, key, values);
        return values;
    }

    static Long nextNumber(MemoryTable table) {
        return ++table.counter;
    }

    @Override
    public void replace(MemoryTable table, Object key, @Nullable Object[] values) {
        replace(table, key, values, row -> {});
    }

    void replace(MemoryTable table, Object key, @Nullable Object[] values, Consumer<Row> allowed) {
        @Nullable Object[] before = MemorySearch.requireRow(table, key);
        table.filling.compute(values);
        allowed.accept(Row.of(table.names, values));
        MemoryConstraints.require(table, key, values, enforcesTypes);
        Object newKey = table.isKeyed() ? table.keyOf(values) : key;
        if (newKey.equals(key)) {
            log.put(table, key, values);
        } else {
            if (table.has(newKey)) {
                throw MemoryConstraints.duplicateKey(table, newKey, values);
            }
            log.remove(table, key);
            log.put(table, newKey, values);
        }
        references.follow(table, before, values, this);
    }

    @Override
    public void delete(MemoryTable table, Object key) {
        @Nullable Object[] before = table.get(key);
        if (before != null) { // a cascade may have removed it
            log.remove(table, key);
            references.follow(table, before, null, this);
        }
    }
}
