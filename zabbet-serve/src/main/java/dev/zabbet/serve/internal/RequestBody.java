package dev.zabbet.serve.internal;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.files.internal.JsonTree;
import java.io.IOException;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** The members of a JSON object that a request sends; those that are not known are refused. */
final class RequestBody {
    private static final Duration LONGEST = Duration.ofMinutes(10);

    private final Map<String, @Nullable Object> members;

    private RequestBody(Map<String, @Nullable Object> members) {
        this.members = members;
    }

    static RequestBody of(String text, String... known) {
        Object tree;
        try {
            tree = text.isBlank() ? Map.of() : JsonTree.read(text);
        } catch (IOException e) {
            throw wrong(
                    "The body is no JSON: " + String.valueOf(e.getMessage()).replaceAll("(?s)\\s+at \\[.*", "") + ".");
        }
        if (!(tree instanceof Map<?, ?> map)) {
            throw wrong("The body has to be a JSON object.");
        }
        Map<String, @Nullable Object> members = new LinkedHashMap<>();
        for (Map.Entry<?, ?> one : map.entrySet()) {
            String name = String.valueOf(one.getKey());
            if (!Set.of(known).contains(name)) {
                throw known.length == 0
                        ? wrong("The body has to be empty here.")
                        : wrong(new UnknownNameException("member of the body", name, List.of(known)).getMessage());
            }
            members.put(name, one.getValue());
        }
        return new RequestBody(members);
    }

    static Problem wrong(@Nullable String detail) {
        return new Problem(400, "The request is wrong", String.valueOf(detail));
    }

    @Nullable
    String text(String name) {
        Object value = members.get(name);
        if (value != null && !(value instanceof String)) {
            throw wrong("'" + name + "' has to be a text.");
        }
        return (String) value;
    }

    @Nullable
    Long number(String name) {
        Object value = members.get(name);
        if (value == null) {
            return null;
        }
        try {
            return value instanceof BigDecimal number ? (Long) number.longValueExact() : failing(name);
        } catch (ArithmeticException e) {
            return failing(name);
        }
    }

    private static Long failing(String name) {
        throw wrong("'" + name + "' has to be a whole number of at most 64 bits.");
    }

    boolean flag(String name) {
        Object value = members.get(name);
        if (value != null && !(value instanceof Boolean)) {
            throw wrong("'" + name + "' has to be true or false.");
        }
        return Boolean.TRUE.equals(value);
    }

    /** Returns a time of some milliseconds, up to ten minutes. */
    @Nullable
    Duration millis(String name) {
        Long number = number(name);
        if (number != null && (number < 1 || number > LONGEST.toMillis())) {
            throw wrong("'" + name + "' is a time in milliseconds, from 1 to " + LONGEST.toMillis() + ".");
        }
        return number == null ? null : Duration.ofMillis(number);
    }

    /** Returns a time as ISO 8601 writes it. */
    @Nullable
    Duration duration(String name) {
        String text = text(name);
        try {
            return text == null ? null : Duration.parse(text);
        } catch (DateTimeParseException e) {
            throw wrong("'" + name + "' is a time as ISO 8601 writes it, such as PT90M; it was '" + text + "'.");
        }
    }

    List<String> texts(String name) {
        List<String> texts = new ArrayList<>();
        Object value = members.get(name);
        if (value instanceof List<?> list && list.stream().allMatch(String.class::isInstance)) {
            list.forEach(one -> texts.add((String) one));
        } else if (value != null) {
            throw wrong("'" + name + "' has to be a list of texts.");
        }
        return texts;
    }

    /** Returns numbers by name, each from 1. */
    Map<String, Integer> counts(String name) {
        Map<String, Integer> counts = new LinkedHashMap<>();
        Object value = members.get(name);
        if (!(value instanceof Map<?, ?> map) || map.isEmpty()) {
            throw wrong("'" + name + "' has to say how many rows of which table: {\"stay\": 3}.");
        }
        map.forEach((table, count) -> {
            boolean whole = count instanceof BigDecimal number
                    && number.stripTrailingZeros().scale() <= 0
                    && number.signum() > 0
                    && number.compareTo(BigDecimal.valueOf(10_000_000)) <= 0;
            if (!whole) {
                throw wrong("The number of rows is a whole number from 1 to 10000000.");
            }
            counts.put((String) table, ((BigDecimal) count).intValueExact());
        });
        return counts;
    }
}
