package dev.zabbet.junit.internal;

import dev.zabbet.error.ZabbetException;
import java.util.Set;

/** What is said for a whole suite about what its tests look at. */
final class SuiteProperty {
    /** Where what the tests did is written down; {@code none} for nowhere. */
    static final String FOLDER = "zabbet.tests";

    /** What the processes of one run are told apart from those of others by. */
    static final String RUN = "zabbet.run";

    private SuiteProperty() {}

    /** Tells whether expectations that hold are asked again, to find out which values nobody looks at. */
    static boolean asksAgain() {
        return isSet("zabbet.unseen", true);
    }

    /** Tells whether loose ends make a test fail that passes otherwise; else they are written down. */
    static boolean looseEndsFail() {
        String text = Environment.get("zabbet.loose").map(String::strip).orElse("report");
        if (!Set.of("report", "fail").contains(text)) {
            throw new ZabbetException(
                    "The property zabbet.loose is report (loose ends are written down) or fail (they make"
                            + " a test fail); it was set to '" + text + "'.");
        }
        return text.equals("fail");
    }

    private static boolean isSet(String name, boolean otherwise) {
        String text = Environment.get(name).map(String::strip).orElse(String.valueOf(otherwise));
        if (!Set.of("true", "false").contains(text)) {
            throw new ZabbetException("The property " + name + " is true or false; it was set to '" + text + "'.");
        }
        return text.equals("true");
    }
}
