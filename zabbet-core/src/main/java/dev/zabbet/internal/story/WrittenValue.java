package dev.zabbet.internal.story;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Something that an act stored, and whether the test would notice if it were otherwise. Guarded by its story. */
public final class WrittenValue {
    private final RecordedAct act;
    private final @Nullable Change change;
    private final Table table;
    private final @Nullable Column column;
    State state = State.UNTRIED;

    /** Whether a test would notice. */
    public enum State {
        /** No expectation was asked about it, since none followed or there were too many to ask. */
        UNTRIED,
        /** Expectations were asked, and hold just the same with something else in its place. */
        UNSEEN,
        /** The test read it by other means than expectations; what it did with it is not known. */
        MAYBE_SEEN,
        /** An expectation does not hold with something else in its place. */
        SEEN
    }

    WrittenValue(RecordedAct act, Table table, @Nullable Change change, @Nullable Column column) {
        this.act = act;
        this.table = table;
        this.change = change;
        this.column = column;
    }

    /** Returns the act that stored it. */
    public RecordedAct act() {
        return act;
    }

    public Table table() {
        return table;
    }

    /** Returns the change of the row; empty if this stands for one row more than the act stored. */
    public Optional<Change> change() {
        return Optional.ofNullable(change);
    }

    /** Returns the column; empty if this stands for the row as a whole. */
    public Optional<Column> column() {
        return Optional.ofNullable(column);
    }

    public State state() {
        return state;
    }

    void becomes(State other) {
        if (other.compareTo(state) > 0) {
            state = other;
        }
    }

    /** Returns the value that was stored; null for a row as a whole, too. */
    public @Nullable Object value() {
        Row row = change == null ? null : change.rowAfter().orElse(null);
        return row == null || column == null ? null : row.get(column.name());
    }
}
