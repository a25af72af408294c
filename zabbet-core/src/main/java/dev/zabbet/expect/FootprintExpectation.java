package dev.zabbet.expect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.report.SoftDeletion;
import dev.zabbet.internal.story.LooseEnd;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.row.Row;
import dev.zabbet.store.Change;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.List;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/**
 * What an act should have left. Each method throws an {@link AssertionError} if the footprint differs. Otherwise it
 * accounts for what it spoke of, so that {@link #nothingElse} can tell whether there was more: rows that were added or
 * removed as a whole, and of rows that were changed the columns that the expectation names.
 *
 * <p>Not thread-safe; begin another expectation for another look.
 */
public final class FootprintExpectation {
    private final Store store;
    private final List<Change> origin;
    private FootprintComparison compared;
    private final List<UnaryOperator<FootprintComparison>> steps;
    private final long variation;
    private final Story.@Nullable Begun begun;

    private FootprintExpectation(Store store, List<Change> changes, long variation, Story.@Nullable Begun begun) {
        this.store = store;
        this.origin = List.copyOf(changes);
        this.compared = FootprintComparison.on(store, origin, variation);
        this.steps = new ArrayList<>();
        this.variation = variation;
        this.begun = begun;
    }

    /** What was accounted for stays accounted for. */
    private FootprintExpectation(FootprintExpectation like, UnaryOperator<FootprintComparison> step) {
        this.store = like.store;
        this.origin = like.origin;
        this.compared = step.apply(like.compared);
        this.steps = new ArrayList<>(like.steps);
        this.steps.add(step);
        this.variation = like.variation;
        this.begun = like.begun;
    }

    /**
     * Begins an expectation on changes; {@code Footprint.expect} is the usual way.
     *
     * @param store the store that is asked
     * @param changes the changes
     * @param variation the number that reports name
     * @return the expectation, to be gone on with
     */
    public static FootprintExpectation on(Store store, List<Change> changes, long variation) {
        Story story = Stories.of(store);
        return new FootprintExpectation(
                store,
                changes,
                variation,
                story == null ? null : story.begin(LooseEnd.Kind.EXPECTATION, "expect() on a footprint"));
    }

    /**
     * Expects that each of these rows was added, a row of its own for each.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param rows as {@link TableExpectation} takes them; at least one. The key of an object that was not stored itself, null
     *     or the number 0 that the database would number, does not count.
     * @return this expectation
     */
    public FootprintExpectation added(String table, Object... rows) {
        return ask("added(\"" + table + "\", …)", compared -> compared.added(table, rows));
    }

    /** {@return the changes that count, those that were ignored left out} */
    public List<Change> changes() {
        ended();
        return compared.changes();
    }

    /**
     * {@return the columns of a changed row, and the places in its documents, that are not accounted for: of those that changed, the
     * ones that are neither ignored nor computed by the database, and that no expectation has named yet}
     *
     * @param change one of {@link #changes}
     */
    public List<String> columnsLeft(Change.Changed change) {
        return compared.columnsLeft(change);
    }

    /**
     * Expects that each of these rows was removed; what they held before counts.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param rows the expected rows: maps, {@link dev.zabbet.row.Row}s, objects, or a table in Markdown; at least one
     * @return this expectation
     */
    public FootprintExpectation removed(String table, Object... rows) {
        return ask("removed(\"" + table + "\", …)", compared -> compared.removed(table, rows));
    }

    /**
     * Expects that the row with this key was changed and now holds these values. Other columns of the row that changed too
     * are not accounted for; {@link #nothingElse} reports them.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param key the key; of a key of several columns a list in key order, or a row
     * @param after the columns that count, as they are now
     * @return this expectation
     */
    public FootprintExpectation changed(String table, Object key, Object after) {
        return ask("changed(\"" + table + "\", " + key + ", …)", compared -> compared.changed(table, key, after));
    }

    /**
     * Expects that the row with this key was changed, from these values to those.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @param before the columns that count, as they were
     * @param after the columns that count, as they are now
     * @return this expectation
     */
    public FootprintExpectation changed(String table, Object key, Object before, Object after) {
        return ask(
                "changed(\"" + table + "\", " + key + ", …, …)",
                compared -> compared.changed(table, key, before, after));
    }

