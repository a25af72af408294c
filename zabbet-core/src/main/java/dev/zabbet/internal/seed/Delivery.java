package dev.zabbet.internal.seed;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.story.Story;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.SeedReceiver;
import dev.zabbet.seed.SeedReceiver.Item;
import dev.zabbet.seed.SeedReceiver.Link;
import dev.zabbet.seed.SourceLocation;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** The rows of a seed as others store them: each with the rows that it refers to, in the place of keys. */
final class Delivery {
    private final Schema schema;
    private final List<Item> items = new ArrayList<>();
    private final Map<String, Map<List<@Nullable Object>, Integer>> byValues = new HashMap<>();

    Delivery(Schema schema, List<RowSource> inserts, List<Load.Fill> fills, Map<RowSource, List<SeedEntry>> origins) {
        this.schema = schema;
        List<Map<String, @Nullable Object>> rows = new ArrayList<>();
        List<Table> tables = new ArrayList<>();
        List<@Nullable SeedEntry> entries = new ArrayList<>();
        for (RowSource source : inserts) {
            List<SeedEntry> from = origins.get(source);
            for (int row = 0; row < source.size(); row++) {
                rows.add(values(source, row));
                tables.add(source.table());
                entries.add(from == null ? null : from.get(row));
            }
        }
        fills.forEach(fill -> fill(fill, tables, rows));
        for (int i = 0; i < rows.size(); i++) {
            SeedEntry entry = entries.get(i);
            boolean own = entry != null && entry.table.equals(tables.get(i)) && isOf(entry, rows.get(i));
            Optional<String> label = own && entry != null ? entry.row.label() : Optional.empty();
            SourceLocation place = entry == null ? SourceLocation.NONE : entry.row.place();
            items.add(new Item(tables.get(i), label, place, Row.of(rows.get(i)), links(tables, rows, i)));
        }
    }

    private static Map<String, @Nullable Object> values(RowSource source, int row) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (int c = 0; c < source.columns().size(); c++) {
            values.put(source.columns().get(c).name(), source.value(row, c));
        }
        return values;
    }

    /** Puts what would be filled in afterwards into the rows. */
    private static void fill(Load.Fill fill, List<Table> tables, List<Map<String, @Nullable Object>> rows) {
        List<Column> columns = fill.rows().columns();
        for (int row = 0; row < fill.rows().size(); row++) {
            Map<String, @Nullable Object> filled = values(fill.rows(), row);
            for (int i = 0; i < rows.size(); i++) {
                Map<String, @Nullable Object> values = rows.get(i);
                boolean same = tables.get(i).equals(fill.rows().table())
                        && columns.subList(0, fill.keyColumns()).stream()
                                .allMatch(c -> Objects.equals(values.get(c.name()), filled.get(c.name())));
                if (same) {
                    values.putAll(filled);
                }
            }
        }
    }

    /** A parent that was made for a row of the same table is not the row itself. */
    private static boolean isOf(SeedEntry entry, Map<String, @Nullable Object> values) {
        return entry.table.keyColumns().stream()
                .allMatch(column -> Objects.equals(entry.values.get(column), values.get(column)));
    }

    private List<Link> links(List<Table> tables, List<Map<String, @Nullable Object>> rows, int own) {
        List<Link> links = new ArrayList<>();
        for (Reference reference : tables.get(own).references()) {
            List<@Nullable Object> values = new ArrayList<>();
            reference.columns().forEach(column -> values.add(rows.get(own).get(column)));
            if (values.contains(null)) {
                continue; // refers to nothing (MATCH SIMPLE)
            }
            Integer target = byValues.computeIfAbsent(
                            reference.target() + reference.targetColumns(), name -> index(reference, tables, rows))
                    .get(values);
            if (target != null) {
                links.add(new Link(reference, target));
            }
        }
        return links;
    }

    private static Map<List<@Nullable Object>, Integer> index(
            Reference reference, List<Table> tables, List<Map<String, @Nullable Object>> rows) {
        Map<List<@Nullable Object>, Integer> index = new HashMap<>();
        for (int i = 0; i < rows.size(); i++) {
            if (tables.get(i).name().equals(reference.target())) {
                List<@Nullable Object> values = new ArrayList<>();
                for (String column : reference.targetColumns()) {
                    values.add(rows.get(i).get(column));
                }
                index.put(values, i);
            }
        }
        return index;
    }

    /** Delivers all rows, and keeps what the labelled ones are called. */
    Loaded to(SeedReceiver receiver, Store store, List<Loaded.Found> found) {
        List<Row> keys = receiver.receive(schema, List.copyOf(items), (table, key) -> store.holds(table, with(key)));
        List<Load.Label> labels = new ArrayList<>();
        Map<String, Map<String, Row>> stored = new LinkedHashMap<>();
        Map<String, Integer> counts = new LinkedHashMap<>();
        for (int i = 0; i < items.size(); i++) {
            Item item = items.get(i);
            counts.merge(item.table().name(), 1, Integer::sum);
            Row key = keys.get(i);
            if (item.label().isPresent() && !item.table().keyColumns().isEmpty()) {
                String label = item.label().get();
                stored.computeIfAbsent(item.table().name(), t -> new LinkedHashMap<>())
                        .put(label, row(store, item, key));
                labels.add(new Load.Label(item.table(), label, key));
            }
        }
        if (!labels.isEmpty()) {
            Story.arrange(store, new Load(List.of(), List.of(), labels));
        }
        return new Loaded(stored, counts, found);
    }

    private static Row row(Store store, Item item, Row key) {
        return store.rows(item.table(), with(key)).stream()
                .findFirst()
                .orElseThrow(() -> new ZabbetException("The application says that it has created "
                        + item.table().name() + " with " + key + ", and " + store.description()
                        + " has no such row. Is it the application's database, and has it committed?"));
    }

    private static Condition with(Row key) {
        Condition where = Condition.all();
        for (String column : key.columns()) {
            where = where.and(new Condition.Equal(column, key.get(column)));
        }
        return where;
    }
}
