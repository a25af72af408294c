package dev.zabbet;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.References;
import dev.zabbet.expect.TableExpectation;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.BulkPlan;
import dev.zabbet.factory.Factory;
import dev.zabbet.factory.Flawed;
import dev.zabbet.factory.FlawedObject;
import dev.zabbet.factory.FlawedRow;
import dev.zabbet.factory.Ground;
import dev.zabbet.factory.Made;
import dev.zabbet.factory.Payload;
import dev.zabbet.factory.PayloadForm;
import dev.zabbet.factory.Plan;
import dev.zabbet.factory.Through;
import dev.zabbet.factory.UnusedKey;
import dev.zabbet.fake.CallLog;
import dev.zabbet.fake.Defined;
import dev.zabbet.fake.Definition;
import dev.zabbet.fake.Fakes;
import dev.zabbet.fake.Rules;
import dev.zabbet.fake.V0;
import dev.zabbet.fake.V1;
import dev.zabbet.fake.V2;
import dev.zabbet.fake.V3;
import dev.zabbet.fake.V4;
import dev.zabbet.fake.V5;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.Seeding;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Load;
import dev.zabbet.store.MemoryStore;
import dev.zabbet.store.Permits;
import dev.zabbet.store.Progress;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.opentest4j.AssertionFailedError;
import org.opentest4j.IncompleteExecutionException;

/**
 * Where one test's rows live: a store with its schema, a clock and a variation. The front door to arranging rows,
 * running the code under test and asking what it left.
 *
 * <p>For one thread at a time, but that several may store rows: they take turns. The code under test may use as many
 * threads as it likes.
 */
public final class Stage implements AutoCloseable {
    /** When a stage's clock starts, if nothing else is said: a summer morning well ahead of every real clock. */
    public static final Instant START = Instant.parse("2031-07-01T08:00:00Z");

    /** How often a row is stored whose key another takes each time. */
    private static final int MOST_TRIES = 20;

    private final Store store;
    private final StageClock clock;
    private final long variation;
    private final Ground ground;
    private final Ground trusted;
    private boolean trusting; // the last plan took it that no stored row has a key that it made
    private boolean carefully; // the next plan looks
    private final List<Footprint> footprints;
    private final Map<String, Permits> permits;
    private final @Nullable String role;
    private final Defined defined;
    private final Fakes fakes;
    private AtomicReference<@Nullable PayloadForm> payloadForm = new AtomicReference<>();

    private Stage(Store store, StageClock clock, long variation) {
        this(store, clock, variation, new Defined(), null);
    }

    private Stage(Store store, StageClock clock, long variation, Defined defined, @Nullable Stage like) {
        this(
                store,
                clock,
                variation,
                defined,
                like == null ? new Fakes(new CallLog(), defined) : like.fakes,
                like == null ? new ArrayList<>() : like.footprints,
                like == null ? new ConcurrentHashMap<>() : like.permits,
                like == null ? null : like.role);
        if (like != null) {
            payloadForm = like.payloadForm;
        }
    }

    private Stage(
            Store store,
            StageClock clock,
            long variation,
            Defined defined,
            Fakes fakes,
            List<Footprint> footprints,
            Map<String, Permits> permits,
            @Nullable String role) {
        this.footprints = footprints;
        this.permits = permits;
        this.role = role;
        this.defined = defined;
        this.fakes = fakes;
        this.store = store;
        this.clock = clock;
        this.variation = variation;
        this.ground = Ground.of(store);
        this.trusted = Ground.of(store, true);
    }

    /**
     * Opens a stage over a store. The variation is the system property {@code zabbet.variation}, 0 without it.
     *
     * @param opener makes the store; it is given the stage's clock
     * @throws ZabbetException if the property is no whole number
     */
    public static Stage on(Function<? super Clock, ? extends Store> opener) {
        StageClock clock = new StageClock(START);
        return new Stage(opener.apply(clock), clock, variationProperty());
    }

    private static long variationProperty() {
        String text = System.getProperty("zabbet.variation", "0");
        try {
            return Long.parseLong(text.strip());
        } catch (NumberFormatException e) {
            throw new ZabbetException("The property zabbet.variation is a whole number; it was set to '" + text + "'.");
        }
    }

    /** Returns the tables. */
    public Schema schema() {
        return store.schema();
    }

