package dev.zabbet.jdbc.internal.dialect;

import java.util.List;
import java.util.Optional;

/** Paths into documents as SQL has them (ISO 9075-2, SQL/JSON path language): {@code $."guests"[2]."name"}. */
public final class JsonPaths {
    private JsonPaths() {}

    /** Returns the path of names and positions; empty if a name has characters that databases quote each in its own way. */
    public static Optional<String> of(List<Object> steps) {
        StringBuilder path = new StringBuilder("$");
        for (Object step : steps) {
            if (step instanceof Integer position) {
                path.append('[').append(position).append(']');
            } else if (step.toString().chars().anyMatch(c -> c == '"' || c == '\\' || c < ' ')) {
                return Optional.empty();
            } else {
                path.append(".\"").append(step).append('"');
            }
        }
        return Optional.of(path.toString());
    }
}
