package dev.zabbet.internal.seed;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.internal.plan.Plan;
import dev.zabbet.internal.plan.Recipe;
import dev.zabbet.internal.plan.Setting;
import dev.zabbet.internal.plan.StoreView;
import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.internal.story.Story;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedReceiver;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.seed.SourceLocation;
import dev.zabbet.seed.StreamedRows;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Load;
import dev.zabbet.store.Progress;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.RowSource;
import dev.zabbet.store.Store;
import dev.zabbet.type.Kind;
import java.time.Clock;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Works out the rows of a seed and stores them in one transaction. All rows are tried on a copy of the tables in memory
 * first, so that what is wrong is said with its place, before anything is stored.
 */
public final class Seeding {
    private final SeedReferences referred = new SeedReferences(this);
    private final FoundRows foundRows = new FoundRows(this);
    private final Set<String> storedTables;
    final Schema schema;
    final Store store;
    private final Clock clock;
    private final long variation;
    final SeedProblems trouble = new SeedProblems();
    private final SeedTyping typing;
    private final SeedDocuments documents;
    private final MemoryStore shadow;
    private final StoreView ground;
    final Map<String, SeedEntry> labelled = new LinkedHashMap<>();
    private final List<SeedEntry> entries = new ArrayList<>();
    private final List<RowSource> inserts = new ArrayList<>();
    private final List<Load.Fill> fills = new ArrayList<>();
    private final List<StreamedTable> longTables = new ArrayList<>();
    private final IdentityHashMap<RowSource, List<SeedEntry>> origins = new IdentityHashMap<>();
    final Set<SeedEntry> inWork = new HashSet<>();
    private final Map<String, Long> given = new HashMap<>();

    private Seeding(Seed seed, Store store, Clock clock, long variation) {
        this.schema = store.schema();
        this.store = store;
        this.storedTables = seed.storedTables();
        this.clock = clock;
        this.typing = new SeedTyping(seed.clock().orElse(clock.instant()), trouble);
        this.documents = new SeedDocuments(seed.clock().orElse(clock.instant()), trouble);
        this.variation = variation;
        this.shadow = new MemoryStore(withoutReferences(schema), clock);
        this.ground = ground(StoreView.of(store));
        seed.rows().forEach(this::read);
        for (StreamedRows rows : seed.streamedRows()) {
            StreamedTable table = StreamedTable.of(rows, schema, trouble);
            if (table != null && table.size() > 0) {
                longTables.add(table);
            }
        }
    }

    /**
     * Stores a seed, all of it or nothing.
     *
     * @throws ZabbetException if something is wrong with it; the message says all that is, each with its place
     */
    public static Loaded store(Seed seed, Store store, Clock clock, long variation, Progress progress) {
        Seeding seeding = new Seeding(seed, store, clock, variation);
        seeding.plan();
        Load load = seeding.load();
        Story.arrange(store, load.told(progress));
        return seeding.loaded(load);
    }

    /**
     * Tries a seed on a copy of the tables in memory; nothing is stored.
     *
     * @return the rows it would be, in storing order
     * @throws ZabbetException if something is wrong with it, as {@link #store}
     */
    public static Load planned(Seed seed, Store store, Clock clock, long variation) {
        Seeding seeding = new Seeding(seed, store, clock, variation);
        seeding.plan();
        return seeding.load();
    }

    /**
     * Tries a seed, and has others store its rows.
     *
     * @return the labelled rows, as stored
     * @throws ZabbetException if something is wrong with it, as {@link #store}; nothing is delivered then
     */
    public static Loaded deliver(Seed seed, Store store, Clock clock, long variation, SeedReceiver receiver) {
        Seeding seeding;
        RewindPoint before = store.mark();
        try {
            seeding = new Seeding(seed, store, clock, variation);
            seeding.plan();
        } finally {
            store.rewind(before); // keys were reserved that only stand for those to come
        }
        Delivery delivery = new Delivery(seeding.schema, seeding.inserts, seeding.fills, seeding.origins);
        return delivery.to(receiver, store, seeding.foundRows.found());
    }

    /** References are tested apart: what they lead to may be stored already. */
    private static Schema withoutReferences(Schema schema) {
        return new Schema(
                schema.tables().stream()
                        .map(t -> new Table(
                                t.name(),
                                t.sqlSchema(),
                                t.sqlName(),
                                t.columns(),
                                t.primaryKey(),
                                t.uniques(),
                                List.of(),
                                t.checks(),
                                t.nature()))
                        .toList(),
                schema.enforcesTypes());
    }

