package dev.zabbet.internal.value;

import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicLong;
import org.jspecify.annotations.Nullable;

/**
 * A variation that takes its values from one variation, and those of some places from another; and keeps which values were made. It
 * is used like any other by its number, as long as it is open. Other than in plain variations, values are steered towards edges in
 * every second one, and optional columns and parents are empty or filled. Thread-safe.
 */
public final class MixedVariation implements AutoCloseable {
    private static final long FIRST = Long.MIN_VALUE / 2;
    private static final int MOST_KEPT = 20_000;
    private static final Map<Long, MixedVariation> OPEN = new ConcurrentHashMap<>();
    private static final AtomicLong NEXT = new AtomicLong(FIRST);

    /** Whether any is open; looked at for every value, so that nothing else is done where none is. */
    private static volatile boolean any;

    private final long number;
    private final long base;
    private final long other;
    private final Set<Place> exchanged;
    private final Map<Place, Object> made = Collections.synchronizedMap(new LinkedHashMap<>());

    /**
     * Where a value stands.
     *
     * @param ordinal the row's ordinal; 0 for whether an optional column is filled at all
     */
    public record Place(String table, String column, long ordinal) {}

    /** Stands for null among values. */
    public static final Object NULL = new Object() {
        @Override
        public String toString() {
            return "null";
        }
    };

    private MixedVariation(long base, long other, Set<Place> exchanged) {
        this.number = NEXT.getAndIncrement();
        this.base = base;
        this.other = other;
        this.exchanged = Set.copyOf(exchanged);
    }

    /**
     * Opens a mixed variation.
     *
     * @param base the variation that values come from
     * @param other the variation that those of the exchanged places come from
     */
    public static MixedVariation open(long base, long other, Set<Place> exchanged) {
        MixedVariation mixed = new MixedVariation(base, other, exchanged);
        synchronized (OPEN) {
            OPEN.put(mixed.number, mixed);
            any = true;
        }
        return mixed;
    }

    /** Returns the variation that a value is drawn in. */
    public static long of(long variation, String table, String column, long ordinal) {
        if (!any) {
            return variation;
        }
        MixedVariation mixed = OPEN.get(variation);
        return mixed == null ? variation : mixed.at(table, column, ordinal);
    }

    private long at(String table, String column, long ordinal) {
        return exchanged.contains(new Place(table, column, ordinal)) ? other : base;
    }

    /** Finds the open one with a number. */
    public static Optional<MixedVariation> find(long variation) {
        return any ? Optional.ofNullable(OPEN.get(variation)) : Optional.empty();
    }

    /** Tells whether a value that is drawn in a variation goes to an edge, as far as this number draws. */
    public static boolean isEdge(long variation, long drawn, long draw) {
        return any && OPEN.containsKey(variation) && Math.floorMod(drawn, 2) == 1 && Math.floorMod(draw, 3) == 0;
    }

    /** Tells whether an optional column, or parent, is filled against the rule that it is not. */
    public static boolean isFilled(long variation, String table, String column) {
        if (!any || !OPEN.containsKey(variation)) {
            return false;
        }
        long drawn = of(variation, table, column, 0);
        return drawn != 0 && Math.floorMod(SplitMix.of(drawn, SplitMix.name(table, column + "?"), 0), 2) == 1;
    }

    /** Returns the number that it is used by. */
    public long number() {
        return number;
    }

    /** Returns the number that people know it by. */
    public long base() {
        return base;
    }

    /** Keeps which value was made. */
    public void keep(Place place, @Nullable Object value) {
        if (made.size() < MOST_KEPT) {
            made.put(place, value == null ? NULL : value);
        }
    }

    /** Returns the values that were made, by their places. */
    public Map<Place, Object> made() {
        synchronized (made) {
            return new LinkedHashMap<>(made);
        }
    }

    /** Its number means nothing any more. */
    @Override
    public void close() {
        synchronized (OPEN) {
            OPEN.remove(number);
            any = !OPEN.isEmpty();
        }
    }
}
