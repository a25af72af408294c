package dev.zabbet.internal.store;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Adds up single changes to their net effect: for each row the first state and the last one count. */
public final class NetChanges {
    private final Map<Table, Map<Object, State>> states = new LinkedHashMap<>();

    private record State(@Nullable Row first, @Nullable Row last) {}

    /** @param schema the tables; changes come out in their order */
    public NetChanges(Schema schema) {
        schema.tables().forEach(table -> states.put(table, new LinkedHashMap<>()));
    }

    /**
     * Adds one change, in the order in which they happened.
     *
     * @param table the table
     * @param key what the row is known by, with {@code equals}
     * @param before the row before; null if it was absent
     * @param after the row after; null if it is absent
     */
    public void add(Table table, Object key, @Nullable Row before, @Nullable Row after) {
        Map<Object, State> rows = states.computeIfAbsent(table, t -> new LinkedHashMap<>());
        State earlier = rows.get(key);
        rows.put(key, new State(earlier == null ? before : earlier.first(), after));
    }

    /** Returns the net changes: by table in the schema's order, then in the order of the first mention. */
    public List<Change> changes() {
        List<Change> changes = new ArrayList<>();
        states.forEach((table, rows) -> rows.values().forEach(state -> {
            Row first = state.first();
            Row last = state.last();
            if (first == null && last != null) {
                changes.add(new Change.Added(table, last));
            } else if (first != null && last == null) {
                changes.add(new Change.Removed(table, first));
            } else if (first != null && last != null && !first.equals(last)) {
                Change.Changed changed = new Change.Changed(table, first, last);
                if (!changed.columns().isEmpty()) { // a document written in another way says the same
                    changes.add(changed);
                }
            }
        }));
        return List.copyOf(changes);
    }
}