    private StoreView ground(StoreView stored) {
        return new StoreView() {
            @Override
            public long reserve(Table table, int count) {
                // MariaDB's counter moves only when rows are stored, so that it would give the same numbers again
                long first = Math.max(stored.reserve(table, count), given.getOrDefault(table.name(), 0L) + 1);
                given.put(table.name(), first + count - 1);
                return first;
            }

            @Override
            public Optional<Boolean> keeps(Table table, Check check, Row row) {
                return stored.keeps(table, check, row);
            }

            @Override
            public Optional<Object> blank(Table table, Column column) {
                return stored.blank(table, column);
            }

            @Override
            public Optional<DocumentRecipe> documents(Table table, Column column) {
                return stored.documents(table, column);
            }

            @Override
            public boolean isExact() {
                return stored.isExact();
            }

            @Override
            public boolean isStored(Table table, Condition condition) {
                return shadow.holds(shadow.schema().require(table.name()), condition)
                        || stored.isStored(table, condition);
            }

            @Override
            public List<Row> rows(Table table, int most) {
                return stored.rows(table, most);
            }
        };
    }

    /** Finds tables, columns and labels, and reads plain values as their columns' types. */
    private void read(SeedRow row) {
        Table table;
        try {
            table = schema.require(row.table());
        } catch (UnknownNameException e) {
            trouble.add(row.place(), e);
            return;
        }
        SeedEntry entry = new SeedEntry(row, table);
        int before = trouble.size();
        for (String name : row.values().columns()) {
            Optional<RowPart> part = part(table, name, row);
            if (part.isPresent() && part.get().column().isComputed()) {
                trouble.add(
                        row.placeOf(name),
                        table.name() + "." + part.get().column().name() + " is computed and cannot be given.");
            } else if (part.isPresent()) {
                put(entry, part.get(), row.values().get(name), row.placeOf(name));
            }
        }
        entry.wrong = trouble.size() > before;
        entries.add(entry);
        row.label().ifPresent(label -> {
            if (labelled.put(key(table, label), entry) != null) {
                trouble.add(row.place(), "Another row of " + table.name() + " is labelled '" + label + "' already.");
            }
        });
    }

    private Optional<RowPart> part(Table table, String name, SeedRow row) {
        Optional<Column> column = table.column(name).or(() -> table.columnForProperty(name));
        try {
            return Optional.of(column.map(RowPart::of).orElseGet(() -> RowPart.of(table, name)));
        } catch (UnknownNameException e) {
            trouble.add(
                    row.placeOf(name),
                    new UnknownNameException("column of table " + table.name(), name, table.columnNames()));
        } catch (ZabbetException e) {
            trouble.add(row.placeOf(name), e);
        }
        return Optional.empty();
    }

    private void put(SeedEntry entry, RowPart part, @Nullable Object value, SourceLocation place) {
        boolean document = part.column().type().kind() == Kind.JSON && value instanceof SeedValue.Nested;
        if (document || !part.isColumn()) {
            documents.put(entry, part, value, place);
        } else {
            entry.values.put(part.name(), typing.of(entry, part.column(), value, place));
        }
    }

    static String key(Table table, String label) {
        return table.name() + "\n" + label;
    }

    void plan() {
        for (Table table : schema.tables()) {
            table.numberedColumn().ifPresent(column -> keepNumbersFree(table, column));
        }
        foundRows.find(entries, storedTables);
        labelled.values().forEach(this::number);
        List<SeedEntry> batch = new ArrayList<>();
        for (SeedEntry entry : entries) {
            if (entry.planned) {
                continue; // another row needed it before
            }
            boolean resolved = referred.resolve(entry) && !entry.wrong;
            if (!batch.isEmpty() && (!resolved || !isAlike(batch.get(0), entry))) {
                plan(batch);
                batch = new ArrayList<>();
            }
            if (resolved && !entry.planned) {
                batch.add(entry);
            }
        }
        plan(batch);
        longTables.forEach(this::plan);
        SeedChecks checks = new SeedChecks(schema, store, ground, entries, longTables, trouble);
        entries.forEach(checks::requireTargets);
        if (entries.size() <= SeedReferences.MOST_LOOKED_UP) {
            entries.stream().filter(entry -> !foundRows.isFound(entry)).forEach(checks::requireNew);
        }
        trouble.requireNone();
    }

    /** Numbers that the seed gives by itself are not given to others. */
    private void keepNumbersFree(Table table, Column column) {
        long most = 0;
        for (SeedEntry entry : entries) {
            if (entry.table.equals(table) && entry.values.get(column.name()) instanceof Long number) {
                most = Math.max(most, number);
            }
        }
        for (StreamedTable rows : longTables) {
            most = rows.table().equals(table) ? Math.max(most, rows.greatestNumber()) : most;
        }
        if (most > 0 && most < Integer.MAX_VALUE) {
            long next = ground.reserve(table, 1);
            if (next <= most) {
                ground.reserve(table, (int) (most - next) + 1);
            }
        }
    }

    /** A labelled row's number is taken before, so that others can refer to it in whatever order. */
    private void number(SeedEntry entry) {
        entry.table.numberedColumn().ifPresent(column -> {
            if (!entry.values.containsKey(column.name())) {
                entry.values.put(column.name(), ground.reserve(entry.table, 1));
            }
        });
    }

