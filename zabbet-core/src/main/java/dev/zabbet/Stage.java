package dev.zabbet;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.TableExpectation;
import dev.zabbet.internal.plan.StoredDocuments;
import dev.zabbet.internal.report.References;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.Store;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * Where one test's rows live: a store with its schema, a clock and a variation. The front door to arranging rows,
 * running the code under test and asking what it left.
 *
 * <p>Not thread-safe, except that several threads may add rows; those calls are serialised. The code under test may use as many
 * threads as it likes.
 */
public final class Stage extends StageActing implements AutoCloseable {
    /** When a stage's clock starts, if nothing else is said: a summer morning well ahead of every real clock. */
    public static final Instant START = Instant.parse("2031-07-01T08:00:00Z");

    private Stage(Store store, StageClock clock, long variation) {
        super(store, clock, variation);
    }

    /** Another view of the same rows. */
    private Stage(Stage like, long variation, @Nullable String role) {
        super(like, variation, role);
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
     * Begins an expectation on what a table holds.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @return the expectation, to be gone on with
     * @throws dev.zabbet.error.UnknownNameException if there is no such table
     */
    public TableExpectation expect(String table) {
        return TableExpectation.on(store, Words.notNull(table, "table", "Stage.expect"), variation());
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
        References.requireIntact(store, variation());
    }

    /**
     * {@return the rows of a table, in key order where it has a key}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     */
    public List<Row> rows(String table) {
        Table found = store.schemaNow().require(table);
        Story story = Stories.of(store);
        if (story != null) {
            story.reads("the rows of " + found.name(), found);
        }
        return store.rows(found, Condition.all());
    }

    /**
     * Notes the present state, so that {@link #rewind} can bring it back.
     *
     * @return the stage, to be closed by the caller
     */
    public RewindPoint mark() {
        List<Runnable> said = new ArrayList<>(
                List.of(defined.mark(), StoredDocuments.of(store).mark()));
        permits.values().forEach(allowed -> said.add(allowed.mark()));
        List<String> roles = List.copyOf(permits.keySet());
        said.add(() -> permits.keySet().retainAll(roles));
        return new Marked(store.mark(), said);
    }

    /**
     * The state of a stage.
     *
     * @param said what takes back what was said to the stage later: definitions, permits and documents
     */
    private record Marked(RewindPoint rows, List<Runnable> said) implements RewindPoint {}

    /**
     * Brings rows, keys and counters back to how they were at the point, and the clock to its start. Everything that was set on the
     * stage since is forgotten: {@link #define definitions}, {@link #permits permits}, {@link #documents documents} and statements for {@linkplain
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
        Story story = Stories.of(store);
        if (story != null) {
            story.rewound();
        }
        clock.set(START);
        footprints.clear();
    }

    /** Lets go of the store; a database that lives only for this stage ends with it. */
    @Override
    public void close() {
        store.close();
    }

    @Override
    public String toString() {
        return "Stage on " + store.description();
    }
}
