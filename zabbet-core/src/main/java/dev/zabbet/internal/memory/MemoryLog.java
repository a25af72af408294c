package dev.zabbet.internal.memory;

import dev.zabbet.internal.store.NetChanges;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Every change of a row in memory, in order: what undoes, watches and rewinds. */
final class MemoryLog {
    private final List<Entry> entries = new ArrayList<>();
    private int committed;

    /** One change; {@code before} is null for a row that was added, {@code after} for one that was removed. */
    record Entry(
            MemoryTable table,
            Object key,
            @Nullable Object @Nullable [] before,
            @Nullable Object @Nullable [] after) {}

    int size() {
        return entries.size();
    }

    /** Returns how many of the changes are committed. */
    int committed() {
        return committed;
    }

    void put(MemoryTable table, Object key, @Nullable Object[] row) {
        change(table, key, row);
    }

    void remove(MemoryTable table, Object key) {
        change(table, key, null);
    }

    private void change(MemoryTable table, Object key, @Nullable Object @Nullable [] row) {
        table.keepBefore(key);
        entries.add(new Entry(table, key, table.get(key), row));
        apply(table, key, row);
    }

    private static void apply(MemoryTable table, Object key, @Nullable Object @Nullable [] row) {
        if (row == null) {
            table.remove(key);
        } else {
            table.put(key, row);
        }
    }

    void undoTo(int size) {
        while (entries.size() > size) {
            Entry entry = entries.remove(entries.size() - 1);
            apply(entry.table(), entry.key(), entry.before());
        }
        committed = Math.min(committed, size);
    }

    /** Makes all changes visible to everybody. */
    void commit() {
        for (int i = committed; i < entries.size(); i++) {
            entries.get(i).table().forgetBefore();
        }
        committed = entries.size();
    }

    /** Forgets what was kept for readers outside, once the changes are undone. */
    void rolledBack(Iterable<MemoryTable> tables) {
        tables.forEach(MemoryTable::forgetBefore);
    }

    List<Entry> since(int from) {
        return List.copyOf(entries.subList(Math.min(from, entries.size()), entries.size()));
    }

    /** Returns the net effect of the committed changes since a place. */
    List<Change> changesSince(int from, Schema schema) {
        NetChanges net = new NetChanges(schema);
        for (Entry entry : entries.subList(Math.min(from, committed), committed)) {
            net.add(
                    entry.table().table,
                    entry.key(),
                    row(entry.table(), entry.before()),
                    row(entry.table(), entry.after()));
        }
        return net.changes();
    }

    private static @Nullable Row row(MemoryTable table, @Nullable Object @Nullable [] values) {
        return values == null ? null : Row.of(table.names, values);
    }

    void clear() {
        entries.clear();
        committed = 0;
    }
}
