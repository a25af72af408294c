package dev.zabbet.jdbc.internal.dialect;

import java.math.BigDecimal;
import java.util.List;
import java.util.Optional;

/** Paths into documents as SQL has them (ISO 9075-2, SQL/JSON path language): {@code $."guests"[2]."name"}. */
public final class JsonPaths {
    private static final int FLOATING_DIGITS = 15; // that a floating number of 64 bits keeps

    private JsonPaths() {}

    /**
     * Returns the path to a single value: text, true, false, or a number that a floating one is the same as.
     *
     * @param steps names and positions
     * @return empty for another value, or if a name has characters that databases quote each in its own way
     */
    public static Optional<String> toValue(List<Object> steps, Object wanted) {
        boolean floating = wanted instanceof BigDecimal number
                && number.precision() <= FLOATING_DIGITS
                && Math.abs(number.scale()) <= FLOATING_DIGITS;
        return wanted instanceof String || wanted instanceof Boolean || floating ? of(steps) : Optional.empty();
    }

    private static Optional<String> of(List<Object> steps) {
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
