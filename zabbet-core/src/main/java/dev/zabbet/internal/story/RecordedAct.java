package dev.zabbet.internal.story;

import dev.zabbet.store.Change;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** One act of a test: what it left, and what the test asked about it. Thread-safe. */
public final class RecordedAct {
    private final Story story;
    private final @Nullable SourceLine line;
    private final boolean failing;
    private final boolean takenAway;
    private volatile List<Change> changes = List.of();
    private volatile @Nullable Throwable thrown;
    private volatile @Nullable String trouble;
    private volatile boolean ended;
    private volatile boolean footprintAsked;
    private volatile boolean valueAsked;
    private volatile boolean lookedAfter;
    private volatile boolean partExpected;
    private volatile boolean allExpected;

    /**
     * @param failing whether it is one that has to fail, which is an expectation by itself
     * @param takenAway whether what it leaves is taken away as soon as it ends
     */
    RecordedAct(Story story, @Nullable SourceLine line, boolean failing, boolean takenAway) {
        this.story = story;
        this.line = line;
        this.failing = failing;
        this.takenAway = takenAway;
    }

    /** Takes note of what it stored; to be called before that is taken away. */
    public void left(List<Change> stored) {
        changes = stored;
    }

    /** Takes note of what its code threw. */
    public void threw(Throwable failure) {
        thrown = failure;
    }

    /** Takes note that what it left could not be taken away, and why. */
    public void notTakenAway(String why) {
        trouble = why;
    }

    /** Takes note that its code has returned, or thrown. */
    public void ended() {
        if (!ended) {
            ended = true;
            story.ended(this);
        }
    }

    /** Takes note that the test asks for its footprint. */
    public void footprintAsked() {
        footprintAsked = true;
    }

    /** Takes note that the test asks for the value that its code returned. */
    public void valueAsked() {
        valueAsked = true;
    }

    /** Takes note that the test expects something of its footprint. */
    void expected(boolean all) {
        partExpected = true;
        allExpected |= all;
    }

    /** Tells whether the test expects something of its footprint, and does not say that this is all. */
    boolean isPartExpected() {
        return partExpected && !allExpected;
    }

    void lookedAfter() {
        lookedAfter = true;
    }

    /** Returns the line of the test; empty if it is not known. */
    public Optional<SourceLine> line() {
        return Optional.ofNullable(line);
    }

    public boolean isTakenAway() {
        return takenAway;
    }

    /** Returns what it stored, whether or not that was taken away. */
    public List<Change> changes() {
        return changes;
    }

    public Optional<Throwable> thrown() {
        return Optional.ofNullable(thrown);
    }

    /** Returns why what it left could not be taken away; empty if it could. */
    public Optional<String> trouble() {
        return Optional.ofNullable(trouble);
    }

    public boolean isFailing() {
        return failing;
    }

    public boolean isFootprintAsked() {
        return footprintAsked;
    }

    public boolean isValueAsked() {
        return valueAsked;
    }

    /** Tells whether the test looked at what is stored after it. */
    public boolean isLookedAfter() {
        return lookedAfter;
    }
}
