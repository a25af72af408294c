package dev.zabbet.internal.seed;

import dev.zabbet.internal.plan.StoreView;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Compares the keys that a seed says with what is stored already. */
final class SeedChecks {
    private final Schema schema;
    private final Store store;
    private final StoreView ground;
    private final List<SeedEntry> entries;
    private final List<StreamedTable> longTables;
    private final SeedProblems trouble;

    SeedChecks(
            Schema schema,
            Store store,
            StoreView ground,
            List<SeedEntry> entries,
            List<StreamedTable> longTables,
            SeedProblems trouble) {
        this.schema = schema;
        this.store = store;
        this.ground = ground;
        this.entries = entries;
        this.longTables = longTables;
        this.trouble = trouble;
    }

    /** What a row refers to by plain keys has to be there, in the seed or in the store. */
    void requireTargets(SeedEntry entry) {
        for (Reference reference : entry.table.references()) {
            Table target = schema.require(reference.target());
            boolean unsure =
                    entries.stream().anyMatch(e -> e.wrong && e.table.equals(target)); // it may be one of these
            unsure |= longTables.stream().anyMatch(rows -> rows.table().equals(target));
            if (unsure || !reference.columns().stream().allMatch(entry::says)) {
                continue;
            }
            Condition where = Condition.all();
            for (int i = 0; i < reference.columns().size(); i++) {
                where = where.and(new Condition.Equal(
                        reference.targetColumns().get(i),
                        entry.values.get(reference.columns().get(i))));
            }
            if (!ground.isStored(target, where)) {
                trouble.add(
                        entry.row.placeOf(reference.columns().get(0)),
                        entry.table.name() + "." + reference.describe() + ": there is no " + target.name() + " with "
                                + String.join(", ", reference.targetColumns()) + " = "
                                + values(entry, reference.columns()) + ", in the seed or stored.");
            }
        }
    }

    /** A key that a row says must not be stored already. */
    void requireNew(SeedEntry entry) {
        List<UniqueKey> keys = Stream.concat(entry.table.primaryKey().stream(), entry.table.uniques().stream())
                .filter(key -> key.isPlain() && key.columns().stream().allMatch(entry::says))
                .toList();
        for (UniqueKey key : keys) {
            Condition where = Condition.all();
            for (String column : key.columns()) {
                where = where.and(new Condition.Equal(column, entry.values.get(column)));
            }
            if (store.holds(entry.table, where)) {
                trouble.add(
                        entry.row.placeOf(key.columns().get(0)),
                        "A row of " + entry.table.name() + " with " + String.join(", ", key.columns()) + " = "
                                + values(entry, key.columns()) + " is stored already, and it has to be unique.");
            }
        }
    }

    private static String values(SeedEntry entry, List<String> columns) {
        return columns.stream().map(c -> String.valueOf(entry.values.get(c))).collect(Collectors.joining(", "));
    }
}