    /** Returns the store behind this stage. */
    public Store store() {
        return store;
    }

    /** Returns the methods that were defined for fakes of this stage. */
    Defined definitions() {
        return defined;
    }

    /** Returns the number that all invented values follow from. */
    public long variation() {
        return variation;
    }

    /** Returns this very stage, store and clock and all, but with values that follow from another number. */
    public Stage inVariation(long other) {
        return new Stage(store, clock, other, defined, this);
    }

    /** Returns this stage's clock, to be given to the application. It stands still until {@link #advance} moves it. */
    public Clock clock() {
        return clock;
    }

    /** Returns this stage's present time. */
    public Instant now() {
        return clock.instant();
    }

    /** Moves this stage's clock. */
    public void advance(Duration by) {
        clock.advance(by);
    }

    /**
     * Returns the source of connections for the application.
     *
     * @throws ZabbetException if the rows live in memory, where there is none
     */
    public DataSource dataSource() {
        String as = role;
        return (as == null ? store.dataSource() : store.dataSource(as))
                .orElseThrow(() -> new ZabbetException("This stage's rows live in " + store.description()
                        + ", where there is no data source. Open it on a database, or use a fake of the data access."));
    }

    /**
     * Runs statements on each connection of this stage: on its own, at once, and on each that {@link #dataSource()} hands out
     * from now on. For what triggers, policies and defaults expect to find in a session, {@code SET app.tenant = '7'} for
     * example. Does nothing in memory, where there are no sessions.
     *
     * @param statements SQL, one statement each; what they set may stay with a connection that goes back to a pool
     * @throws ZabbetException if the database refuses one
     */
    public void onEachConnection(String... statements) {
        store.onEachConnection(List.of(statements));
    }

    /**
     * Returns this very stage as the application sees it under a role: on PostgreSQL connections of {@link #dataSource()}
     * have the role set, so that its rights and row-level policies apply; in memory fakes see and do what
     * {@link #permits} allows. Arranging and asserting go on with full rights.
     *
     * @throws ZabbetException if the stage is on another database
     */
    public Stage asRole(String name) {
        Words.notNull(name, "name", "Stage.asRole");
        if (!(store instanceof MemoryStore) && store.dataSource(name).isEmpty()) {
            throw new ZabbetException(
                    "A stage is entered under a role on PostgreSQL and in memory; this one's rows live in "
                            + store.description() + ".");
        }
        Stage as = new Stage(store, clock, variation, defined, fakes, footprints, permits, name);
        as.payloadForm = payloadForm;
        return as;
    }

    /**
     * Returns what a role may do with rows in memory, to allow more: nothing is allowed that is not said. On a database the
     * rights count that the database has granted, and what is said here is not looked at, so that one test serves both.
     *
     * @throws dev.zabbet.error.UnknownNameException from its methods, if there is no such table
     */
    public Permits permits(String name) {
        Words.notNull(name, "name", "Stage.permits");
        return permits.computeIfAbsent(name, n -> new Permits(schema(), n));
    }

