package dev.zabbet.internal.check;

import dev.zabbet.schema.Table;
import java.lang.ref.SoftReference;
import java.util.Map;
import java.util.WeakHashMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** What is worked out from a table alone, once: plans of a suite's tests ask for the same again and again. Thread-safe. */
public final class PerTable {
    // Softly, since what is kept speaks of its table, which would never be let go of otherwise.
    private static final Map<Table, SoftReference<Map<Object, Object>>> ALL = new WeakHashMap<>();

    private PerTable() {}

    /**
     * Returns what was worked out for a table, or works it out.
     *
     * @param key what it is, of a type of its caller's own
     * @param work gives it; the same whenever it is asked
     */
    public static <V> V of(Table table, Object key, Class<V> type, Supplier<V> work) {
        Map<Object, Object> known = known(table);
        @Nullable Object there = known.get(key);
        if (there == null) {
            there = work.get();
            known.put(key, there);
        }
        return type.cast(there);
    }

    private static Map<Object, Object> known(Table table) {
        synchronized (ALL) {
            SoftReference<Map<Object, Object>> there = ALL.get(table);
            Map<Object, Object> known = there == null ? null : there.get();
            if (known == null) {
                known = new ConcurrentHashMap<>();
                ALL.put(table, new SoftReference<>(known));
            }
            return known;
        }
    }
}
