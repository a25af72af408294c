package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.Expected;
import dev.zabbet.files.internal.DocumentNode.Field;
import dev.zabbet.files.internal.DocumentNode.Fields;
import dev.zabbet.files.internal.DocumentNode.Items;
import dev.zabbet.files.internal.DocumentNode.Scalar;
import dev.zabbet.files.internal.DocumentNode.Spot;
import dev.zabbet.internal.text.Nearest;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedValue;
import java.io.File;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Period;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiConsumer;
import java.util.function.BiFunction;
import java.util.function.Function;
import java.util.regex.PatternSyntaxException;
import org.jspecify.annotations.Nullable;

/** Reads the values of a document: what stands for itself, and the objects with one reserved name. */
public final class DocumentValues {
    public static final List<String> SEED_WORDS =
            List.of("row", "stored", "plusDays", "after", "invent", "inTurn", "between", "rising", "file", "literal");
    public static final List<String> EXPECT_WORDS = List.of(
            "row",
            "plusDays",
            "after",
            "literal",
            "any",
            "notNull",
            "near",
            "pattern",
            "oneOf",
            "between",
            "jsonPart",
            "above",
            "below",
            "from",
            "upTo",
            "otherThan",
            "like",
            "equalToColumn");

    private final String document;
    private final BiConsumer<Spot, String> wrong;

    /**
     * @param document the document's file or resource; files of long values stand beside it
     * @param wrong takes what is wrong, with its place
     */
    DocumentValues(String document, BiConsumer<Spot, String> wrong) {
        this.document = document;
        this.wrong = wrong;
    }

    /** Tells whether a name looks like that of a place in a document. */
    static boolean isPlace(String name) {
        return name.indexOf('.') > 0 || name.indexOf('[') > 0;
    }

    /** Reads what stands in a field without quotes of its own. */
    static SeedValue.Nested written(String text) {
        Scalar scalar = new Scalar(text, true, new Spot(1, 1));
        return new SeedValue.Nested(scalar.isNull() ? text : typed(scalar), text, "");
    }

    /** Reads the value of a column, or of a place in a document: there text that says a number is one. */
    @Nullable
    Object seedValue(String name, DocumentNode node) {
        return isPlace(name) && node instanceof Scalar scalar
                ? new SeedValue.Nested(typed(scalar), plain(scalar), "")
                : seedValue(node);
    }

    @Nullable
    Object seedValue(DocumentNode node) {
        if (node instanceof Scalar) {
            return plain(node);
        }
        Optional<Field> word = directive(node, SEED_WORDS);
        if (word.isEmpty()) {
            return nested(node, SEED_WORDS, this::seedValue);
        }
        DocumentNode value = word.get().value();
        return switch (word.get().name().text()) {
            case "row" -> Seed.ref(label(value));
            case "stored" -> stored(value);
            case "invent" -> invented(value);
            case "inTurn" -> inTurn(value);
            case "between" -> ofTwo(value, SeedValue.Between::new);
            case "rising" -> ofTwo(value, SeedValue.Rising::new);
            case "file" -> file(value);
            default -> shared(word.get());
        };
    }

    /** {stored: {code: CH}}: a unique key with its values. */
    private @Nullable Object stored(DocumentNode value) {
        if (value instanceof Scalar scalar
                && (scalar.text().equals("any") || scalar.text().equals("skewed"))) {
            return new SeedValue.AnyStored(scalar.text().equals("skewed"));
        }
        if (!(value instanceof Fields key) || key.fields().isEmpty()) {
            wrong.accept(
                    value.spot(),
                    "stored takes the columns of a unique key with their values: {stored: {code: CH}}; any for one of all"
                            + " rows; or skewed for a few of them mostly.");
            return null;
        }
        Map<String, @Nullable Object> columns = new LinkedHashMap<>();
        key.fields().forEach(field -> columns.put(field.name().text(), plain(field.value())));
        return Seed.stored(Row.of(columns));
    }