    /**
     * Runs code under test that has to be denied by the rights of its role: what it throws, or a cause of that, has the
     * SQLState 42501.
     *
     * @return what it threw, and what it left all the same
     * @throws AssertionError if it is not denied
     */
    public Failed<Throwable> actDenied(Action code) {
        Failed<Throwable> failed = actFailing(Throwable.class, code);
        for (Throwable at = failed.failure(); at != null; at = at.getCause()) {
            boolean denied = at instanceof ConstraintException refusal
                    ? refusal.sqlState().equals(ConstraintException.DENIED)
                    : at instanceof SQLException sql && ConstraintException.DENIED.equals(sql.getSQLState());
            if (denied) {
                return failed;
            }
        }
        throw new AssertionFailedError(
                "The act should have been denied by the rights of its role; it threw " + failed.failure() + ".",
                "SQLState " + ConstraintException.DENIED,
                failed.failure().toString(),
                failed.failure());
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
     * Stores what a factory makes, so many times.
     *
     * @param count how many, at least 1
     * @return the objects or rows as stored, in order
     * @throws ZabbetException if they cannot be made or the store refuses one; nothing is stored then
     */
    public <T> List<T> add(int count, Factory<T> factory) {
        Words.notNull(factory, "factory", "Stage.add");
        return upToDate(() -> Made.stored(plan(count, factory), factory, store));
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
     * Has the application's own code store what a factory makes, so many times, one after another.
     *
     * @param count how many, at least 1
     * @return what the code returned, in order
     * @throws ZabbetException if the code throws; the message says which object it was given, the cause is what was thrown.
     *     What it stored before stays
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
     * Stores what a factory makes, so many times, without handing anything back: for large numbers of rows.
     *
     * @param count how many, at least 1
     * @throws ZabbetException if they cannot be made or the store refuses one; nothing is stored then
     */
    public void addMany(int count, Factory<?> factory) {
        Words.notNull(factory, "factory", "Stage.addMany");
        upToDate(() -> {
            Made.storedOnly(plan(count, factory), store);
            return true;
        });
    }

    /**
     * Stores rows of several tables together, all or none, without handing any back: for large numbers of rows.
     *
     * @return how many rows of each table were stored, with what came along, in the order in which they were stored
     * @throws ZabbetException if they cannot be made or the store refuses one, or the part is stored already
     */
    public Map<String, Integer> add(Bulk bulk) {
        return add(bulk, Progress.NONE);
    }

    /** Stores rows of several tables together, as {@link #add(Bulk)}, and tells how far it has come. */
    public Map<String, Integer> add(Bulk bulk, Progress progress) {
        Words.notNull(bulk, "bulk", "Stage.add");
        Words.notNull(progress, "progress", "Stage.add");
        return upToDate(() -> {
            Load load = BulkPlan.of(schema(), variation, clock, bulk, store).load();
            store.store(load.told(progress));
            return load.counts();
        });
    }

    /**
     * Works out the rows that {@link #add(Bulk)} would store. Their keys are reserved; nothing is stored.
     *
     * @throws ZabbetException if they cannot be made, or the part is stored already
     */
    public Load planned(Bulk bulk) {
        return BulkPlan.of(schema(), variation, clock, Words.notNull(bulk, "bulk", "Stage.planned"), store)
                .load();
    }

    /**
     * Tells how many rows of each table {@link #add(Bulk)} would store, as if nothing were stored yet.
     *
     * @throws ZabbetException if they cannot be made
     */
    public Map<String, Integer> validate(Bulk bulk) {
        return BulkPlan.inTheAir(schema(), variation, clock, Words.notNull(bulk, "bulk", "Stage.validate"))
                .load()
                .counts();
    }

    /**
     * Stores a seed, all of it or nothing. Columns that it leaves out are filled as a factory fills them, with the parents
     * that are needed.
     *
     * @return its labelled rows, as stored
     * @throws ZabbetException if something is wrong with the seed; the message says all that is, each with its place
     */
    public Loaded load(Seed seed) {
        return load(seed, Progress.NONE);
    }

    /** Stores a seed, as {@link #load(Seed)}, and tells how far it has come. */
    public Loaded load(Seed seed, Progress progress) {
        Words.notNull(progress, "progress", "Stage.load");
        Words.notNull(seed, "seed", "Stage.load");
        return upToDate(() -> Seeding.store(seed, store, clock, variation, progress));
    }

    /**
     * Works out the rows that {@link #load(Seed)} would store. Their keys are reserved; nothing is stored.
     *
     * @throws ZabbetException if something is wrong with the seed, as {@link #load}
     */
    public Load planned(Seed seed) {
        return Seeding.planned(Words.notNull(seed, "seed", "Stage.planned"), store, clock, variation);
    }

    /**
     * Tries a seed without storing anything.
     *
     * @return how many rows of each table it would be, in storing order
     * @throws ZabbetException if something is wrong with it, as {@link #load}
     */
    public Map<String, Integer> validate(Seed seed) {
        return Seeding.planned(Words.notNull(seed, "seed", "Stage.validate"), store, clock, variation)
                .counts();
    }

    /**
     * Makes an object that is not stored. The parents that it needs are stored, so that the application can store it.
     *
     * @throws ZabbetException if it cannot be made
     */
    public <T> T build(Factory<T> factory) {
        Words.notNull(factory, "factory", "Stage.build");
        return Made.unsaved(plan(1, factory), factory, store).get(0);
    }

    /**
     * Makes objects that are not stored, as {@link #build(Factory)} does.
     *
     * @param count how many, at least 1
     */
    public <T> List<T> build(int count, Factory<T> factory) {
        Words.notNull(factory, "factory", "Stage.build");
        return upToDate(() -> Made.unsaved(plan(count, factory, ground), factory, store));
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
        Row first = upToDate(() -> Made.storedRow(plan(1, factory), store));
        List<String> key = Stream.concat(table.primaryKey().stream(), table.uniques().stream())
                .filter(k -> k.name().equals(flawed.constraint())
                        || String.join(", ", k.columns()).equals(flawed.constraint()))
                .findFirst()
                .orElseThrow()
                .columns();
        return FlawedRow.like(unsavedRow(factory), first, key);
    }

    private Row unsavedRow(Factory<?> factory) {
        return upToDate(() -> Made.unsavedRow(plan(1, factory, ground), store));
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
        return FlawedObject.of(flawed, schema().require(flawed.table()), build(flawed), type);
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
        return FlawedObject.payload(flawed, schema().require(flawed.table()), build(flawed), naming);
    }

    /** Returns what a client would send, as {@link #payload(Factory)}, with names written in the given way. */
    public Map<String, @Nullable Object> payload(Factory<?> factory, Payload.Naming naming) {
        return payload(factory, Payload.of(Objects.requireNonNull(build(factory)), naming), naming, null);
    }

    /**
     * Returns a key that no row of a table has now, and none gets soon: for "not found" tests.
     *
     * @throws ZabbetException if the table has no key of one column
     */
    public Object unusedKey(String table) {
        Table found = upToDate(() -> schema().require(table));
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
        } catch (Inexact e) {
            throw new ZabbetException(
                    "The key of " + table + " is no " + keyType.getSimpleName() + ": " + e.clause() + ".");
        }
    }

    /**
     * Tries again what failed, if it was because the tables have been changed since they were read, or another has taken a
     * key that was reserved. A key that is refused twice was not reserved but asked for.
     */
    private <V> V upToDate(Supplier<V> work) {
        synchronized (store) { // from reserving keys to storing rows with them
            Object lost = null;
            carefully = false;
            trusting = false;
            for (int tries = 1; ; tries++) {
                try {
                    return work.get();
                } catch (ZabbetException e) {
                    if (trusting && !carefully && e instanceof ConstraintException refused && store.isTwin(refused)) {
                        carefully = true; // by rows that are like stored ones, perhaps
                        tries--;
                        continue;
                    }
                    Object before = lost;
                    lost = e instanceof ConstraintException refused ? lostKey(refused) : null;
                    boolean another = lost != null && tries < MOST_TRIES && !lost.equals(before);
                    if (!another && (tries > 1 || !store.readAgain())) {
                        throw e;
                    }
                }
            }
        }
    }

    /** Returns the key of a refused row if it is that of a row which is stored, and others may take keys; null if not. */
    private @Nullable Object lostKey(ConstraintException refused) {
        Table table = schema().table(refused.table()).orElse(null);
        Column numbered = table == null ? null : table.numberedColumn().orElse(null);
        if (table == null || numbered == null || !store.sharesKeys(table)) {
            return null;
        }
        Object key = refused.row().map(row -> row.get(numbered.name())).orElse(null);
        return key != null && store.holds(table, new Condition.Equal(numbered.name(), key)) ? key : null;
    }

    private Plan plan(int count, Factory<?> factory) {
        trusting = !carefully;
        return plan(count, factory, carefully ? ground : trusted);
    }

    private Plan plan(int count, Factory<?> factory, Ground on) {
        return Plan.of(store.schema(), variation, clock, count, factory, on);
    }

    /** Runs code under test and returns what it left. What the code throws is thrown on. */
    public Footprint act(Action code) {
        Words.notNull(code, "code", "Stage.act");
        return act(() -> {
            code.run();
            return Boolean.TRUE;
        });
    }

    /** Runs code under test and returns what it left, together with what it returned. What the code throws is thrown on. */
    public <V extends @Nullable Object> Acted<V> act(Work<? extends V> code) {
        Words.notNull(code, "code", "Stage.act");
        try (Watch watch = store.watch()) {
            V value = code.run();
            store.flush();
            return new Acted<>(noted(new Footprint(this, watch.changes())), value);
        } catch (Throwable e) {
            store.discard();
            throw Stage.<RuntimeException>asIs(e);
        }
    }

    private Footprint noted(Footprint footprint) {
        footprints.add(footprint);
        return footprint;
    }

    /** Returns the footprints of the acts since the stage was opened or last rewound, in order. */
    public List<Footprint> footprints() {
        return List.copyOf(footprints);
    }

    /**
     * Runs code under test that has to fail, and returns what it left all the same.
     *
     * @param type what it has to throw, or a supertype of that
     * @throws AssertionError if it throws nothing, or something else; the report names what was thrown, which is also the
     *     cause, and what the act left
     */
    public <X extends Throwable> Failed<X> actFailing(Class<X> type, Action code) {
        Words.notNull(type, "type", "Stage.actFailing");
        Words.notNull(code, "code", "Stage.actFailing");
        try (Watch watch = store.watch()) {
            try {
                code.run();
                store.flush();
            } catch (Throwable e) {
                store.discard();
                if (type.isInstance(e)) {
                    return new Failed<>(noted(new Footprint(this, watch.changes())), type.cast(e));
                }
                if (e instanceof VirtualMachineError || e instanceof IncompleteExecutionException) {
                    throw Stage.<RuntimeException>asIs(e); // the test's own end, not the act's
                }
                throw thrownOtherwise(type, new Footprint(this, watch.changes()), e);
            }
            throw thrownOtherwise(type, new Footprint(this, watch.changes()), null);
        }
    }

    private static AssertionError thrownOtherwise(Class<?> type, Footprint left, @Nullable Throwable thrown) {
        String instead = thrown == null
                ? "nothing"
                : thrown.getClass().getSimpleName() + (thrown.getMessage() == null ? "" : ": " + thrown.getMessage());
        return left.expect()
                .failure(
                        "The act should have thrown " + type.getSimpleName() + "; it threw " + instead
                                + (instead.endsWith(".") ? "" : "."),
                        type.getName(),
                        thrown == null ? "(nothing thrown)" : thrown.toString(),
                        thrown);
    }

    /**
     * Begins an expectation on what a table holds.
     *
     * @throws dev.zabbet.error.UnknownNameException if there is no such table
     */
    public TableExpectation expect(String table) {
        return TableExpectation.on(store, Words.notNull(table, "table", "Stage.expect"), variation);
    }

    /**
     * Begins an expectation on what the table of a type holds.
     *
     * @throws dev.zabbet.error.UnknownNameException if there is no table named like the type
     */
    public TableExpectation expect(Class<?> type) {
        return expect(TypeShape.tableOf(type));
    }

    /**
     * Expects what is written down elsewhere, in a row document say.
     *
     * @throws AssertionError if an expectation does not hold; the report is of all that do not
     */
    public void expect(Expectations expectations) {
        Words.notNull(expectations, "expectations", "Stage.expect").expectStored(this);
    }

    /**
     * Expects that every reference in the store leads to a row, also where the database does not look: references left
     * unchecked, or none declared in a copy of the tables.
     *
     * @throws AssertionError if one does not; the report names the rows
     */
    public void expectReferencesIntact() {
        References.requireIntact(store, variation);
    }

    /** Returns the rows of a table, in key order where it has a key. */
    public List<Row> rows(String table) {
        Table found = store.schemaNow().require(table);
        return store.rows(found, Condition.ALL);
    }

    /**
     * Returns a working implementation of a data-access interface over the rows of this stage in memory. What its methods
     * do is read from their names and signatures (docs/swapping.md), or was {@link #define defined}. A row that a
     * constraint refuses is thrown as a {@link ConstraintException}, or as an {@link java.sql.SQLException} where the method
     * declares it.
     *
     * @throws ZabbetException if the stage is not in memory, or a method of the interface is not understood; the message
     *     lists those methods
     */
    public <R> R fake(Class<R> type) {
        return fake(type, refusal -> null);
    }

    /**
     * Returns a fake, as {@link #fake(Class)}, that throws what the real data access throws when a row is refused.
     *
     * @param translation makes of a refusal what is to be thrown; null for what is thrown without it
     */
    public <R> R fake(Class<R> type, Function<? super ConstraintException, ? extends @Nullable Throwable> translation) {
        Words.notNull(type, "type", "Stage.fake");
        if (store instanceof MemoryStore memory) {
            String as = role;
            return fakes.fake(type, as == null ? memory : memory.as(permits(as)), translation);
        }
        throw new ZabbetException("A fake of " + type.getSimpleName()
                + " needs rows in memory; this stage's rows live in " + store.description()
                + ". Open it by Memory.stage(schema), or let fakeOrReal choose.");
    }

    /**
     * Returns the one place to choose: in memory a fake, on a database the real implementation. Rules work for either.
     *
     * @param type the data-access interface
     * @param real makes the real implementation, from the stage's connections
     * @throws ZabbetException as {@link #fake(Class)}
     */
    public <R> R fakeOrReal(Class<R> type, Function<? super DataSource, ? extends R> real) {
        return fakeOrReal(type, real, refusal -> null);
    }

    /**
     * Returns the one place to choose, as {@link #fakeOrReal(Class, Function)}; the fake throws what the real data access
     * throws when a row is refused.
     *
     * @param translation makes of a refusal what is to be thrown; null for what is thrown without it. Not asked on a
     *     database, where the real implementation throws what it throws
     */
    public <R> R fakeOrReal(
            Class<R> type,
            Function<? super DataSource, ? extends R> real,
            Function<? super ConstraintException, ? extends @Nullable Throwable> translation) {
        Words.notNull(type, "type", "Stage.fakeOrReal");
        Words.notNull(real, "real", "Stage.fakeOrReal");
        Words.notNull(translation, "translation", "Stage.fakeOrReal");
        return store instanceof MemoryStore ? fake(type, translation) : fakes.before(type, real.apply(dataSource()));
    }

    /**
     * Returns the rules of what {@link #fake} or {@link #fakeOrReal} returned, to make it misbehave and to expect calls.
     *
     * @throws ZabbetException if the object is none of these
     */
    public <R> Rules<R> rules(R fake) {
        return Rules.of(fake);
    }

    /**
     * Says what a method does in all fakes that this stage makes from now on, where its name does not say it, or says
     * something else: {@code stage.define(StayRepository::findOverbooked, (tables, given) -> …)}.
     *
     * @param method a method reference
     * @param definition what it does
     */
    public <R> void define(V0<R> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(V0, Definition)}, for a method with one argument. */
    public <R, A> void define(V1<R, A> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(V0, Definition)}, for a method with two arguments. */
    public <R, A, B> void define(V2<R, A, B> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(V0, Definition)}, for a method with three arguments. */
    public <R, A, B, C> void define(V3<R, A, B, C> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(V0, Definition)}, for a method with four arguments. */
    public <R, A, B, C, D> void define(V4<R, A, B, C, D> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(V0, Definition)}, for a method with five arguments. */
    public <R, A, B, C, D, E> void define(V5<R, A, B, C, D, E> method, Definition definition) {
        defined.add(method, definition);
    }

    /** Notes the present state, so that {@link #rewind} can bring it back. */
    public RewindPoint mark() {
        List<Runnable> said = new ArrayList<>(List.of(defined.mark()));
        permits.values().forEach(allowed -> said.add(allowed.mark()));
        List<String> roles = List.copyOf(permits.keySet());
        said.add(() -> permits.keySet().retainAll(roles));
        return new Marked(store.mark(), said);
    }

    /**
     * The state of a stage.
     *
     * @param said what takes back what was said to the stage later: definitions and permits
     */
    private record Marked(RewindPoint rows, List<Runnable> said) implements RewindPoint {}

    /**
     * Brings rows, keys and counters back to how they were at the point, and the clock to its start. What was said to the
     * stage since is forgotten: {@link #define definitions}, {@link #permits permits} and statements for {@linkplain
     * #onEachConnection each connection}.
     *
     * @param point from {@link #mark} of this stage
     */
    public void rewind(RewindPoint point) {
        Words.notNull(point, "point", "Stage.rewind");
        if (point instanceof Marked marked) {
            store.rewind(marked.rows());
            marked.said().forEach(Runnable::run);
        } else {
            store.rewind(point);
        }
        clock.set(START);
        footprints.clear();
    }

    /** Lets go of the store; a database that lives only for this stage ends with it. */
    @Override
    public void close() {
        store.close();
    }

    @SuppressWarnings({"unchecked", "TypeParameterUnusedInFormals"})
    private static <X extends Throwable> X asIs(Throwable e) throws X {
        throw (X) e;
    }

    @Override
    public String toString() {
        return "Stage on " + store.description();
    }
}
