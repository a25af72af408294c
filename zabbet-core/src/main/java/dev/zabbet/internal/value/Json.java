package dev.zabbet.internal.value;

import java.lang.reflect.InaccessibleObjectException;
import java.lang.reflect.RecordComponent;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Reads and writes JSON (RFC 8259) as far as stored documents need it: maps, lists, text, numbers, booleans, null. Trees of
 * a JSON library are known by the names of their classes, so that nobody needs it.
 */
public final class Json {
    private static final int DEEPEST = 500;
    private static final int MOST_DIGITS = 150_000;
    private static final int MOST_OF_A_LONG = 18;
    private static final List<String> WORDS = List.of("true", "false", "null");
    private static final List<String> NO_WORDS = List.of();
    private static final List<String> TREES =
            List.of("com.fasterxml.jackson.databind.JsonNode", "tools.jackson.databind.JsonNode");
    private static final List<String> TREE_READERS =
            List.of("com.fasterxml.jackson.databind.ObjectMapper", "tools.jackson.databind.ObjectMapper");

    private final String text;
    private int at;
    private int depth;
    private @Nullable String twice; // a name that an object has twice

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

    /** Returns a name that an object in a document has twice, of which readers take one or the other; empty if there is none. */
    public static Optional<String> nameTwice(String text) {
        try {
            Json reader = new Json(text);
            reader.value();
            return Optional.ofNullable(reader.twice);
        } catch (IllegalArgumentException | StringIndexOutOfBoundsException e) {
            return Optional.empty();
        }
    }

    /** Tells whether a class is that of a tree of a JSON library, whose text is the document. */
    public static boolean isTree(Class<?> type) {
        for (Class<?> c = type; c != null; c = c.getSuperclass()) {
            if (TREES.contains(c.getName())) {
                return true;
            }
        }
        return false;
    }

    /**
     * Makes a tree of a JSON library.
     *
     * @throws InexactValueException if the document is not one of that class, or the library's reader is not on the class path
     */
    public static Object tree(Class<?> type, @Nullable Object document) throws InexactValueException {
        String text = write(document);
        for (String reader : TREE_READERS) {
            try {
                Class<?> mapper = Class.forName(reader, true, type.getClassLoader());
                Object tree = mapper.getMethod("readTree", String.class)
                        .invoke(mapper.getConstructor().newInstance(), text);
                if (type.isInstance(tree)) {
                    return tree;
                }
            } catch (ReflectiveOperationException e) {
                // the other one, then
            }
        }
        throw new InexactValueException(Text.of(text) + " is not a " + type.getSimpleName());
    }

    /**
     * Writes a value as a document: a map, collection, array or record, a tree of a JSON library, text, a number, true,
     * false, null; constants of an enum, times and the like as text.
     *
     * @throws InexactValueException if it is none of these
     */
    public static String write(@Nullable Object value) throws InexactValueException {
        StringBuilder text = new StringBuilder();
        write(value, text, 0);
        return text.toString();
    }

    private static void write(@Nullable Object value, StringBuilder text, int depth) throws InexactValueException {
        if (depth > DEEPEST) {
            throw new InexactValueException("a document holds itself, or is more than " + DEEPEST + " levels deep");
        }
        Optional<ApplicationJson> application = value == null ? Optional.empty() : ApplicationJson.of(value.getClass());
        if (value == null || value instanceof Boolean) {
            text.append(value);
        } else if (application.isPresent()) {
            write(application.get().plain(value), text, depth);
        } else if (value instanceof Double d && (d.isNaN() || d.isInfinite())) {
            throw new InexactValueException(d + " cannot be written as JSON");
        } else if (value instanceof Number) {
            text.append(value);
        } else if (value instanceof Optional<?> optional) {
            write(optional.orElse(null), text, depth);
        } else if (isTree(value.getClass())) {
            text.append(value);
        } else if (value instanceof Map<?, ?> map) {
            text.append('{');
            for (Map.Entry<?, ?> entry : map.entrySet()) {
                text.append(text.charAt(text.length() - 1) == '{' ? "" : ",");
                quote(entry.getKey() instanceof Enum<?> e ? e.name() : String.valueOf(entry.getKey()), text);
                text.append(':');
                write(entry.getValue(), text, depth + 1);
            }
            text.append('}');
        } else if (value instanceof Iterable<?> several) {
            writeAll(several, text, depth);
        } else if (value.getClass().isArray()) {
            List<@Nullable Object> elements = new ArrayList<>();
            for (int i = 0; i < java.lang.reflect.Array.getLength(value); i++) {
                elements.add(java.lang.reflect.Array.get(value, i));
            }
            writeAll(elements, text, depth);
        } else if (value instanceof Record) {
            write(components(value), text, depth);
        } else if (value instanceof Enum<?> constant) {
            quote(constant.name(), text);
        } else if (isText(value)) {
            quote(value.toString(), text);
        } else {
            throw new InexactValueException(
                    value.getClass().getSimpleName() + " is neither JSON text nor a map, list or record");
        }
    }