    /** Files stand beside the document or below, so that both can be moved together. */
    private @Nullable Object file(DocumentNode value) {
        String name = DocumentReader.scalar(value);
        boolean inside = value instanceof Scalar
                && !name.isBlank()
                && !name.startsWith("/")
                && !name.contains("\\")
                && !name.contains(":")
                && !List.of(name.split("/")).contains("..");
        if (!inside) {
            wrong.accept(
                    value.spot(),
                    "file takes the name of a file beside the document, or below: {file: values/map.svg}.");
            return null;
        }
        int end = Math.max(document.lastIndexOf('/'), document.lastIndexOf(File.separatorChar));
        return new SeedValue.InFile(document.substring(0, end + 1) + name);
    }

    private String label(DocumentNode node) {
        if (!(node instanceof Scalar)) {
            wrong.accept(node.spot(), "row takes the label of a row, and this is " + DocumentReader.scalar(node) + ".");
        }
        return DocumentReader.scalar(node);
    }

    /** Returns the one reserved name of an object; empty if it is a document, or a list. */
    private static Optional<Field> directive(DocumentNode node, List<String> known) {
        return node instanceof Fields fields
                        && fields.fields().size() == 1
                        && known.contains(fields.fields().get(0).name().text())
                ? Optional.of(fields.fields().get(0))
                : Optional.empty();
    }

    /** What an object without a reserved name is for a column that holds no documents. */
    private static String noDirective(DocumentNode node, List<String> known) {
        if (!(node instanceof Fields fields)) {
            return "a list of plain values is needed here.";
        }
        String name =
                fields.fields().isEmpty() ? "" : fields.fields().get(0).name().text();
        String near = fields.fields().isEmpty() || known.contains(name)
                ? ""
                : Nearest.to(name, known).map(n -> " Did you mean '" + n + "'?").orElse("");
        String found = fields.fields().isEmpty()
                ? "this one is empty."
                : "this has '" + name + "'" + (fields.fields().size() > 1 ? " and others." : ".");
        return "a value that is an object has one reserved name, and " + found + near + " Known: "
                + String.join(", ", known) + ". Only a column of JSON holds objects.";
    }

    /** A document written out: what is worked out in it is read by {@code reading}. */
    private SeedValue.Nested nested(
            DocumentNode node, List<String> known, Function<DocumentNode, @Nullable Object> reading) {
        boolean list = node instanceof Items items && items.items().stream().allMatch(item -> item instanceof Scalar);
        return new SeedValue.Nested(part(node, known, reading), list ? plain(node) : null, noDirective(node, known));
    }

    private @Nullable Object part(
            DocumentNode node, List<String> known, Function<DocumentNode, @Nullable Object> reading) {
        if (node instanceof Scalar scalar) {
            return typed(scalar);
        }
        if (node instanceof Items items) {
            List<@Nullable Object> list = new ArrayList<>();
            items.items().forEach(item -> list.add(part(item, known, reading)));
            return list;
        }
        Optional<Field> word = directive(node, known);
        if (word.isPresent()) {
            return word.get().name().text().equals("literal")
                    ? part(word.get().value(), List.of(), reading)
                    : reading.apply(node);
        }
        Map<String, @Nullable Object> map = new LinkedHashMap<>();
        ((Fields) node).fields().forEach(field -> map.put(field.name().text(), part(field.value(), known, reading)));
        return map;
    }

    /** A scalar as JSON has it: what is written like a number, true or false without quotes is that. */
    private static @Nullable Object typed(Scalar scalar) {
        if (scalar.isNull()) {
            return null;
        }
        if (!isBare(scalar)) {
            return scalar.text();
        }
        return switch (scalar.text()) {
            case "true" -> true;
            case "false" -> false;
            default -> new BigDecimal(scalar.text());
        };
    }

    private static boolean isBare(Scalar scalar) {
        return scalar.plain() && scalar.text().matches("true|false|null|-?(0|[1-9]\\d*)(\\.\\d+)?([eE][+-]?\\d+)?");
    }

