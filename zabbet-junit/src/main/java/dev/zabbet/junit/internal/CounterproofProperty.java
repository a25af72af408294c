package dev.zabbet.junit.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.suite.SuiteFolder;
import java.nio.file.Path;
import java.util.Set;

/** What is said for a whole suite by system properties, or in the environment. */
final class CounterproofProperty {
    static final String NAME = "zabbet.counterproof";
    static final String KNOWN = "zabbet.counterproof.known";

    private CounterproofProperty() {}

    /** Tells whether the whole suite runs as a counterproof. */
    static boolean isSet() {
        return !value().equals("false");
    }

    /** Tells whether hollow tests fail in a whole suite that runs as a counterproof. */
    static boolean hollowTestsFail() {
        return value().equals("fail");
    }

    private static String value() {
        String text = Environment.get(NAME).map(String::strip).orElse("false");
        if (!Set.of("false", "true", "fail").contains(text)) {
            throw new ZabbetException("The property " + NAME + " is true (hollow tests are listed), fail (they fail) or"
                    + " false; it was set to '" + text + "'.");
        }
        return text;
    }

    /** Tells whether a test is known to be hollow. */
    static boolean isKnown(String test) {
        return Environment.get(KNOWN)
                .filter(file -> !file.isBlank())
                .map(file -> SuiteFolder.knownHollow(Path.of(file.strip())).contains(test))
                .orElse(false);
    }
}