    /**
     * Expects that the row with this key was soft-deleted: the column that says when was null and is no longer.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @return this expectation
     * @throws ZabbetException if no column, or more than one, is named like that; see {@link TableExpectation#softDeleted}
     */
    public FootprintExpectation softDeleted(String table, Object key) {
        String column = SoftDeletion.column(store.schema().require(table));
        return changed(table, key, Row.row(column, null), Row.row(column, Expected.notNull()));
    }

    /**
     * Expects the numbers of added, changed and removed rows of a table, and accounts for these rows with all their columns.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param added how many rows were added
     * @param changed how many rows were changed
     * @param removed how many rows were removed
     * @return this expectation
     */
    public FootprintExpectation counts(String table, int added, int changed, int removed) {
        return ask(
                "counts(\"" + table + "\", " + added + ", " + changed + ", " + removed + ")",
                compared -> compared.counts(table, added, changed, removed));
    }

    /**
     * Ignores tables or columns: {@code "audit_log"}, {@code "stay.updated_at"}, {@code "*.updated_at"}. A row of which only
     * such columns changed is no change, and such a column of any other changed row needs no expectation.
     *
     * @param names at least one
     * @return an expectation that keeps what has been accounted for so far, so that it does not matter when this is said
     * @throws dev.zabbet.error.UnknownNameException if there is no such table or column
     * @throws IllegalArgumentException if no name is given
     */
    public FootprintExpectation ignoring(String... names) {
        return new FootprintExpectation(this, compared -> compared.ignoring(names));
    }

    /**
     * Takes a value for the same only if its column keeps it just as it is given, as {@link TableExpectation#strictly}
     * does.
     *
     * @return an expectation that keeps what has been accounted for so far; what was compared before is not compared again
     */
    public FootprintExpectation strictly() {
        return new FootprintExpectation(this, FootprintComparison::strictly);
    }

    /**
     * Expects that one row was changed and now holds these values, whichever it is.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param after the values that it holds now
     * @return this expectation
     */
    public FootprintExpectation changed(String table, Object after) {
        return ask("changed(\"" + table + "\", …)", compared -> compared.changed(table, after));
    }

    /**
     * Expects that nothing was touched beyond what was spoken of: no other row, and in rows that were expected to change no
     * other column. A column that the database computes from others is not a change of its own.
     *
     * @return this expectation
     */
    public FootprintExpectation nothingElse() {
        return ask("nothingElse()", true, FootprintComparison::nothingElse);
    }

    /**
     * Expects that nothing was changed at all.
     *
     * @return this expectation
     */
    public FootprintExpectation unchanged() {
        return ask("unchanged()", true, FootprintComparison::unchanged);
    }

    /**
     * Expects that no row of this table was touched.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @return this expectation
     */
    public FootprintExpectation unchanged(String table) {
        return ask("unchanged(\"" + table + "\")", compared -> compared.unchanged(table));
    }

    /**
     * {@return a failure that shows what the act left: for what was expected of the act as a whole}
     *
     * @param headline what does not hold, in a sentence
     * @param expected what an IDE shows as expected
     * @param found what an IDE shows as found
     * @param cause what was thrown instead, if anything was
     */
    public AssertionError failure(String headline, String expected, String found, @Nullable Throwable cause) {
        return compared.failure(headline, expected, found, cause);
    }

    /** What is asked can be asked again, of changes that are somewhat different. */
    private FootprintExpectation ask(String how, UnaryOperator<FootprintComparison> step) {
        return ask(how, false, step);
    }

    /** @param all whether it says that there was no more than what is expected */
    private FootprintExpectation ask(String how, boolean all, UnaryOperator<FootprintComparison> step) {
        ended();
        List<UnaryOperator<FootprintComparison>> asked = new ArrayList<>(steps);
        asked.add(step);
        Story.expect(store, "footprint: " + how, origin, all, () -> compared = step.apply(compared), changes -> {
            FootprintComparison again = FootprintComparison.on(store, changes, variation);
            for (UnaryOperator<FootprintComparison> one : asked) {
                again = one.apply(again);
            }
        });
        steps.add(step);
        return this;
    }

    private void ended() {
        if (begun != null) {
            begun.ended();
        }
    }
}