    /** The directives that rows and expectations have in common. */
    private @Nullable Object shared(Field word) {
        DocumentNode value = word.value();
        try {
            return switch (word.name().text()) {
                case "plusDays" ->
                    new SeedValue.FromClock(Period.ofDays(Integer.parseInt(DocumentReader.scalar(value))));
                case "after" -> new SeedValue.FromClock(amount(DocumentReader.scalar(value)));
                default -> json(value);
            };
        } catch (NumberFormatException e) {
            wrong.accept(
                    value.spot(), "plusDays is a whole number of days, not '" + DocumentReader.scalar(value) + "'.");
        } catch (DateTimeException e) {
            wrong.accept(
                    value.spot(),
                    "after is an ISO 8601 duration such as PT2H, -P3D or P1M, not '" + DocumentReader.scalar(value)
                            + "'.");
        }
        return null;
    }

    private static java.time.temporal.TemporalAmount amount(String text) {
        return text.contains("T") ? Duration.parse(text) : Period.parse(text);
    }

    private @Nullable Object invented(DocumentNode value) {
        String kind = DocumentReader.scalar(value);
        if (!SeedValue.INVENTED.containsKey(kind)) {
            String near = Nearest.to(kind, SeedValue.INVENTED.keySet())
                    .map(n -> " Did you mean '" + n + "'?")
                    .orElse("");
            wrong.accept(
                    value.spot(),
                    "'" + kind + "' is nothing that can be invented." + near + " Known: "
                            + String.join(", ", SeedValue.INVENTED.keySet()) + ".");
            return null;
        }
        return new SeedValue.Invented(kind);
    }

    private @Nullable Object ofTwo(DocumentNode value, BiFunction<String, String, SeedValue> made) {
        boolean two = value instanceof Items items && items.items().size() == 2;
        List<DocumentNode> both = two ? ((Items) value).items() : List.of(value, value);
        try {
            return made.apply(DocumentReader.scalar(both.get(0)), DocumentReader.scalar(both.get(1)));
        } catch (ZabbetException e) {
            wrong.accept(value.spot(), String.valueOf(e.getMessage()));
            return null;
        }
    }

    private @Nullable Object inTurn(DocumentNode value) {
        if (!(value instanceof Items items) || items.items().isEmpty()) {
            wrong.accept(value.spot(), "inTurn takes a list of values: {inTurn: [REQUESTED, CONFIRMED]}.");
            return null;
        }
        List<@Nullable Object> values = new ArrayList<>();
        items.items().forEach(item -> values.add(seedValue(item)));
        return new SeedValue.InTurn(values);
    }

    /** A value that stands for itself: text, null or a list. */
    @Nullable
    Object plain(DocumentNode node) {
        if (node instanceof Scalar scalar) {
            return scalar.isNull() ? null : scalar.text();
        }
        if (node instanceof Items items) {
            List<@Nullable Object> values = new ArrayList<>();
            items.items().forEach(item -> values.add(plain(item)));
            return values;
        }
        wrong.accept(node.spot(), "a plain value is needed here.");
        return null;
    }

    /** Writes a part of the document as JSON. */
    private static String json(DocumentNode node) {
        if (node instanceof Scalar scalar) {
            if (scalar.isNull()) {
                return "null";
            }
            if (isBare(scalar)) {
                return scalar.text();
            }
            return quoted(scalar.text());
        }
        StringBuilder json = new StringBuilder();
        if (node instanceof Items items) {
            items.items()
                    .forEach(item -> json.append(json.length() == 0 ? "" : ", ").append(json(item)));
            return "[" + json + "]";
        }
        ((Fields) node).fields().forEach(field -> json.append(json.length() == 0 ? "" : ", ")
                .append(quoted(field.name().text()))
                .append(": ")
                .append(json(field.value())));
        return "{" + json + "}";
    }

    private @Nullable Object between(DocumentNode value, List<DocumentNode> items) {
        try {
            return Expected.between(DocumentReader.scalar(items.get(0)), DocumentReader.scalar(items.get(1)));
        } catch (IllegalArgumentException e) {
            wrong.accept(value.spot(), e.getMessage());
            return null;
        }
    }