    private static boolean isText(Object value) {
        return value instanceof CharSequence
                || value instanceof Character
                || value instanceof java.util.UUID
                || value instanceof java.net.URI
                || value.getClass().getName().startsWith("java.time.");
    }

    private static void writeAll(Iterable<?> elements, StringBuilder text, int depth) throws InexactValueException {
        text.append('[');
        boolean first = true;
        for (Object element : elements) {
            text.append(first ? "" : ",");
            first = false;
            write(element, text, depth + 1);
        }
        text.append(']');
    }

    private static Map<String, @Nullable Object> components(Object held) throws InexactValueException {
        Map<String, @Nullable Object> components = new LinkedHashMap<>();
        for (RecordComponent component : held.getClass().getRecordComponents()) {
            try {
                component.getAccessor().setAccessible(true);
                components.put(component.getName(), component.getAccessor().invoke(held));
            } catch (ReflectiveOperationException | InaccessibleObjectException e) {
                throw new InexactValueException(held.getClass().getSimpleName() + " cannot be read: " + e.getMessage());
            }
        }
        return components;
    }

    private static void quote(String content, StringBuilder text) {
        text.append('"');
        for (int i = 0; i < content.length(); i++) {
            char c = content.charAt(i);
            switch (c) {
                case '"', '\\' -> text.append('\\').append(c);
                case '\n' -> text.append("\\n");
                case '\r' -> text.append("\\r");
                case '\t' -> text.append("\\t");
                default -> {
                    if (c < ' ') {
                        text.append("\\u").append(String.format("%04x", (int) c));
                    } else {
                        text.append(c);
                    }
                }
            }
        }
        text.append('"');
    }

    /** Tells whether two documents say the same: the order of names does not count, nor how numbers are written. */
    public static boolean same(@Nullable Object a, @Nullable Object b) {
        if (a instanceof Map<?, ?> x && b instanceof Map<?, ?> y) {
            if (x.size() != y.size()) {
                return false;
            }
            for (Map.Entry<?, ?> entry : x.entrySet()) {
                Object other = y.get(entry.getKey());
                if ((other == null && !y.containsKey(entry.getKey())) || !same(entry.getValue(), other)) {
                    return false;
                }
            }
            return true;
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
        return ValueEquality.values(a, b);
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
        for (String word : c >= 'a' ? WORDS : NO_WORDS) {
            if (text.startsWith(word, at)) {
                at += word.length();
                return word.equals("null") ? null : (Object) word.equals("true");
            }
        }
        return number();
    }

    /** Most numbers are short, and need not be read a second time. */
    private BigDecimal number() {
        int start = at;
        long digits = 0;
        boolean whole = true;
        while (at < text.length()) {
            char c = text.charAt(at);
            if (c >= '0' && c <= '9') {
                digits = digits * 10 + (c - '0');
            } else if (c == '.' || c == '-' || c == '+' || c == 'e' || c == 'E') {
                whole = false;
            } else {
                break;
            }
            at++;
        }
        if (whole && at > start && at - start <= MOST_OF_A_LONG) {
            return BigDecimal.valueOf(digits);
        }
        if (at - start > MOST_DIGITS) {
            throw new IllegalArgumentException("too many digits");
        }
        return new BigDecimal(text.substring(start, at));
    }

    private Map<String, @Nullable Object> object() {
        Map<String, @Nullable Object> map = new LinkedHashMap<>();
        at++;
        blank();
        if (text.charAt(at) == '}') {
            at++;
            return Map.of();
        }
        while (true) {
            blank();
            String name = string();
            blank();
            require(':');
            int before = map.size();
            map.put(name, value());
            twice = map.size() == before ? name : twice;
            blank();
            if (text.charAt(at) == '}') {
                at++;
                return Collections.unmodifiableMap(map);
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
            return List.of();
        }
        while (true) {
            list.add(value());
            blank();
            if (text.charAt(at) == ']') {
                at++;
                return Collections.unmodifiableList(list);
            }
            require(',');
        }
    }

    private String string() {
        require('"');
        int end = at;
        while (text.charAt(end) != '"' && text.charAt(end) != '\\') {
            end++;
        }
        if (text.charAt(end) == '"') {
            String plain = text.substring(at, end);
            at = end + 1;
            return plain;
        }
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
        while (at < text.length() && text.charAt(at) <= ' ' && Character.isWhitespace(text.charAt(at))) {
            at++;
        }
    }
}
