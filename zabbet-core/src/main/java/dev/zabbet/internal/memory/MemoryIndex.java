package dev.zabbet.internal.memory;

import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Finds the rows of a table in memory by the values of some columns. Rows with a null among these are not in it. */
final class MemoryIndex {
    private final int[] at;
    private final Map<Object, Set<Object>> keys = new HashMap<>();

    MemoryIndex(int[] at) {
        this.at = at;
    }

    /** Returns the keys of the rows that hold these values. */
    Set<Object> keys(Object values) {
        return keys.getOrDefault(values, Collections.emptySet());
    }

    void put(Object key, @Nullable Object[] row) {
        if (!MemoryTable.hasNull(row, at)) {
            keys.computeIfAbsent(MemoryTable.part(row, at), v -> new LinkedHashSet<>(2))
                    .add(key);
        }
    }

    void remove(Object key, @Nullable Object[] row) {
        if (!MemoryTable.hasNull(row, at)) {
            Object values = MemoryTable.part(row, at);
            Set<Object> of = keys.get(values);
            if (of != null && of.remove(key) && of.isEmpty()) {
                keys.remove(values);
            }
        }
    }
}