    /** Rows of one table that say something of the same columns are planned together. */
    private static boolean isAlike(SeedEntry a, SeedEntry b) {
        if (!a.table.equals(b.table) || a.row.times() > 1 || b.row.times() > 1) {
            return false;
        }
        if (!a.values.keySet().equals(b.values.keySet())) {
            return false;
        }
        for (String column : a.values.keySet()) {
            Object x = a.values.get(column);
            Object y = b.values.get(column);
            if ((x instanceof SeedValue || y instanceof SeedValue) && !java.util.Objects.equals(x, y)) {
                return false;
            }
        }
        return true;
    }

    /** Plans rows that say something of the same columns. */
    void plan(List<SeedEntry> batch) {
        List<SeedEntry> left = batch.stream().filter(e -> !e.planned).toList();
        if (left.isEmpty()) {
            return;
        }
        SeedEntry first = left.get(0);
        left.forEach(e -> e.planned = true);
        int size = left.size() == 1 ? first.row.times() : left.size();
        Recipe<Row> recipe = Recipe.ofTable(first.table.name());
        for (String column : first.values.keySet()) {
            recipe = recipe.with(column, said(column, left, size));
        }
        Plan plan;
        try {
            plan = Plan.of(schema, variation, clock, size, recipe, ground);
        } catch (ZabbetException e) {
            if (left.size() > 1) {
                left.forEach(
                        one -> { // to find which of them it is
                            one.planned = false;
                            plan(List.of(one));
                        });
            } else {
                trouble.add(first.row.place(), e);
            }
            return;
        }
        Load load = plan.load();
        for (RowSource source : load.inserts()) {
            RowSource held = MaterializedRows.of(source);
            inserts.add(held);
            List<SeedEntry> from = new ArrayList<>();
            origins.put(held, from);
            boolean own = plan.isRoot(source);
            for (int row = 0; row < held.size(); row++) {
                SeedEntry entry;
                if (!own) {
                    entry = first;
                } else if (left.size() == 1) {
                    entry = first;
                } else {
                    entry = left.get(row);
                }
                from.add(entry);
                tryOut(held, row, entry);
            }
        }
        load.updates().forEach(fill -> fills.add(new Load.Fill(MaterializedRows.of(fill.rows()), fill.keyColumns())));
        for (int i = 0; i < left.size(); i++) {
            for (Column column : first.table.columns()) {
                Optional<Object> made = plan.root(i, column);
                if (made.isPresent()) {
                    left.get(i).values.putIfAbsent(column.name(), made.get());
                }
            }
        }
    }

    /** Long rows were tried when they were read; what they do not say is filled in, and they are never held. */
    void plan(StreamedTable rows) {
        try {
            Load load = Plan.filling(schema, variation, clock, rows, ground).load();
            inserts.addAll(load.inserts());
            fills.addAll(load.updates());
        } catch (ZabbetException e) {
            trouble.add(rows.place(), e);
        }
    }

    private static Setting said(String column, List<SeedEntry> batch, int size) {
        Object value = batch.get(0).values.get(column);
        if (value instanceof SeedValue.Made made) {
            return new Setting.Invented(made.how());
        }
        if (value instanceof SeedValue.AnyStored stored) {
            return new Setting.StoredParents(stored.skewed());
        }
        if (value instanceof SeedValue.InTurn inTurn && inTurn.isMade()) {
            return new Setting.Invented(inTurn.how());
        }
        List<@Nullable Object> values = value instanceof SeedValue.InTurn inTurn
                ? inTurn.values()
                : batch.stream().map(e -> e.values.get(column)).toList();
        boolean same = values.stream().allMatch(v -> java.util.Objects.equals(v, values.get(0)));
        return same || size == 1 ? new Setting.Fixed(values.get(0)) : new Setting.InTurn(values);
    }

    /** Stores a row on the copy of the tables in memory. */
    private void tryOut(RowSource source, int row, SeedEntry entry) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (int c = 0; c < source.columns().size(); c++) {
            values.put(source.columns().get(c).name(), source.value(row, c));
        }
        try {
            shadow.insert(shadow.schema().require(source.table().name()), Row.of(values));
        } catch (ConstraintException e) {
            trouble.add(entry.row.place(), e);
        }
    }

    private Load load() {
        return new SeedLoad(schema, inserts, fills).of(labelled.values());
    }

    private Loaded loaded(Load load) {
        Map<String, Map<String, Row>> rows = new LinkedHashMap<>();
        for (Load.Label label : load.labels()) {
            Condition where = Condition.all();
            for (String column : label.key().columns()) {
                where = where.and(new Condition.Equal(column, label.key().get(column)));
            }
            Condition of = where;
            store.rows(label.table(), of).stream().findFirst().ifPresent(row -> rows.computeIfAbsent(
                            label.table().name(), t -> new LinkedHashMap<>())
                    .put(label.label(), row));
        }
        return new Loaded(rows, load.counts(), foundRows.found());
    }
}
