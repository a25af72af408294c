package dev.zabbet.seed;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import java.util.ArrayList;
import java.util.List;

/** Everything that is wrong with a seed, each with its place. */
final class Trouble {
    private static final int SHOWN = 50;

    private final List<String> all = new ArrayList<>();

    void add(Place place, String what) {
        String line = (place.where().isEmpty() ? "" : place.where() + ": ")
                + what
                + (place.line().isBlank() ? "" : "\n| " + place.line().strip());
        if (!all.contains(line)) {
            all.add(line);
        }
    }

    void add(Place place, ZabbetException what) {
        add(place, String.valueOf(what.getMessage()));
    }

    int size() {
        return all.size();
    }

    void requireNone() {
        if (all.isEmpty()) {
            return;
        }
        StringBuilder text = new StringBuilder("The seed cannot be stored, and nothing of it was: "
                + Words.count(all.size(), "thing") + (all.size() == 1 ? " is" : " are") + " wrong.");
        all.stream().limit(SHOWN).forEach(line -> text.append("\n  ").append(line.replace("\n", "\n    ")));
        if (all.size() > SHOWN) {
            text.append("\n  and ").append(all.size() - SHOWN).append(" more");
        }
        throw new ZabbetException(text.toString());
    }
}
