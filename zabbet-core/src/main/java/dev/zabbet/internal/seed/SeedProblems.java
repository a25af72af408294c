package dev.zabbet.internal.seed;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.seed.SourceLocation;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.Set;
import java.util.regex.Pattern;

/** Everything that is wrong with a seed, each with its place. */
final class SeedProblems {
    private static final int SHOWN = 50;

    private static final Pattern NUMBER = Pattern.compile("\\d+");

    /** What is wrong beyond that is only counted. */
    private static final int MOST_KEPT = 10_000;

    private final Set<One> all = new LinkedHashSet<>();
    private int beyond;

    /** One thing that is wrong. */
    private record One(SourceLocation place, String line) {
        /** The place with its numbers widened, so that line 9 comes before line 10. */
        String order() {
            return NUMBER.matcher(place.where())
                    .replaceAll(m -> "0".repeat(Math.max(0, 9 - m.group().length())) + m.group());
        }
    }

    void add(SourceLocation place, String what) {
        String line = (place.where().isEmpty() ? "" : place.where() + ": ")
                + Words.cut(what, 2_000)
                + (place.line().isBlank() ? "" : "\n| " + place.line().strip());
        if (all.size() < MOST_KEPT) {
            all.add(new One(place, line));
        } else {
            beyond++;
        }
    }

    void add(SourceLocation place, ZabbetException what) {
        add(place, String.valueOf(what.getMessage()).replace(" Nothing was stored.", ""));
    }

    int size() {
        return all.size() + beyond;
    }

    void requireNone() {
        if (all.isEmpty()) {
            return;
        }
        StringBuilder text = new StringBuilder("The seed cannot be stored, and nothing of it was: "
                + Words.count(size(), "thing") + (size() == 1 ? " is" : " are") + " wrong.");
        all.stream().sorted(Comparator.comparing(One::order)).limit(SHOWN).forEach(one -> text.append("\n  ")
                .append(one.line().replace("\n", "\n    ")));
        if (size() > SHOWN) {
            text.append("\n  and ").append(size() - SHOWN).append(" more");
        }
        throw new ZabbetException(text.toString());
    }
}
