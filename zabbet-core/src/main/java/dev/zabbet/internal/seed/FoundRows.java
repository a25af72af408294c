package dev.zabbet.internal.seed;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.store.Condition;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Rows of a seed that are stored already, of tables of which that was allowed: they are referred to instead of stored. Tables are
 * gone through in storing order, so that a key that holds a found row's key can be found too.
 */
final class FoundRows {
    private final Seeding seeding;
    private final Set<SeedEntry> found = new HashSet<>();
    private final List<Loaded.Found> told = new ArrayList<>();

    FoundRows(Seeding seeding) {
        this.seeding = seeding;
    }

    List<Loaded.Found> found() {
        return List.copyOf(told);
    }

    boolean isFound(SeedEntry entry) {
        return found.contains(entry);
    }

    void find(List<SeedEntry> entries, Set<String> tables) {
        if (tables.isEmpty()) {
            return;
        }
        List<Table> used = tables.stream().map(seeding.schema::require).toList();
        for (Table table : seeding.schema.storingOrder().tables()) {
            for (SeedEntry entry : used.contains(table) ? entries : List.<SeedEntry>of()) {
                if (entry.table.equals(table) && !entry.wrong && entry.row.times() == 1) {
                    find(entry);
                }
            }
        }
    }

    private void find(SeedEntry entry) {
        for (UniqueKey unique : StoredRow.keys(entry.table)) {
            Map<String, @Nullable Object> key = new LinkedHashMap<>();
            for (String column : unique.columns()) {
                value(entry, column).ifPresent(value -> key.put(column, value));
            }
            if (key.size() < unique.columns().size()) {
                continue; // not said, or of a row that is stored with this one
            }
            Condition where = Condition.all();
            for (Map.Entry<String, @Nullable Object> part : key.entrySet()) {
                where = where.and(new Condition.Equal(part.getKey(), part.getValue()));
            }
            Optional<Row> stored =
                    seeding.store.rows(entry.table, where).stream().findFirst();
            if (stored.isPresent()) {
                told.add(new Loaded.Found(
                        entry.table.name(),
                        entry.row.label().orElse(""),
                        Row.of(key),
                        StoredRow.differences(entry, stored.get())));
                entry.values.clear();
                entry.values.putAll(stored.get().asMap());
                entry.planned = true;
                found.add(entry);
                return;
            }
        }
    }

    /** A value that is known before anything is planned. */
    private Optional<Object> value(SeedEntry entry, String column) {
        Object value = entry.values.get(column);
        if (value instanceof SeedValue.RowRef ref) {
            for (Reference reference : entry.table.referencesOf(column)) {
                Table target = seeding.schema.require(reference.target());
                SeedEntry other = seeding.labelled.get(Seeding.key(target, ref.label()));
                if (other != null && found.contains(other)) {
                    String there =
                            reference.targetColumns().get(reference.columns().indexOf(column));
                    return Optional.ofNullable(other.values.get(there));
                }
            }
        }
        return value instanceof SeedValue ? Optional.empty() : Optional.ofNullable(value);
    }
}
