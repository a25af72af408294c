package dev.zabbet;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Document;
import dev.zabbet.factory.Factory;
import dev.zabbet.factory.Flawed;
import dev.zabbet.factory.Payload;
import dev.zabbet.factory.PayloadForm;
import dev.zabbet.factory.Through;
import dev.zabbet.internal.plan.BulkPlan;
import dev.zabbet.internal.plan.BulkRecipe;
import dev.zabbet.internal.plan.FlawedObject;
import dev.zabbet.internal.plan.FlawedRow;
import dev.zabbet.internal.plan.PlanExecution;
import dev.zabbet.internal.plan.Recipe;
import dev.zabbet.internal.plan.UnusedKey;
import dev.zabbet.internal.seed.Seeding;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedReceiver;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.Progress;
import dev.zabbet.store.Store;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.atomic.AtomicReference;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** A stage as far as rows are arranged: stored, built, and written as a client would send them. */
abstract class StageArranging {
    private final Planning planning;
    final Store store;
    final StageClock clock;
    final long variation;
    final AtomicReference<@Nullable PayloadForm> payloadForm;

    StageArranging(Store store, StageClock clock, long variation, AtomicReference<@Nullable PayloadForm> payloadForm) {
        this.store = store;
        this.clock = clock;
        this.variation = variation;
        this.payloadForm = payloadForm;
        this.planning = new Planning(store, clock, this::drawn);
    }

    /** Returns the tables. */
    public Schema schema() {
        return store.schema();
    }

    /**
     * Says what the documents of a column look like: wherever this stage makes rows of the table, parents and rows of seeds included, and
     * whichever view of it is asked. References in it are kept by {@link Stage#expectReferencesIntact} too. A column that may be null
     * stays null all the same, unless something is said of it or the factory is {@linkplain Factory#filled filled}. A rewind forgets it.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param column the name of a column of JSON
     * @param documents how they are made
     * @throws ZabbetException if there is no such column, or it is of another type, or a reference leads to no table with a key of one
     *     column
     */
    public void documents(String table, String column, Document documents) {
        DocumentKeeping.put(store, table, column, Words.notNull(documents, "documents", "Stage.documents"));
    }

    /** Returns the store behind this stage. */
    public Store store() {
        return store;
    }

    /** Returns the number that all invented values follow from. */
    public long variation() {
        Story story = Stories.of(store);
        return story == null ? variation : story.shown(variation);
    }

    /** Returns the number that values are drawn by: in a test that runs in many variations that of the present one. */
    private long drawn() {
        Story story = Stories.of(store);
        return story == null ? variation : story.drawn(variation);
    }

    /** Returns this stage's clock, to be given to the application. It stands still until {@link Stage#advance} moves it. */
    public Clock clock() {
        return clock;
    }

    /**
     * Stores one row of a table, with the parents that it needs.
     *
     * @return the row as stored, with all columns
     * @throws ZabbetException if no valid row can be made or the store refuses it; nothing is stored then
     */
    public Row add(String table) {
        return add(Factory.forTable(table));
    }

    /**
     * Stores rows of a table, with the parents that they need.
     *
     * @return the rows as stored, with all columns
     * @throws ZabbetException if no valid row can be made or the store refuses one; nothing is stored then
     */
    public List<Row> add(int count, String table) {
        return add(count, Factory.forTable(table));
    }

    /**
     * Stores what a factory makes, with the parents and children that belong to it.
     *
     * @return the object or row as stored, with its key and what the store filled in
     * @throws ZabbetException if it cannot be made or the store refuses it; nothing is stored then
     */
    public <T> T add(Factory<T> factory) {
        return add(1, factory).get(0);
    }

    /**
     * Stores what a factory makes, {@code count} times.
     *
     * @param count how many, at least 1
     * @return the objects or rows as stored, in order
     * @throws ZabbetException if they cannot be made or the store refuses one; nothing is stored then
     */
    public <T> List<T> add(int count, Factory<T> factory) {
        Words.notNull(factory, "factory", "Stage.add");
        return planning.upToDate(() -> PlanExecution.stored(planning.plan(count, factory), Recipe.of(factory), store));
    }

