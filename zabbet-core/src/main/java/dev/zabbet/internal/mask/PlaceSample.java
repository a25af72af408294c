package dev.zabbet.internal.mask;

import java.util.LinkedHashSet;
import java.util.Set;
import java.util.function.Predicate;

/** Some values of a place, each once. */
final class PlaceSample {
    private static final int MOST = 2_000;
    private static final int LONGEST = 2_000;

    private final Set<Object> values = new LinkedHashSet<>();
    private long seen;

    void add(Object value) {
        seen++;
        if (values.size() < MOST) {
            values.add(value instanceof String text && text.length() > LONGEST ? text.substring(0, LONGEST) : value);
        }
    }

    /** How many values there were; null is none. */
    long seen() {
        return seen;
    }

    Set<Object> values() {
        return values;
    }

    boolean isEmpty() {
        return values.isEmpty();
    }

    /** The part of the values that are such texts, from 0 to 1. */
    double share(Predicate<String> such) {
        return values.isEmpty() ? 0 : (double) count(such) / values.size();
    }

    long count(Predicate<String> such) {
        return values.stream()
                .filter(value -> value instanceof String text && !text.isBlank() && such.test(text.strip()))
                .count();
    }

    /** How many words a text has on average. */
    double words() {
        return values.stream()
                .filter(String.class::isInstance)
                .mapToInt(value -> ContentSigns.words((String) value))
                .average()
                .orElse(0);
    }

    /** How different the values are: 1 if no value came twice. */
    double variety() {
        return seen == 0 ? 0 : (double) values.size() / Math.min(seen, MOST);
    }
}
