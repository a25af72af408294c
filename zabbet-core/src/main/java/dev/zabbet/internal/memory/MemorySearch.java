package dev.zabbet.internal.memory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.store.ConditionMatch;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Condition;
import dev.zabbet.store.RowSource;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;

/** Finds rows: by a key or an index where the condition names one, else one after another. */
final class MemorySearch {
    List<Object> matching(MemoryTable table, Condition where, Predicate<Row> there) {
        List<Object> keys = matching(table, where, true);
        keys.removeIf(key -> !there.test(Row.of(table.names, requireRow(table, key))));
        return keys;
    }

    List<Object> matching(MemoryTable table, Condition where, boolean current) {
        Optional<Collection<Object>> found = current ? byIndex(table, where) : Optional.empty();
        Collection<Object> candidates = found.orElseGet(() -> current ? table.keys() : table.committedKeys());
        List<Object> keys = new ArrayList<>();
        for (Object key : candidates) {
            @Nullable Object[] row = current ? table.get(key) : table.committed(key);
            if (row != null && ConditionMatch.holds(where, column -> row[table.table.requirePosition(column)])) {
                keys.add(key);
            }
        }
        return keys;
    }

    /** Finds candidates by the columns that have to equal a value, if there are such. */
    private static Optional<Collection<Object>> byIndex(MemoryTable table, Condition where) {
        List<Condition> parts = where instanceof Condition.And and ? and.parts() : List.of(where);
        Map<String, Object> equal = new LinkedHashMap<>();
        for (Condition part : parts) {
            if (part instanceof Condition.Equal e && e.value() != null) {
                Column column = table.table.requireColumn(e.column());
                boolean looksUp =
                        switch (column.type().kind()) {
                            case INTEGER, TEXT, UUID, DATE, ENUM, BOOLEAN -> true;
                            default -> false;
                        };
                if (looksUp) {
                    equal.put(column.name(), e.value());
                }
            }
        }
        if (equal.isEmpty() || table.size() < 8) {
            return Optional.empty();
        }
        List<String> key = table.table.keyColumns();
        if (!key.isEmpty() && equal.keySet().containsAll(key)) {
            Object sought = key.size() == 1
                    ? MemoryTable.lookup(equal.get(key.get(0)))
                    : key.stream().map(c -> MemoryTable.lookup(equal.get(c))).toList();
            return Optional.of(table.has(sought) ? List.of(sought) : List.of());
        }
        Map.Entry<String, Object> first = equal.entrySet().iterator().next();
        return Optional.of(table.find(
                new int[] {table.table.requirePosition(first.getKey())}, MemoryTable.lookup(first.getValue())));
    }

    @SuppressWarnings({"unchecked", "rawtypes"})
    static int compareKeys(Object a, Object b) {
        if (a instanceof List<?> x && b instanceof List<?> y) {
            for (int i = 0; i < Math.min(x.size(), y.size()); i++) {
                int order = compareKeys(x.get(i), y.get(i));
                if (order != 0) {
                    return order;
                }
            }
            return x.size() - y.size();
        }
        return a instanceof Comparable c && a.getClass() == b.getClass()
                ? c.compareTo(b)
                : Comparator.<String>naturalOrder().compare(a.toString(), b.toString());
    }

    static @Nullable Object[] requireRow(MemoryTable table, Object key) {
        @Nullable Object[] row = table.get(key);
        if (row == null) {
            throw new ZabbetException("There is no " + table.table.name() + " with key " + Text.cell(key) + ".");
        }
        return row;
    }

    static int[] positions(RowSource source) {
        return source.columns().stream()
                .mapToInt(c -> source.table().requirePosition(c.name()))
                .toArray();
    }
}