    /**
     * Has the application's own code store what a factory makes.
     *
     * @return what the code returned
     * @throws ZabbetException if the code throws; the message gives the object, the cause is what was thrown
     */
    public <T, R extends @Nullable Object> R add(Through<T, R> through) {
        return add(1, through).get(0);
    }

    /**
     * Has the application's own code store what a factory makes, {@code count} times, one after another.
     *
     * @param count how many, at least 1
     * @return what the code returned, in order
     * @throws ZabbetException if the code throws; the message says which object it was given, the cause is what was thrown.
     *     Rows that it stored before remain
     */
    public <T, R extends @Nullable Object> List<R> add(int count, Through<T, R> through) {
        Words.notNull(through, "through", "Stage.add");
        List<R> returned = new ArrayList<>();
        for (T object : build(count, through.factory())) {
            try {
                returned.add(through.code().store(object));
                store.flush();
            } catch (Throwable e) {
                throw new ZabbetException(
                        "The application's code did not store object " + (returned.size() + 1) + " of " + count + ", "
                                + object.getClass().getSimpleName() + " " + Payload.of(object, Payload.Naming.CAMEL)
                                + ".\nIt threw " + e,
                        e);
            }
        }
        return returned;
    }

    /**
     * Stores what a factory makes, {@code count} times, and returns nothing: for large numbers of rows.
     *
     * @param count how many, at least 1
     * @throws ZabbetException if they cannot be made or the store refuses one; nothing is stored then
     */
    public void addMany(int count, Factory<?> factory) {
        Words.notNull(factory, "factory", "Stage.addMany");
        planning.upToDate(() -> {
            PlanExecution.storedOnly(planning.plan(count, factory), store);
            return true;
        });
    }

    /**
     * Stores rows of several tables together, all or none, and returns no rows: for large numbers of rows.
     *
     * @return how many rows of each table were stored, including generated parents and children, in the order in which they were stored
     * @throws ZabbetException if they cannot be made or the store refuses one, or the part is stored already
     */
    public Map<String, Integer> add(Bulk bulk) {
        return add(bulk, Progress.NONE);
    }

    /** Stores rows of several tables together, as {@link #add(Bulk)}, and reports progress. */
    public Map<String, Integer> add(Bulk bulk, Progress progress) {
        Words.notNull(bulk, "bulk", "Stage.add");
        Words.notNull(progress, "progress", "Stage.add");
        return planning.upToDate(() -> {
            Load load = BulkPlan.of(schema(), drawn(), clock, BulkRecipe.of(bulk), store)
                    .load();
            Story.arrange(store, load.told(progress));
            return load.counts();
        });
    }

    /**
     * Returns the rows that {@link #add(Bulk)} would store. Their keys are reserved, but nothing is stored.
     *
     * @throws ZabbetException if they cannot be made, or the part is stored already
     */
    public Load planned(Bulk bulk) {
        return BulkPlan.of(schema(), drawn(), clock, BulkRecipe.of(Words.notNull(bulk, "bulk", "Stage.planned")), store)
                .load();
    }

    /**
     * Returns how many rows of each table {@link #add(Bulk)} would store into empty tables. Nothing is stored.
     *
     * @throws ZabbetException if they cannot be made
     */
    public Map<String, Integer> validate(Bulk bulk) {
        return BulkPlan.inTheAir(schema(), drawn(), clock, BulkRecipe.of(Words.notNull(bulk, "bulk", "Stage.validate")))
                .load()
                .counts();
    }

    /**
     * Stores a seed, all of it or nothing. Columns that it leaves out are filled as a factory fills them, with the parents
     * that are needed.
     *
     * @return its labelled rows, as stored
     * @throws ZabbetException if something is wrong with the seed; the message lists every problem with its place
     */
    public Loaded load(Seed seed) {
        return load(seed, Progress.NONE);
    }

    /** Stores a seed, as {@link #load(Seed)}, and reports progress. */
    public Loaded load(Seed seed, Progress progress) {
        Words.notNull(progress, "progress", "Stage.load");
        Words.notNull(seed, "seed", "Stage.load");
        return planning.upToDate(() -> Seeding.store(seed, store, clock, drawn(), progress));
    }

