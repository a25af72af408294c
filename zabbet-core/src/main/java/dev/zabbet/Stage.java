package dev.zabbet;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.TableExpectation;
import dev.zabbet.internal.report.References;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.opentest4j.AssertionFailedError;
import org.opentest4j.IncompleteExecutionException;

/**
 * Where one test's rows live: a store with its schema, a clock and a variation. The front door to arranging rows,
 * running the code under test and asking what it left.
 *
 * <p>Not thread-safe, except that several threads may add rows; those calls are serialised. The code under test may use as many
 * threads as it likes.
 */
public final class Stage extends StageFaking implements AutoCloseable {
    /** When a stage's clock starts, if nothing else is said: a summer morning well ahead of every real clock. */
    public static final Instant START = Instant.parse("2031-07-01T08:00:00Z");

    private final List<Footprint> footprints;

    private Stage(Store store, StageClock clock, long variation) {
        super(store, clock, variation);
        footprints = new ArrayList<>();
    }

    /** Another view of the same rows. */
    private Stage(Stage like, long variation, @Nullable String role) {
        super(like, variation, role);
        footprints = like.footprints;
    }

    /**
     * Opens a stage over a store. The variation is the system property {@code zabbet.variation}, 0 without it.
     *
     * @param opener makes the store; it is given the stage's clock
     * @return the stage, to be closed by the caller
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

    /**
     * {@return a view of this stage, with the same rows and clock, whose values are invented in another variation}
     *
     * @param other the variation
     */
    public Stage inVariation(long other) {
        return new Stage(this, other, role);
    }

    /** {@return this stage's present time} */
    public Instant now() {
        return clock.instant();
    }

    /**
     * Moves this stage's clock.
     *
     * @param by how far; the clock never goes back
     */
    public void advance(Duration by) {
        clock.advance(by);
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
     * {@return a view of this stage as the application sees it under a role} On PostgreSQL the connections of {@link
     * #dataSource()} have the role set, so that its rights and row-level policies apply; in memory fakes see and do what
     * {@link #permits} allows. Arranging and asserting go on with full rights.
     *
     * @param name the role's name
     * @throws ZabbetException if the stage is on another database
     */
    public Stage asRole(String name) {
        Words.notNull(name, "name", "Stage.asRole");
        if (!store.isInMemory() && store.dataSource(name).isEmpty()) {
            throw new ZabbetException(
                    "A stage is entered under a role on PostgreSQL and in memory; this one's rows live in "
                            + store.description() + ".");
        }
        return new Stage(this, variation, name);
    }

    /**
     * Runs code under test that has to be denied by the rights of its role: what it throws, or a cause of that, has the
     * SQLState 42501.
     *
     * @param code the code under test
     * @return what it threw, and what it left nevertheless
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
     * Runs code under test and returns its footprint: what it left. Exceptions of the code are rethrown.
     *
     * @param code the code under test
     * @return what the code left
     */
    public Footprint act(Action code) {
        Words.notNull(code, "code", "Stage.act");
        return act(() -> {
            code.run();
            return Boolean.TRUE;
        });
    }

    /**
     * Runs code under test and returns its footprint together with its result. Exceptions of the code are rethrown.
     *
     * @param <V> what the code returns
     * @param code the code under test
     * @return what the code left
     */
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

    /** {@return the footprints of the acts since the stage was opened or last rewound, in order} */
    public List<Footprint> footprints() {
        return List.copyOf(footprints);
    }

    /**
     * Runs code under test that has to fail, and returns its exception together with what it left nevertheless.
     *
     * @param <X> the type of the failure
     * @param type what it has to throw, or a supertype of that
     * @param code the code under test
     * @return what the code threw, and what it left nevertheless
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
     * @param table the table's name; case matters only where two names differ in nothing else
     * @return the expectation, to be gone on with
     * @throws dev.zabbet.error.UnknownNameException if there is no such table
     */
    public TableExpectation expect(String table) {
        return TableExpectation.on(store, Words.notNull(table, "table", "Stage.expect"), variation);
    }

    /**
     * Begins an expectation on what the table of a type holds.
     *
     * @param type the Java type whose table is meant
     * @return the expectation, to be gone on with
     * @throws dev.zabbet.error.UnknownNameException if there is no table named like the type
     */
    public TableExpectation expect(Class<?> type) {
        return expect(TypeShape.tableOf(type));
    }

    /**
     * Expects what is written down elsewhere, for example in a row document.
     *
     * @param expectations what has to hold, for example a row document
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

    /**
     * {@return the rows of a table, in key order where it has a key}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     */
    public List<Row> rows(String table) {
        Table found = store.schemaNow().require(table);
        return store.rows(found, Condition.all());
    }

    /**
     * Notes the present state, so that {@link #rewind} can bring it back.
     *
     * @return the stage, to be closed by the caller
     */
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
     * Brings rows, keys and counters back to how they were at the point, and the clock to its start. Everything that was set on the
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
