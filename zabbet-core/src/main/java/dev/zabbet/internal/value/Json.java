package dev.zabbet.internal.value;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Reads JSON (RFC 8259) as far as comparing documents needs it: maps, lists, text, numbers, booleans, null. */
public final class Json {
    private static final int DEEPEST = 500;

    private final String text;
    private int at;
    private int depth;

    private Json(String text) {
        this.text = text;
    }

    /** A document: {@code value} is a map, list, String, BigDecimal, Boolean or null. */
    public record Document(@Nullable Object value) {}

    /** Reads a document; empty if the text is none. */
    public static Optional<Document> read(String text) {
        try {
            Json reader = new Json(text);
            Object value = reader.value();
            reader.blank();
            return reader.at == text.length() ? Optional.of(new Document(value)) : Optional.empty();
        } catch (IllegalArgumentException | StringIndexOutOfBoundsException e) {
            return Optional.empty();
        }
    }

    /** Tells whether two documents say the same: the order of names does not count, nor how numbers are written. */
    public static boolean same(@Nullable Object a, @Nullable Object b) {
        if (a instanceof Map<?, ?> x && b instanceof Map<?, ?> y) {
            return x.keySet().equals(y.keySet())
                    && x.entrySet().stream().allMatch(e -> same(e.getValue(), y.get(e.getKey())));
        }
        if (a instanceof List<?> x && b instanceof List<?> y) {
            if (x.size() != y.size()) {
                return false;
            }
            for (int i = 0; i < x.size(); i++) {
                if (!same(x.get(i), y.get(i))) {
                    return false;
                }
            }
            return true;
        }
        return Same.values(a, b);
    }

    /** Tells whether a document holds all that another says: of maps the names there, of lists each element somewhere. */
    public static boolean holds(@Nullable Object whole, @Nullable Object part) {
        if (whole instanceof Map<?, ?> x && part instanceof Map<?, ?> y) {
            return y.entrySet().stream()
                    .allMatch(e -> x.containsKey(e.getKey()) && holds(x.get(e.getKey()), e.getValue()));
        }
        if (whole instanceof List<?> x && part instanceof List<?> y) {
            return y.stream().allMatch(element -> x.stream().anyMatch(candidate -> holds(candidate, element)));
        }
        return same(whole, part);
    }

    private @Nullable Object value() {
        blank();
        char c = text.charAt(at);
        if (c == '{' || c == '[') {
            if (++depth > DEEPEST) {
                throw new IllegalArgumentException("too deep");
            }
            Object structure = c == '{' ? object() : array();
            depth--;
            return structure;
        }
        if (c == '"') {
            return string();
        }
        for (String word : List.of("true", "false", "null")) {
            if (text.startsWith(word, at)) {
                at += word.length();
                return word.equals("null") ? null : (Object) word.equals("true");
            }
        }
        int start = at;
        while (at < text.length() && "+-0123456789.eE".indexOf(text.charAt(at)) >= 0) {
            at++;
        }
        return new BigDecimal(text.substring(start, at));
    }

    private Map<String, @Nullable Object> object() {
        Map<String, @Nullable Object> map = new LinkedHashMap<>();
        at++;
        blank();
        if (text.charAt(at) == '}') {
            at++;
            return map;
        }
        while (true) {
            blank();
            String name = string();
            blank();
            require(':');
            map.put(name, value());
            blank();
            if (text.charAt(at) == '}') {
                at++;
                return map;
            }
            require(',');
        }
    }

    private List<@Nullable Object> array() {
        List<@Nullable Object> list = new ArrayList<>();
        at++;
        blank();
        if (text.charAt(at) == ']') {
            at++;
            return list;
        }
        while (true) {
            list.add(value());
            blank();
            if (text.charAt(at) == ']') {
                at++;
                return list;
            }
            require(',');
        }
    }

    private String string() {
        require('"');
        StringBuilder content = new StringBuilder();
        while (text.charAt(at) != '"') {
            char c = text.charAt(at++);
            if (c != '\\') {
                content.append(c);
                continue;
            }
            char escaped = text.charAt(at++);
            switch (escaped) {
                case 'b' -> content.append('\b');
                case 'f' -> content.append('\f');
                case 'n' -> content.append('\n');
                case 'r' -> content.append('\r');
                case 't' -> content.append('\t');
                case 'u' -> {
                    content.append((char) Integer.parseInt(text.substring(at, at + 4), 16));
                    at += 4;
                }
                default -> content.append(escaped);
            }
        }
        at++;
        return content.toString();
    }

    private void require(char c) {
        if (text.charAt(at) != c) {
            throw new IllegalArgumentException("no " + c);
        }
        at++;
    }

    private void blank() {
        while (at < text.length() && Character.isWhitespace(text.charAt(at))) {
            at++;
        }
    }
}