    /**
     * Has others store a seed: the application by its own API, so that its own rules apply. The seed is tried as {@link #load(Seed)}
     * tries it, filled up, and delivered row by row; labels then know the keys that the rows have got.
     *
     * @param seed the rows
     * @param receiver who stores them, in this stage's database
     * @return the labelled rows, as stored
     * @throws ZabbetException if something is wrong with the seed, and nothing is delivered then; or if a row is refused
     */
    public Loaded deliver(Seed seed, SeedReceiver receiver) {
        Words.notNull(seed, "seed", "Stage.deliver");
        Words.notNull(receiver, "receiver", "Stage.deliver");
        return planning.upToDate(() -> Seeding.deliver(seed, store, clock, drawn(), receiver));
    }

    /**
     * Returns the rows that {@link #load(Seed)} would store. Their keys are reserved, but nothing is stored.
     *
     * @throws ZabbetException if something is wrong with the seed, as {@link #load}
     */
    public Load planned(Seed seed) {
        return Seeding.planned(Words.notNull(seed, "seed", "Stage.planned"), store, clock, drawn());
    }

    /**
     * Checks a seed without storing anything.
     *
     * @return how many rows of each table it would store, in storing order
     * @throws ZabbetException if something is wrong with it, as {@link #load}
     */
    public Map<String, Integer> validate(Seed seed) {
        return Seeding.planned(Words.notNull(seed, "seed", "Stage.validate"), store, clock, drawn())
                .counts();
    }

    /**
     * Makes an object without storing it. The parents that it needs are stored, so that the application can store the object.
     *
     * @throws ZabbetException if it cannot be made
     */
    public <T> T build(Factory<T> factory) {
        Words.notNull(factory, "factory", "Stage.build");
        return PlanExecution.<T>unsaved(planning.plan(1, factory), Recipe.of(factory), store)
                .get(0);
    }

    /**
     * Makes objects that are not stored, as {@link #build(Factory)} does.
     *
     * @param count how many, at least 1
     */
    public <T> List<T> build(int count, Factory<T> factory) {
        Words.notNull(factory, "factory", "Stage.build");
        return planning.upToDate(
                () -> PlanExecution.unsaved(planning.plan(count, factory, planning.ground), Recipe.of(factory), store));
    }

    /**
     * Makes a row that breaks one constraint, and is not stored. The parents that it needs are stored, and of a flaw in a
     * unique key the row that has the key already.
     *
     * @return the row with all columns of its table, those with a default too; null in the column that the database numbers
     * @throws ZabbetException if the rest of the row cannot be made
     */
    public Row build(Flawed flawed) {
        Words.notNull(flawed, "flawed", "Stage.build");
        Table table = schema().require(flawed.table());
        Factory<?> factory = flawed.factory();
        if (flawed.kind() != Flawed.Kind.UNIQUE) {
            return FlawedRow.of(unsavedRow(factory), flawed.values());
        }
        Row first = planning.upToDate(() -> PlanExecution.storedRow(planning.plan(1, factory), store));
        List<String> key = Stream.concat(table.primaryKey().stream(), table.uniques().stream())
                .filter(k -> k.name().equals(flawed.constraint())
                        || String.join(", ", k.columns()).equals(flawed.constraint()))
                .findFirst()
                .orElseThrow()
                .columns();
        return FlawedRow.like(unsavedRow(factory), first, key);
    }

    private Row unsavedRow(Factory<?> factory) {
        return planning.upToDate(() -> PlanExecution.unsavedRow(planning.plan(1, factory, planning.ground), store));
    }

    /**
     * Makes an object that breaks one constraint, and is not stored, as {@link #build(Flawed)} makes a row: what the
     * application's own code is given to save.
     *
     * @param type the type of objects that the table's rows are for the application
     * @throws ZabbetException if objects of the type cannot hold the flaw, null in an {@code int} for example; {@link
     *     Flawed#fits} tells before
     */
    public <T> T build(Flawed flawed, Class<T> type) {
        Words.notNull(type, "type", "Stage.build");
        return FlawedObject.of(
                Recipe.of(flawed.factory()),
                flawed.values(),
                flawed.toString(),
                schema().require(flawed.table()),
                build(flawed),
                type);
    }

