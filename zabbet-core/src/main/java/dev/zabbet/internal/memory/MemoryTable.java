package dev.zabbet.internal.memory;

import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * The rows of one table in memory, found by key, by each unique key, and by columns that were asked for. Rows are
 * replaced, never changed. While a transaction is open, what its changes replaced is kept, for readers outside of it.
 */
final class MemoryTable {
    final Table table;
    final List<String> names;
    final List<CheckCondition> checks;
    final List<UniqueIndex> uniques = new ArrayList<>();
    final ColumnFilling filling;
    long counter;

    private final int @Nullable [] keyAt;
    private final Map<Object, @Nullable Object[]> rows = new LinkedHashMap<>();
    private final Map<Object, Before> uncommitted = new LinkedHashMap<>();
    private final Map<List<Integer>, MemoryIndex> indexes = new HashMap<>();
    private long unkeyed;

    /** A row as it was before the open transaction; null if it was not there. */
    private record Before(@Nullable Object @Nullable [] row) {}

    /** Stands for the key of a row in a table without one. */
    private record RowNumber(long number) implements Comparable<RowNumber> {
        @Override
        public int compareTo(RowNumber other) {
            return Long.compare(number, other.number);
        }
    }

    MemoryTable(Table table, ColumnFilling filling) {
        this.table = table;
        this.filling = filling;
        this.names = table.columnNames();
        this.keyAt =
                table.primaryKey().map(key -> positions(table, key.columns())).orElse(null);
        this.checks =
                table.checks().stream().map(c -> CheckCondition.of(table, c)).toList();
        table.uniques().forEach(key -> UniqueIndex.of(table, key).ifPresent(uniques::add));
    }

    boolean isKeyed() {
        return keyAt != null;
    }

    /** Returns what the row is found by: its key, or a number of its own where the table has no key. */
    Object keyOf(@Nullable Object[] row) {
        return keyAt == null ? new RowNumber(++unkeyed) : part(row, keyAt);
    }

    @Nullable
    Object @Nullable [] get(Object key) {
        return rows.get(key);
    }

    boolean has(Object key) {
        return rows.containsKey(key);
    }

    int size() {
        return rows.size();
    }

    /** Returns the keys of all rows, in no particular order. */
    Set<Object> keys() {
        return rows.keySet();
    }

    /** Returns the row as it was before the open transaction. */
    @Nullable
    Object @Nullable [] committed(Object key) {
        Before before = uncommitted.get(key);
        return before == null ? rows.get(key) : before.row();
    }

    /** Returns the keys of all rows there were before the open transaction. */
    Collection<Object> committedKeys() {
        if (uncommitted.isEmpty()) {
            return rows.keySet();
        }
        List<Object> keys = new ArrayList<>();
        rows.keySet().stream().filter(key -> !uncommitted.containsKey(key)).forEach(keys::add);
        uncommitted.forEach((key, before) -> {
            if (before.row() != null) {
                keys.add(key);
            }
        });
        return keys;
    }

    boolean isTouched() {
        return !uncommitted.isEmpty();
    }

    /** Keeps a row as it is now, unless the open transaction changed it before. */
    void keepBefore(Object key) {
        uncommitted.computeIfAbsent(key, k -> new Before(rows.get(k)));
    }

    void forgetBefore() {
        uncommitted.clear();
    }

    void put(Object key, @Nullable Object[] row) {
        @Nullable Object[] before = rows.put(key, row);
        for (UniqueIndex index : uniques) {
            if (before != null) {
                index.remove(before);
            }
            index.put(key, row);
        }
        for (MemoryIndex index : indexes.values()) {
            if (before != null) {
                index.remove(key, before);
            }
            index.put(key, row);
        }
    }

    void remove(Object key) {
        @Nullable Object[] before = rows.remove(key);
        if (before != null) {
            uniques.forEach(index -> index.remove(before));
            indexes.values().forEach(index -> index.remove(key, before));
        }
    }

    void clear() {
        rows.clear();
        uncommitted.clear();
        uniques.forEach(UniqueIndex::clear);
        indexes.clear();
    }

    /** Returns the keys of the rows that hold these values, as {@link #part} gives them, in the columns. */
    Set<Object> find(int[] at, Object values) {
        List<Integer> columns = new ArrayList<>(at.length);
        for (int i : at) {
            columns.add(i);
        }
        return indexes.computeIfAbsent(columns, c -> {
                    MemoryIndex index = new MemoryIndex(at);
                    rows.forEach(index::put);
                    return index;
                })
                .keys(values);
    }

    /** Tells whether a row holds these values in these columns. */
    boolean holds(List<String> columns, Object values) {
        if (columns.equals(table.keyColumns())) {
            return rows.containsKey(values);
        }
        for (UniqueIndex index : uniques) {
            if (index.key.isPlain() && index.key.columns().equals(columns)) {
                return index.holder(values) != null;
            }
        }
        return !find(positions(table, columns), values).isEmpty();
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
        return value instanceof byte[] bytes ? ByteBuffer.wrap(bytes) : Objects.requireNonNullElse(value, "null");
    }

    static int[] positions(Table table, List<String> columns) {
        return columns.stream().mapToInt(table::requirePosition).toArray();
    }

    /** Returns the constraints that are not understood here, each as {@code table: text}. */
    List<String> notEnforced() {
        List<String> found = new ArrayList<>();
        checks.stream()
                .filter(check -> check.trouble().isPresent())
                .forEach(check ->
                        found.add(table.name() + ": check " + check.check().text()));
        table.uniques().stream()
                .filter(key -> uniques.stream().noneMatch(index -> index.key.equals(key)))
                .forEach(key -> found.add(table.name() + ": unique " + String.join(", ", key.expressions())
                        + key.condition()
                                .map(condition -> " where " + condition)
                                .orElse("")));
        return found;
    }
}
