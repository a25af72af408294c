package dev.zabbet.internal.plan.value;

import dev.zabbet.internal.value.SplitMix;
import dev.zabbet.value.Values;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Values as a pure function of a state, which is turned to one row after another. Not thread-safe. */
public final class Draws extends Values {
    /** The time where no stage says one. */
    public static final Clock CLOCK = Clock.fixed(Instant.parse("2031-07-01T08:00:00Z"), ZoneOffset.UTC);

    private final Clock clock;
    private final SameRow sameRow;
    private final Class<?> type;
    private long state;
    private long ordinal;
    private int row;
    private int draws;

    /** Gives the value of another column of a row. */
    @FunctionalInterface
    public interface SameRow {
        @Nullable
        Object value(String column, int row);
    }

    /** Values for one row. */
    public Draws(long state, long ordinal, Clock clock, Class<?> type, Function<String, @Nullable Object> sameRow) {
        this(clock, type, (column, row) -> sameRow.apply(column));
        this.state = state;
        this.ordinal = ordinal;
    }

    /** Values for many rows, one after another: each begins by {@link #begin}. */
    public Draws(Clock clock, Class<?> type, SameRow sameRow) {
        this.clock = clock;
        this.type = type;
        this.sameRow = sameRow;
    }

    /** Turns to a row. */
    public Draws begin(long newState, long newOrdinal, int newRow) {
        state = newState;
        ordinal = newOrdinal;
        row = newRow;
        draws = 0;
        return this;
    }

    @Override
    public long ordinal() {
        return ordinal;
    }

    @Override
    public long draw() {
        return SplitMix.next(state, draws++);
    }

    @Override
    public Clock clock() {
        return clock;
    }

    @Override
    public Class<?> type() {
        return type;
    }

    @Override
    public @Nullable Object other(String column) {
        return sameRow.value(column, row);
    }
}