    /**
     * Returns what a client would send to have an object stored, ready to be written as JSON: text, numbers, booleans,
     * null, lists and maps, dates and times in ISO 8601, names as {@code hutId}. Keys that the database gives are left out.
     * The parents that it needs are stored. Where the stage knows how the application reads JSON ({@link
     * #writePayloadsAs}), names and values are as there.
     */
    public Map<String, @Nullable Object> payload(Factory<?> factory) {
        PayloadForm form = payloadForm.get();
        return form == null
                ? payload(factory, Payload.Naming.CAMEL)
                : payload(
                        factory, Payload.of(Objects.requireNonNull(build(factory)), form), Payload.Naming.CAMEL, form);
    }

    /**
     * Says how the application reads JSON: payloads have its names and values from now on, where they are asked for without a
     * naming. In a test with Spring it is the context's ObjectMapper.
     */
    public void writePayloadsAs(PayloadForm form) {
        payloadForm.set(Words.notNull(form, "form", "Stage.writePayloadsAs"));
    }

    private Map<String, @Nullable Object> payload(
            Factory<?> factory,
            Map<String, @Nullable Object> payload,
            Payload.Naming naming,
            @Nullable PayloadForm form) {
        schema().require(factory.table())
                .numberedColumn()
                .ifPresent(column -> payload.remove(Payload.name(column.name(), naming, form)));
        return payload;
    }

    /**
     * Returns what a client would send that breaks one constraint: as {@link #payload(Factory)}, with the flaw kept.
     *
     * @throws ZabbetException as {@link #build(Flawed)}
     */
    public Map<String, @Nullable Object> payload(Flawed flawed) {
        return payload(flawed, Payload.Naming.CAMEL);
    }

    /** Returns what a client would send, as {@link #payload(Flawed)}, with names written in the given way. */
    public Map<String, @Nullable Object> payload(Flawed flawed, Payload.Naming naming) {
        return Payload.ofNames(
                FlawedObject.named(Recipe.of(flawed.factory()), schema().require(flawed.table()), build(flawed)),
                naming);
    }

    /** Returns what a client would send, as {@link #payload(Factory)}, with names written in the given way. */
    public Map<String, @Nullable Object> payload(Factory<?> factory, Payload.Naming naming) {
        return payload(factory, Payload.of(Objects.requireNonNull(build(factory)), naming), naming, null);
    }

    /**
     * Returns a key that no row of a table has, and that no row added later is likely to get: for "not found" tests.
     *
     * @throws ZabbetException if the table has no key of one column
     */
    public Object unusedKey(String table) {
        Table found = planning.upToDate(() -> schema().require(table));
        if (found.keyColumns().size() != 1) {
            throw new ZabbetException("The key of " + found.name() + " is (" + String.join(", ", found.keyColumns())
                    + "); unusedKey gives keys of one column.");
        }
        Column column = found.requireColumn(found.keyColumns().get(0));
        for (int attempt = 0; attempt < 1000; attempt++) {
            Object key = UnusedKey.of(column.type(), attempt);
            if (!store.holds(found, new Condition.Equal(column.name(), key))) {
                return key;
            }
        }
        throw new ZabbetException("No key of " + found.name() + " is found that is not in use.");
    }

    /**
     * Returns a key that no row of a type's table has, as {@link #unusedKey(String)}.
     *
     * @param keyType the key's type in Java
     */
    public <K> K unusedKey(Class<?> type, Class<K> keyType) {
        String table = TypeShape.tableOf(type);
        try {
            return Objects.requireNonNull(keyType.cast(JavaValue.to(keyType, unusedKey(table))));
        } catch (InexactValueException e) {
            throw new ZabbetException(
                    "The key of " + table + " is no " + keyType.getSimpleName() + ": " + e.clause() + ".");
        }
    }
}
