package dev.zabbet;

import dev.zabbet.expect.FootprintExpectation;
import dev.zabbet.internal.story.RecordedAct;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Rows;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What an act left: the rows added, changed and removed while it ran, whichever connection wrote them, as net effect. A
 * row added and removed again, or changed and changed back, is not mentioned. Immutable.
 */
public sealed class Footprint permits Acted, Failed {
    private final Stage stage;
    private final List<Change> changes;
    final @Nullable RecordedAct act;

    /** @param act the act in the story of the test; null if none is told */
    Footprint(Stage stage, List<Change> changes, @Nullable RecordedAct act) {
        this.stage = stage;
        this.changes = List.copyOf(changes);
        this.act = act;
    }

    Footprint(Footprint other) {
        this(other.stage, other.changes, other.act);
    }

    /** The test asks what the act left. */
    private void asked() {
        if (act != null && Stories.of(stage.store()) != null) {
            act.footprintAsked();
        }
    }

    /** The test is given what the act left, to compare it by itself. */
    private void handedOut(String what, @Nullable Table table) {
        asked();
        Story story = Stories.of(stage.store());
        if (story != null) {
            story.reads(what, table);
        }
    }

    /**
     * Begins an expectation on this footprint.
     *
     * @return the expectation, to be gone on with
     */
    public FootprintExpectation expect() {
        asked();
        return FootprintExpectation.on(stage.store(), changes, stage.variation());
    }

    /**
     * Expects what is written down elsewhere, for example in a row document.
     *
     * @param expectations what has to hold, for example a row document
     * @throws AssertionError if an expectation does not hold
     */
    public void expect(Expectations expectations) {
        asked();
        Words.notNull(expectations, "expectations", "Footprint.expect").expectChanged(stage, this);
    }

    /** {@return all changes, by table in the schema's order} */
    public List<Change> changes() {
        handedOut("the footprint's changes", null);
        return changes;
    }

    /**
     * {@return the rows added to a table}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @throws dev.zabbet.error.UnknownNameException if there is no such table
     */
    public Rows added(String table) {
        return rows(table, Change.Added.class, "rows added to ");
    }

    /**
     * {@return the rows changed in a table, as they are now}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @throws dev.zabbet.error.UnknownNameException if there is no such table
     */
    public Rows changed(String table) {
        return rows(table, Change.Changed.class, "rows changed in ");
    }

    /**
     * {@return the rows removed from a table, as they were}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @throws dev.zabbet.error.UnknownNameException if there is no such table
     */
    public Rows removed(String table) {
        return rows(table, Change.Removed.class, "rows removed from ");
    }

    private Rows rows(String name, Class<? extends Change> kind, String what) {
        Table table = stage.schema().require(name);
        handedOut(what + table.name(), table);
        return new Rows(
                what + table.name(),
                changes.stream()
                        .filter(c -> kind.isInstance(c) && c.table().equals(table))
                        .map(Change::row)
                        .toList());
    }

    @Override
    public String toString() {
        return "Footprint" + changes;
    }
}
