package dev.zabbet.junit.internal;

import dev.zabbet.internal.value.MixedVariation;
import dev.zabbet.internal.value.MixedVariation.Place;
import dev.zabbet.internal.value.ValueEquality;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * One run of a test in a variation.
 *
 * @param base the variation that its values come from
 * @param made the values that were invented, by their places
 * @param failure what it failed with; null if it passed
 * @param end how it ended: empty if it passed, else what tells failures apart; {@code aborted} if it was not run to its end
 */
record VariationRun(
        long base, Map<Place, Object> made, @Nullable Throwable failure, String end) {
    static final String ABORTED = "aborted";

    boolean passed() {
        return end.isEmpty();
    }

    boolean failedLike(VariationRun other) {
        return !passed() && !end.equals(ABORTED) && end.equals(other.end);
    }

    /** Returns the places whose values are others than in another run. */
    Set<Place> differences(VariationRun other) {
        Set<Place> places = new LinkedHashSet<>(made.keySet());
        places.addAll(other.made.keySet());
        places.removeIf(place -> same(other, place));
        return places;
    }

    boolean same(VariationRun other, Place place) {
        Object own = made.get(place);
        Object others = other.made.get(place);
        return own != null && others != null && ValueEquality.values(own, others);
    }

    boolean sameIn(VariationRun other, Set<Place> places) {
        return places.stream().allMatch(place -> same(other, place));
    }

    Object value(Place place) {
        Object value = made.get(place);
        return value == null ? MixedVariation.NULL : value;
    }

    /** Puts places together that are of one column. */
    static Map<String, Set<Place>> byColumn(Set<Place> places) {
        Map<String, Set<Place>> columns = new LinkedHashMap<>();
        places.forEach(
                place -> columns.computeIfAbsent(place.table() + "." + place.column(), c -> new LinkedHashSet<>())
                        .add(place));
        return columns;
    }
}
