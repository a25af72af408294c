package dev.zabbet.internal.fake;

import dev.zabbet.internal.story.Story;
import java.time.Duration;
import java.util.List;
import java.util.Objects;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;

/** What is to happen at some calls of a method. */
public final class Rule {
    private final Arguments when;
    private final int from;
    private final int to;
    private volatile @Nullable List<Outcome> outcomes;
    private volatile @Nullable Duration delay;
    private final AtomicInteger used = new AtomicInteger();
    private final Story.@Nullable ToldRule told;

    /** What one call gives or throws. */
    public interface Outcome {
        @Nullable
        Object happen() throws Throwable;
    }

    /**
     * @param when the arguments it is for
     * @param from the first call it is for, counted from 1 among those with such arguments
     * @param to the last one
     * @param told the rule in the story of the test; null if none is told
     */
    public Rule(Arguments when, int from, int to, Story.@Nullable ToldRule told) {
        this.told = told;
        this.when = when;
        this.from = from;
        this.to = to;
    }

    /** Takes note that a call met the rule. */
    void met() {
        if (told != null) {
            told.met();
        }
    }

    Arguments when() {
        return when;
    }

    boolean isFor(int call) {
        return (outcomes != null || delay != null) ? call >= from && call <= to : false;
    }

    public void give(List<Outcome> inTurn) {
        outcomes = List.copyOf(inTurn);
    }

    public void delay(Duration by) {
        delay = by;
        if (outcomes == null) {
            outcomes = List.of();
        }
    }

    boolean passesThrough() {
        return Objects.requireNonNull(outcomes).isEmpty();
    }

    /** Waits, then gives or throws; of several outcomes the next, the last one for ever. */
    @Nullable
    Object apply() throws Throwable {
        Duration wait = delay;
        if (wait != null) {
            Thread.sleep(wait.toMillis());
        }
        List<Outcome> all = Objects.requireNonNull(outcomes);
        return all.isEmpty()
                ? null
                : all.get(Math.min(used.getAndIncrement(), all.size() - 1)).happen();
    }
}