    private static String quoted(String text) {
        StringBuilder quoted = new StringBuilder("\"");
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c == '"' || c == '\\') {
                quoted.append('\\').append(c);
            } else if (c < ' ') {
                quoted.append(String.format("\\u%04x", (int) c));
            } else {
                quoted.append(c);
            }
        }
        return quoted.append('"').toString();
    }

    @Nullable
    Object expectedValue(DocumentNode node) {
        boolean plain = node instanceof Scalar
                || (node instanceof Items list && list.items().stream().allMatch(Scalar.class::isInstance));
        if (plain) {
            return plain(node);
        }
        Optional<Field> word = directive(node, EXPECT_WORDS);
        if (word.isEmpty()) {
            return nested(node, EXPECT_WORDS, this::expectedValue);
        }
        DocumentNode value = word.get().value();
        List<DocumentNode> items = value instanceof Items list ? list.items() : List.of();
        try {
            return switch (word.get().name().text()) {
                case "row" -> Seed.ref(label(value));
                case "any" -> Expected.any();
                case "notNull" -> Expected.notNull();
                case "pattern" -> Expected.pattern(DocumentReader.scalar(value));
                case "oneOf" -> Expected.oneOf(items.stream().map(this::plain).toArray());
                case "between" -> {
                    if (items.size() != 2) {
                        wrong.accept(value.spot(), "between takes two values: {between: [1, 14]}.");
                        yield null;
                    }
                    yield between(value, items);
                }
                case "near" -> near(value, items);
                case "jsonPart" -> Expected.jsonPart(json(value));
                case "above" -> Expected.above(DocumentReader.scalar(value));
                case "below" -> Expected.below(DocumentReader.scalar(value));
                case "from" -> Expected.from(DocumentReader.scalar(value));
                case "upTo" -> Expected.upTo(DocumentReader.scalar(value));
                case "otherThan" -> Expected.otherThan(DocumentReader.scalar(value));
                case "like" -> Expected.like(DocumentReader.scalar(value));
                case "equalToColumn" ->
                    value instanceof Fields other
                            ? columnOfRow(other)
                            : Expected.equalToColumn(DocumentReader.scalar(value));
                default -> shared(word.get());
            };
        } catch (PatternSyntaxException e) {
            wrong.accept(value.spot(), "this is no regular expression: " + e.getDescription() + ".");
            return null;
        }
    }

    /** {table: hut, row: edelgrat, column: beds}, or with key instead of row. */
    private @Nullable Object columnOfRow(Fields other) {
        Map<String, DocumentNode> said = new LinkedHashMap<>();
        other.fields().forEach(field -> said.put(field.name().text(), field.value()));
        DocumentNode row = said.containsKey("row") ? said.get("row") : said.get("key");
        DocumentNode table = said.get("table");
        DocumentNode column = said.get("column");
        if (said.size() != 3 || row == null || table == null || column == null) {
            wrong.accept(
                    other.spot(),
                    "a column of another row is written {equalToColumn: {table: hut, row: label, column: beds}}, with key:"
                            + " 7 instead of row for a row without a label.");
            return null;
        }
        Object key = said.containsKey("row") ? Seed.ref(DocumentReader.scalar(row)) : keyOf(row);
        return new DocumentExpectation.ColumnOfRow(DocumentReader.scalar(table), key, DocumentReader.scalar(column));
    }

    /** The key of a row: a value, or a list of them in key order. */
    private Object keyOf(DocumentNode node) {
        return node instanceof Items list
                ? list.items().stream().map(this::plain).toList()
                : DocumentReader.scalar(node);
    }

    /** {near: [9.5, 0.1]} or {near: [2031-07-01T08:00:00Z, PT2S]}. */
    private @Nullable Object near(DocumentNode value, List<DocumentNode> items) {
        try {
            if (items.size() == 2 && DocumentReader.scalar(items.get(1)).startsWith("P")) {
                return Expected.near(
                        (Object) DocumentReader.scalar(items.get(0)),
                        Duration.parse(DocumentReader.scalar(items.get(1))));
            }
            if (items.size() == 2) {
                return Expected.near(
                        new BigDecimal(DocumentReader.scalar(items.get(0))),
                        new BigDecimal(DocumentReader.scalar(items.get(1))));
            }
        } catch (DateTimeException | NumberFormatException e) {
            wrong.accept(value.spot(), "near takes two numbers, or a time and a duration such as PT2S.");
            return null;
        }
        wrong.accept(value.spot(), "near takes a value and how far from it: {near: [9.5, 0.1]}.");
        return null;
    }
}
