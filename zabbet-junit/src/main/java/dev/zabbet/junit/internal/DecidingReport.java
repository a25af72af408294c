package dev.zabbet.junit.internal;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.MixedVariation;
import dev.zabbet.internal.value.MixedVariation.Place;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.internal.value.Text;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** What is said of a test that fails in some variations and passes in others. */
final class DecidingReport {
    private static final int MOST_SHOWN = 6;
    private static final String INDENT = "\n  ";

    private final DecidingValues.Found found;
    private final int variations;

    private DecidingReport(DecidingValues.Found found, int variations) {
        this.found = found;
        this.variations = variations;
    }

    static String of(DecidingValues.Found found, int variations) {
        return new DecidingReport(found, variations).text();
    }

    private String text() {
        List<VariationRun> plain = found.runs().subList(0, variations);
        List<String> failing = plain.stream()
                .filter(run -> run.failedLike(found.failing()))
                .map(run -> String.valueOf(run.base()))
                .toList();
        StringBuilder text = new StringBuilder("This test fails in ")
                .append(failing.size())
                .append(" of ")
                .append(Words.count(variations, "variation"))
                .append(": ")
                .append(Words.and(shown(failing)))
                .append('.');
        int searched = found.runs().size() - variations;
        text.append(
                found.cutShort()
                        ? "\nAfter " + Words.count(searched, "exchange")
                                + " there was no time left; what decides is among"
                        : "\nIt fails only where");
        List<Place> places = new ArrayList<>(found.places());
        places.sort(Comparator.comparing(Place::table).thenComparingLong(Place::ordinal));
        for (Place place : places) {
            text.append(INDENT)
                    .append(name(place))
                    .append(place.ordinal() == 0 ? " is " : " = ")
                    .append(
                            places.size() == 1
                                    ? failingValues(place)
                                    : shown(found.failing().value(place)));
        }
        if (!found.cutShort()) {
            text.append("\nIt passes ").append(passing(places)).append('.');
        }
        if (!found.otherReasons().isEmpty()) {
            text.append("\nIn ")
                    .append(found.otherReasons().size() == 1 ? "variation " : "variations ")
                    .append(Words.and(found.otherReasons().stream()
                            .map(run -> String.valueOf(run.base()))
                            .toList()))
                    .append(" it fails for another reason as well.");
        }
        text.append("\nFound by ").append(Words.count(searched, "exchange")).append(" of values between variations.");
        String code = code(places);
        if (!code.isEmpty()) {
            text.append("\nAs a test of its own: ").append(code);
        }
        Throwable failure = found.failing().failure();
        return text.append("\nIn variation ")
                .append(found.failing().base())
                .append(": ")
                .append(failure == null ? "" : String.valueOf(failure.getMessage()))
                .toString();
    }

    /** Where one value decides, all that it fails for. */
    private String failingValues(Place place) {
        List<Object> values = found.runs().stream()
                .filter(run ->
                        run.failedLike(found.failing()) && !found.otherReasons().contains(run))
                .map(run -> run.value(place))
                .distinct()
                .sorted(DecidingReport::compare)
                .toList();
        return values.stream().limit(MOST_SHOWN).map(DecidingReport::shown).collect(Collectors.joining(", "))
                + (values.size() > MOST_SHOWN ? " or " + (values.size() - MOST_SHOWN) + " others" : "");
    }

    private static List<String> shown(List<String> all) {
        if (all.size() <= 2 * MOST_SHOWN) {
            return all;
        }
        List<String> some = new ArrayList<>(all.subList(0, 2 * MOST_SHOWN));
        some.add((all.size() - 2 * MOST_SHOWN) + " more");
        return some;
    }

    /** Of a column of several rows, each row is named by its number. */
    private String name(Place place) {
        String column = place.table() + "." + place.column();
        boolean several = found.runs().stream()
                .flatMap(run -> run.made().keySet().stream())
                .anyMatch(other -> other.table().equals(place.table()) && other.ordinal() > 1);
        return several && place.ordinal() > 0 ? column + " of row " + place.ordinal() : column;
    }

    private String passing(List<Place> places) {
        Set<String> values = new LinkedHashSet<>();
        List<VariationRun> passing =
                found.runs().stream().filter(VariationRun::passed).toList();
        if (places.size() == 1) {
            Place place = places.get(0);
            Object fails = found.failing().value(place);
            passing.stream()
                    .map(run -> run.value(place))
                    .filter(value -> !value.equals(found.failing().value(place)))
                    .distinct()
                    .sorted(Comparator.comparingDouble(value -> distance(value, fails)))
                    .limit(MOST_SHOWN)
                    .sorted(DecidingReport::compare)
                    .forEach(value -> values.add(shown(value)));
            return values.isEmpty() ? "in the others" : "for " + String.join(", ", values);
        }
        passing.stream()
                .filter(run -> !run.sameIn(found.failing(), found.places()))
                .limit(3)
                .forEach(run -> values.add(places.stream()
                        .map(place -> shown(run.value(place)))
                        .collect(Collectors.joining(" with ", "(", ")"))));
        return "for " + String.join(", ", values);
    }

    /** The nearest values that pass tell most of where the bound is. */
    private static double distance(Object value, Object from) {
        if (value instanceof Number one && from instanceof Number other) {
            return Math.abs(one.doubleValue() - other.doubleValue());
        }
        return value instanceof LocalDate one && from instanceof LocalDate other
                ? Math.abs(one.toEpochDay() - other.toEpochDay())
                : 0;
    }

    private static int compare(Object a, Object b) {
        if (a == MixedVariation.NULL || b == MixedVariation.NULL) {
            return Boolean.compare(a == MixedVariation.NULL, b == MixedVariation.NULL);
        }
        return Ordering.compare(a, b);
    }

    private static String shown(@Nullable Object value) {
        return value == MixedVariation.NULL ? "null" : Text.brief(String.valueOf(value));
    }

    /** Of one row the factory that makes it; of several each test arranges them in its own way. */
    private String code(List<Place> places) {
        Set<String> tables = places.stream().map(Place::table).collect(Collectors.toSet());
        long rows = places.stream()
                .map(Place::ordinal)
                .filter(ordinal -> ordinal > 0)
                .distinct()
                .count();
        if (tables.size() != 1 || rows > 1) {
            return "";
        }
        return "Factory.forTable(\"" + tables.iterator().next() + "\")"
                + places.stream().map(this::setting).collect(Collectors.joining());
    }

    private static String literal(Object value) {
        return value.toString().replace("\\", "\\\\").replace("\"", "\\\"");
    }

    private String setting(Place place) {
        Object value = found.failing().value(place);
        if (place.ordinal() == 0) {
            return value.equals("empty")
                    ? ".with(\"" + place.column() + "\", null)"
                    : ".filled(\"" + place.column() + "\")";
        }
        if (value == MixedVariation.NULL) {
            return ".with(\"" + place.column() + "\", null)";
        }
        boolean plain = value instanceof Number || value instanceof Boolean;
        return ".with(\"" + place.column() + "\", " + (plain ? value.toString() : "\"" + literal(value) + "\"") + ")";
    }
}
