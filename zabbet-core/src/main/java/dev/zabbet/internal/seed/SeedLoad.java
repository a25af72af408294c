package dev.zabbet.internal.seed;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Puts the rows of a seed's many plans into one load. */
final class SeedLoad {
    private final Schema schema;
    private final List<RowSource> inserts;
    private final List<Load.Fill> fills;

    SeedLoad(Schema schema, List<RowSource> inserts, List<Load.Fill> fills) {
        this.schema = schema;
        this.inserts = inserts;
        this.fills = new ArrayList<>(fills);
    }

    /** All rows in an order in which they can be stored; what runs against it is filled in afterwards. */
    Load of(Collection<SeedEntry> labelled) {
        List<RowSource> ordered = new ArrayList<>();
        Set<String> present = new HashSet<>();
        inserts.forEach(source -> present.add(source.table().name()));
        for (Table table : schema.storingOrder().tables()) {
            List<RowSource> own =
                    inserts.stream().filter(s -> s.table().equals(table)).toList();
            Set<String> later = new HashSet<>();
            for (Reference reference : table.references()) {
                boolean against = schema.storingOrder().runsAgainst(table, reference)
                        || reference.target().equals(table.name());
                boolean canBeEmpty = reference.columns().stream()
                        .allMatch(c -> table.requireColumn(c).nullable());
                if (against
                        && canBeEmpty
                        && present.contains(reference.target())
                        && !table.keyColumns().isEmpty()) {
                    later.addAll(reference.columns());
                }
            }
            later.removeAll(table.keyColumns());
            for (RowSource source : own) {
                List<Column> kept = source.columns().stream()
                        .filter(c -> !later.contains(c.name()))
                        .toList();
                List<Column> filled = source.columns().stream()
                        .filter(c -> later.contains(c.name()))
                        .toList();
                boolean keyed = table.keyColumns().stream().allMatch(k -> source.columns().stream()
                        .anyMatch(c -> c.name().equals(k)));
                if (filled.isEmpty() || !keyed) {
                    ordered.add(source);
                    continue;
                }
                List<Column> first = new ArrayList<>(kept); // a default would stand in what is filled in later
                filled.stream().filter(c -> c.defaultText().isPresent()).forEach(first::add);
                ordered.add(MaterializedRows.emptied(source, first, kept.size()));
                List<Column> keyAndFilled = new ArrayList<>(
                        table.keyColumns().stream().map(table::requireColumn).toList());
                keyAndFilled.addAll(filled);
                List<Integer> at =
                        filled.stream().map(c -> source.columns().indexOf(c)).toList();
                RowSource fill = MaterializedRows.only(
                        source, keyAndFilled, row -> at.stream().anyMatch(c -> source.value(row, c) != null));
                if (fill.size() > 0) {
                    fills.add(new Load.Fill(fill, table.keyColumns().size()));
                }
            }
        }
        List<Load.Label> labels = new ArrayList<>();
        for (SeedEntry entry : labelled) {
            Map<String, @Nullable Object> values = new LinkedHashMap<>();
            entry.table.keyColumns().forEach(c -> values.put(c, entry.values.get(c)));
            labels.add(new Load.Label(entry.table, entry.row.label().orElseThrow(), Row.of(values)));
        }
        return new Load(MaterializedRows.merged(ordered), fills, labels);
    }
}
