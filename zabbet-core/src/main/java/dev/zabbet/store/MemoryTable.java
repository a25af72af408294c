package dev.zabbet.store;

import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import java.math.BigDecimal;
import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** The rows of one table in memory, found by key and by each unique constraint. Rows are replaced, never changed. */
final class MemoryTable {
    final Table table;
    final List<String> names;
    final List<CheckCondition> checks;
    final Map<Object, @Nullable Object[]> rows = new LinkedHashMap<>();
    final List<Index> uniques = new ArrayList<>();
    final int @Nullable [] keyAt;
    long counter;
    private long unkeyed;

    /** Finds rows by the columns of a unique constraint. */
    record Index(UniqueKey key, int[] at, Map<Object, Object> keys) {}

    MemoryTable(Table table) {
        this.table = table;
        this.names = table.columnNames();
        this.keyAt =
                table.primaryKey().map(key -> positions(table, key.columns())).orElse(null);
        this.checks =
                table.checks().stream().map(c -> CheckCondition.of(table, c)).toList();
        for (UniqueKey unique : table.uniques()) {
            if (unique.isPlain()) {
                uniques.add(new Index(unique, positions(table, unique.columns()), new HashMap<>()));
            }
        }
    }

    /** Returns what the row is found by: its key, or a number of its own where the table has no key. */
    Object keyOf(@Nullable Object[] row) {
        return keyAt == null ? (Object) ("row " + ++unkeyed) : part(row, keyAt);
    }

    void put(Object key, @Nullable Object[] row) {
        @Nullable Object[] before = rows.put(key, row);
        for (Index index : uniques) {
            if (before != null) {
                index.keys.remove(part(before, index.at));
            }
            if (!hasNull(row, index.at)) {
                index.keys.put(part(row, index.at), key);
            }
        }
    }

    void remove(Object key) {
        @Nullable Object[] before = rows.remove(key);
        if (before != null) {
            uniques.forEach(index -> index.keys.remove(part(before, index.at)));
        }
    }

    static boolean hasNull(@Nullable Object[] row, int[] at) {
        for (int i : at) {
            if (row[i] == null) {
                return true;
            }
        }
        return false;
    }

    /** Returns the values at these positions in a form that can be looked up: numbers of one value are equal. */
    static Object part(@Nullable Object[] row, int[] at) {
        if (at.length == 1) {
            return lookup(row[at[0]]);
        }
        List<Object> values = new ArrayList<>(at.length);
        for (int i : at) {
            values.add(lookup(row[i]));
        }
        return values;
    }

    static Object lookup(@Nullable Object value) {
        if (value instanceof BigDecimal number) {
            return number.stripTrailingZeros();
        }
        return value instanceof byte[] bytes ? ByteBuffer.wrap(bytes) : value == null ? "null" : value;
    }

    static int[] positions(Table table, List<String> columns) {
        return columns.stream().mapToInt(table::requirePosition).toArray();
    }
}
