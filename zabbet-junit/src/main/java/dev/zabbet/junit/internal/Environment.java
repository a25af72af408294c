package dev.zabbet.junit.internal;

import java.util.Optional;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** What the environment, or system properties, say about databases. */
final class Environment {
    private static final Pattern PLACEHOLDER = Pattern.compile("\\$\\{([A-Za-z0-9_.]+)(?::([^}]*))?}");

    private Environment() {}

    /** Returns a property, or what the environment says. */
    static Optional<String> get(String name) {
        return Optional.ofNullable(System.getProperty(name)).or(() -> Optional.ofNullable(System.getenv(name)));
    }

    static String user() {
        return get("ZABBET_USER").orElse("");
    }

    static String password() {
        return get("ZABBET_PASSWORD").orElse("");
    }

    /**
     * Fills in placeholders: {@code ${NAME:otherwise}}.
     *
     * @param wrong makes the exception for one that is not set
     */
    static String filled(String url, Function<String, RuntimeException> wrong) {
        Matcher placeholder = PLACEHOLDER.matcher(url);
        StringBuilder filled = new StringBuilder();
        while (placeholder.find()) {
            String value = get(placeholder.group(1)).orElse(placeholder.group(2));
            if (value == null) {
                throw wrong.apply("takes its URL from " + placeholder.group(1)
                        + ", which is not set in the environment; set it, or write a default: ${"
                        + placeholder.group(1) + ":jdbc:…}");
            }
            placeholder.appendReplacement(filled, Matcher.quoteReplacement(value));
        }
        return placeholder.appendTail(filled).toString();
    }
}
