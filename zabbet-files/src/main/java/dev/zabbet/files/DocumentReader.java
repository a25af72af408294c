package dev.zabbet.files;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.Expected;
import dev.zabbet.files.DocumentNode.Field;
import dev.zabbet.files.DocumentNode.Fields;
import dev.zabbet.files.DocumentNode.Items;
import dev.zabbet.files.DocumentNode.Scalar;
import dev.zabbet.files.DocumentNode.Spot;
import dev.zabbet.internal.text.Nearest;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Place;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SeedValue;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.Period;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.PatternSyntaxException;
import org.jspecify.annotations.Nullable;

/** Makes rows and expectations of a document that was parsed; all that is wrong is told at once. */
final class DocumentReader {
    private static final List<String> PARTS = List.of("clock", "defaults", "tables", "expect", "footprint");
    static final List<String> SEED_WORDS = List.of("row", "plusDays", "after", "invent", "inTurn", "literal");
    static final List<String> EXPECT_WORDS = List.of(
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
    private static final int MOST_REPEATED = 1_000_000;

    private final DocumentText text;
    private final List<String> trouble = new ArrayList<>();
    private final Map<String, Fields> defaults = new LinkedHashMap<>();
    private @Nullable Instant clock;

    private DocumentReader(DocumentText text) {
        this.text = text;
    }

    static RowDocument read(String name, String content) {
        DocumentText.Parsed parsed = DocumentText.parse(name, content);
        DocumentReader reader = new DocumentReader(parsed.text());
        RowDocument document = reader.document(parsed.root());
        reader.requireNoTrouble(name);
        return document;
    }

    private void requireNoTrouble(String name) {
        if (!trouble.isEmpty()) {
            throw new ZabbetException(name + " cannot be read: " + Words.count(trouble.size(), "thing")
                    + (trouble.size() == 1 ? " is" : " are") + " wrong.\n  " + String.join("\n  ", trouble));
        }
    }

    private void wrong(Spot spot, String what) {
        Place place = text.place(spot);
        if (trouble.size() < 50) {
            trouble.add(place.where() + ": " + what + (place.line().isEmpty() ? "" : "\n    | " + place.line()));
        }
    }

    private RowDocument document(DocumentNode root) {
        List<SeedRow> rows = new ArrayList<>();
        List<DocumentExpectation.OfTable> stored = new ArrayList<>();
        DocumentExpectation.OfFootprint footprint = DocumentExpectation.OfFootprint.NONE;
        if (!(root instanceof Fields fields)) {
            wrong(root.spot(), "a row document begins with " + String.join(", ", PARTS) + ".");
            return new RowDocument(Seed.empty(), stored, footprint);
        }
        requireKnown(fields, PARTS, "part of a row document");
        field(fields, "clock").ifPresent(this::clock);
        field(fields, "defaults").ifPresent(node -> tables(node).forEach(f -> {
            if (f.value() instanceof Fields columns) {
                defaults.put(f.name().text(), columns);
            } else {
                wrong(f.value().spot(), "defaults of a table are columns with values: {nights: 2}.");
            }
        }));
        field(fields, "tables").ifPresent(node -> tables(node).forEach(f -> rows(f, rows)));
        field(fields, "expect").ifPresent(node -> tables(node).forEach(f -> expectation(f, stored)));
        Optional<DocumentNode> changed = field(fields, "footprint");
        if (changed.isPresent()) {
            footprint = footprint(changed.get());
        }
        return new RowDocument(Seed.of(rows).withClock(clock), stored, footprint);
    }

    private void requireKnown(Fields fields, List<String> known, String what) {
        for (Field field : fields.fields()) {
            if (!known.contains(field.name().text())) {
                String near = Nearest.to(field.name().text(), known)
                        .map(n -> " Did you mean '" + n + "'?")
                        .orElse("");
                wrong(
                        field.name().spot(),
                        "'" + field.name().text() + "' is no " + what + "." + near + " Known: "
                                + String.join(", ", known) + ".");
            }
        }
    }

    private static Optional<DocumentNode> field(Fields fields, String name) {
        return fields.fields().stream()
                .filter(f -> f.name().text().equals(name))
                .map(Field::value)
                .findFirst();
    }

    private List<Field> tables(DocumentNode node) {
        if (node instanceof Fields fields) {
            return fields.fields();
        }
        if (!(node instanceof Scalar scalar) || !scalar.isNull()) {
            wrong(node.spot(), "tables by their names are needed here: hut: …");
        }
        return List.of();
    }

    private void clock(DocumentNode node) {
        try {
            clock = Instant.parse(scalar(node));
        } catch (DateTimeException e) {
            wrong(node.spot(), "the clock is an instant such as 2031-07-01T08:00:00Z, not '" + scalar(node) + "'.");
        }
    }

    private static String scalar(DocumentNode node) {
        return node instanceof Scalar scalar ? scalar.text() : node instanceof Items ? "a list" : "an object";
    }

    private void rows(Field table, List<SeedRow> rows) {
        String name = table.name().text();
        if (table.value() instanceof Fields labelled) {
            for (Field row : labelled.fields()) {
                if (row.value() instanceof Fields columns) {
                    rows.add(row(name, Optional.of(row.name().text()), columns, 1));
                } else if (row.value() instanceof Scalar scalar && scalar.isNull()) {
                    rows.add(row(
                            name,
                            Optional.of(row.name().text()),
                            new Fields(List.of(), row.name().spot()),
                            1));
                } else {
                    wrong(
                            row.value().spot(),
                            "'" + row.name().text() + "' labels a row of " + name
                                    + ", and a row is columns with values. Rows without labels are a list: - {…}");
                }
            }
        } else if (table.value() instanceof Items items) {
            items.items().forEach(item -> unlabelled(name, item, rows));
        } else {
            wrong(table.value().spot(), "the rows of " + name + " are a list, or have labels.");
        }
    }

    private void unlabelled(String table, DocumentNode item, List<SeedRow> rows) {
        if (item instanceof Scalar scalar && scalar.isNull()) {
            rows.add(row(table, Optional.empty(), new Fields(List.of(), item.spot()), 1));
            return;
        }
        if (!(item instanceof Fields fields)) {
            wrong(item.spot(), "a row is columns with values, and this is " + scalar(item) + ".");
            return;
        }
        Optional<DocumentNode> repeat = field(fields, "repeat");
        if (repeat.isEmpty() || field(fields, "of").isEmpty()) {
            rows.add(row(table, Optional.empty(), fields, 1));
            return;
        }
        requireKnown(fields, List.of("repeat", "of"), "part of a repetition");
        String times = scalar(repeat.get());
        DocumentNode of = field(fields, "of").orElseThrow();
        if (!times.matches("[1-9]\\d{0,6}") || Integer.parseInt(times) > MOST_REPEATED) {
            wrong(repeat.get().spot(), "repeat is a number from 1 to " + MOST_REPEATED + ", not '" + times + "'.");
        } else if (of instanceof Fields columns) {
            rows.add(row(table, Optional.empty(), columns, Integer.parseInt(times)));
        } else {
            wrong(of.spot(), "what is repeated is columns with values: {repeat: 20, of: {nights: 2}}.");
        }
    }

    private SeedRow row(String table, Optional<String> label, Fields columns, int times) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        Map<String, Place> places = new LinkedHashMap<>();
        Fields shared = defaults.get(table);
        for (Fields from : shared == null ? List.of(columns) : List.of(shared, columns)) {
            for (Field field : from.fields()) {
                values.put(field.name().text(), seedValue(field.value()));
                places.put(field.name().text(), text.place(field.name().spot()));
            }
        }
        return new SeedRow(table, label, Row.of(values), times, text.place(columns.spot()), places);
    }

    private @Nullable Object seedValue(DocumentNode node) {
        if (!(node instanceof Fields)) {
            return plain(node);
        }
        Optional<Field> word = directive(node, SEED_WORDS);
        if (word.isEmpty()) {
            return null;
        }
        DocumentNode value = word.get().value();
        return switch (word.get().name().text()) {
            case "row" -> Seed.ref(scalar(value));
            case "invent" -> invented(value);
            case "inTurn" -> inTurn(value);
            default -> shared(word.get());
        };
    }

    /** Returns the one reserved name of an object. */
    private Optional<Field> directive(DocumentNode node, List<String> known) {
        Fields fields = (Fields) node;
        if (fields.fields().size() != 1
                || !known.contains(fields.fields().get(0).name().text())) {
            String found = fields.fields().isEmpty()
                    ? "an empty object"
                    : "'" + fields.fields().get(0).name().text() + "'";
            String near = fields.fields().isEmpty()
                    ? ""
                    : Nearest.to(fields.fields().get(0).name().text(), known)
                            .map(n -> " Did you mean '" + n + "'?")
                            .orElse("");
            wrong(
                    fields.spot(),
                    "a value that is an object has one reserved name, and this has " + found
                            + (fields.fields().size() > 1 ? " and others" : "") + "." + near + " Known: "
                            + String.join(", ", known) + ". An object for a JSON column is {literal: {…}}.");
            return Optional.empty();
        }
        return Optional.of(fields.fields().get(0));
    }

    /** The directives that rows and expectations have in common. */
    private @Nullable Object shared(Field word) {
        DocumentNode value = word.value();
        try {
            return switch (word.name().text()) {
                case "plusDays" -> new SeedValue.FromClock(Period.ofDays(Integer.parseInt(scalar(value))));
                case "after" -> new SeedValue.FromClock(amount(scalar(value)));
                default -> json(value);
            };
        } catch (NumberFormatException e) {
            wrong(value.spot(), "plusDays is a whole number of days, not '" + scalar(value) + "'.");
        } catch (DateTimeException e) {
            wrong(
                    value.spot(),
                    "after is an ISO 8601 duration such as PT2H, -P3D or P1M, not '" + scalar(value) + "'.");
        }
        return null;
    }

    private static java.time.temporal.TemporalAmount amount(String text) {
        return text.contains("T") ? Duration.parse(text) : Period.parse(text);
    }

    private @Nullable Object invented(DocumentNode value) {
        String kind = scalar(value);
        if (!SeedValue.INVENTED.containsKey(kind)) {
            String near = Nearest.to(kind, SeedValue.INVENTED.keySet())
                    .map(n -> " Did you mean '" + n + "'?")
                    .orElse("");
            wrong(
                    value.spot(),
                    "'" + kind + "' is nothing that can be invented." + near + " Known: "
                            + String.join(", ", SeedValue.INVENTED.keySet()) + ".");
            return null;
        }
        return new SeedValue.Invented(kind);
    }

    private @Nullable Object inTurn(DocumentNode value) {
        if (!(value instanceof Items items) || items.items().isEmpty()) {
            wrong(value.spot(), "inTurn takes a list of values: {inTurn: [REQUESTED, CONFIRMED]}.");
            return null;
        }
        List<@Nullable Object> values = new ArrayList<>();
        items.items().forEach(item -> values.add(seedValue(item)));
        return new SeedValue.InTurn(values);
    }

    /** A value that stands for itself: text, null or a list. */
    private @Nullable Object plain(DocumentNode node) {
        if (node instanceof Scalar scalar) {
            return scalar.isNull() ? null : scalar.text();
        }
        if (node instanceof Items items) {
            List<@Nullable Object> values = new ArrayList<>();
            items.items().forEach(item -> values.add(plain(item)));
            return values;
        }
        wrong(node.spot(), "a plain value is needed here.");
        return null;
    }

    /** Writes a part of the document as JSON. */
    private static String json(DocumentNode node) {
        if (node instanceof Scalar scalar) {
            boolean bare = scalar.plain()
                    && scalar.text().matches("true|false|null|-?(0|[1-9]\\d*)(\\.\\d+)?([eE][+-]?\\d+)?");
            return scalar.isNull() ? "null" : bare ? scalar.text() : quoted(scalar.text());
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

    private static String quoted(String text) {
        StringBuilder quoted = new StringBuilder("\"");
        for (char c : text.toCharArray()) {
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

    private void expectation(Field table, List<DocumentExpectation.OfTable> stored) {
        if (table.value() instanceof Items several) {
            several.items().forEach(item -> expectation(new Field(table.name(), item), stored));
            return;
        }
        if (!(table.value() instanceof Fields fields)) {
            wrong(table.value().spot(), "what is expected of a table is written {holds: […], count: 3}.");
            return;
        }
        requireKnown(fields, DocumentExpectation.WORDS, "expectation of a table");
        Map<String, Object> said = new LinkedHashMap<>();
        for (Field field : fields.fields()) {
            String word = field.name().text();
            DocumentNode value = field.value();
            switch (word) {
                case "where" -> said.put(word, expectedRow(value));
                case "count", "first" -> {
                    if (scalar(value).matches("\\d{1,9}")) {
                        said.put(word, Integer.parseInt(scalar(value)));
                    } else {
                        wrong(value.spot(), word + " is a whole number, not '" + scalar(value) + "'.");
                    }
                }
                case "empty" -> said.put(word, isTrue(value));
                case "select", "ignoring", "orderedBy", "unique" -> said.put(word, names(value));
                case "softDeleted" -> said.put(word, key(value));
                default -> said.put(word, expectedRows(value));
            }
        }
        stored.add(new DocumentExpectation.OfTable(
                table.name().text(), said, text.place(table.name().spot())));
    }

    private boolean isTrue(DocumentNode node) {
        if (!scalar(node).equals("true")) {
            wrong(node.spot(), "only true can stand here, not '" + scalar(node) + "'.");
        }
        return true;
    }

    private List<String> names(DocumentNode node) {
        List<String> names = new ArrayList<>();
        if (node instanceof Items items) {
            items.items().forEach(item -> names.add(scalar(item)));
        } else {
            names.add(scalar(node));
        }
        return names;
    }

    private List<Row> expectedRows(DocumentNode node) {
        List<Row> rows = new ArrayList<>();
        if (node instanceof Items items) {
            items.items().forEach(item -> rows.add(expectedRow(item)));
        } else if (node instanceof Scalar scalar && scalar.text().strip().startsWith("|")) {
            rows.addAll(new MarkdownTable().read(scalar.text()));
        } else {
            wrong(node.spot(), "expected rows are a list: - {…}, or a table in Markdown.");
        }
        return rows;
    }

    private Row expectedRow(DocumentNode node) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        if (node instanceof Fields fields) {
            fields.fields().forEach(f -> values.put(f.name().text(), expectedValue(f.value())));
        } else {
            wrong(node.spot(), "columns with values are needed here, and this is " + scalar(node) + ".");
        }
        return Row.of(values);
    }

    private @Nullable Object expectedValue(DocumentNode node) {
        if (!(node instanceof Fields)) {
            return plain(node);
        }
        Optional<Field> word = directive(node, EXPECT_WORDS);
        if (word.isEmpty()) {
            return null;
        }
        DocumentNode value = word.get().value();
        List<DocumentNode> items = value instanceof Items list ? list.items() : List.of();
        try {
            return switch (word.get().name().text()) {
                case "row" -> Seed.ref(scalar(value));
                case "any" -> Expected.any();
                case "notNull" -> Expected.notNull();
                case "pattern" -> Expected.pattern(scalar(value));
                case "oneOf" -> Expected.oneOf(items.stream().map(this::plain).toArray());
                case "between" -> {
                    if (items.size() != 2) {
                        wrong(value.spot(), "between takes two values: {between: [1, 14]}.");
                        yield null;
                    }
                    yield Expected.between(scalar(items.get(0)), scalar(items.get(1)));
                }
                case "near" -> near(value, items);
                case "jsonPart" -> Expected.jsonPart(json(value));
                case "above" -> Expected.above(scalar(value));
                case "below" -> Expected.below(scalar(value));
                case "from" -> Expected.from(scalar(value));
                case "upTo" -> Expected.upTo(scalar(value));
                case "otherThan" -> Expected.otherThan(scalar(value));
                case "like" -> Expected.like(scalar(value));
                case "equalToColumn" -> Expected.equalToColumn(scalar(value));
                default -> shared(word.get());
            };
        } catch (PatternSyntaxException e) {
            wrong(value.spot(), "this is no regular expression: " + e.getDescription() + ".");
            return null;
        }
    }

    /** {near: [9.5, 0.1]} or {near: [2031-07-01T08:00:00Z, PT2S]}. */
    private @Nullable Object near(DocumentNode value, List<DocumentNode> items) {
        try {
            if (items.size() == 2 && scalar(items.get(1)).startsWith("P")) {
                return Expected.near((Object) scalar(items.get(0)), Duration.parse(scalar(items.get(1))));
            }
            if (items.size() == 2) {
                return Expected.near(new BigDecimal(scalar(items.get(0))), new BigDecimal(scalar(items.get(1))));
            }
        } catch (DateTimeException | NumberFormatException e) {
            wrong(value.spot(), "near takes two numbers, or a time and a duration such as PT2S.");
            return null;
        }
        wrong(value.spot(), "near takes a value and how far from it: {near: [9.5, 0.1]}.");
        return null;
    }

    private Object key(DocumentNode node) {
        Object key = expectedValue(node);
        return key == null ? "" : key;
    }

    private DocumentExpectation.OfFootprint footprint(DocumentNode node) {
        List<DocumentExpectation.OfChanges> tables = new ArrayList<>();
        boolean nothingElse = false;
        boolean unchanged = false;
        List<String> ignoring = List.of();
        for (Field field : tables(node)) {
            switch (field.name().text()) {
                case "nothingElse" -> nothingElse = isTrue(field.value());
                case "unchanged" -> unchanged = isTrue(field.value());
                case "ignoring" -> ignoring = names(field.value());
                default -> tables.add(changes(field));
            }
        }
        return new DocumentExpectation.OfFootprint(tables, ignoring, nothingElse, unchanged);
    }

    private DocumentExpectation.OfChanges changes(Field table) {
        List<Row> added = new ArrayList<>();
        List<Row> removed = new ArrayList<>();
        List<DocumentExpectation.OfChange> changed = new ArrayList<>();
        boolean unchanged = false;
        if (!(table.value() instanceof Fields fields)) {
            wrong(table.value().spot(), "what changed in a table is written {added: […], changed: […], removed: […]}.");
            return new DocumentExpectation.OfChanges(
                    table.name().text(),
                    added,
                    changed,
                    removed,
                    unchanged,
                    text.place(table.name().spot()));
        }
        requireKnown(fields, List.of("added", "changed", "removed", "unchanged"), "part of a footprint");
        for (Field field : fields.fields()) {
            switch (field.name().text()) {
                case "added" -> added.addAll(expectedRows(field.value()));
                case "removed" -> removed.addAll(expectedRows(field.value()));
                case "unchanged" -> unchanged = isTrue(field.value());
                case "changed" -> {
                    if (field.value() instanceof Items items) {
                        items.items().forEach(item -> change(item, changed));
                    } else {
                        wrong(field.value().spot(), "changed rows are a list: - {key: 7, to: {…}}.");
                    }
                }
                default -> {}
            }
        }
        return new DocumentExpectation.OfChanges(
                table.name().text(),
                added,
                changed,
                removed,
                unchanged,
                text.place(table.name().spot()));
    }

    private void change(DocumentNode item, List<DocumentExpectation.OfChange> changed) {
        if (!(item instanceof Fields fields)) {
            wrong(item.spot(), "a changed row is written {row: label, to: {…}}, or {key: 7, from: {…}, to: {…}}.");
            return;
        }
        requireKnown(fields, List.of("row", "key", "from", "to"), "part of a changed row");
        Optional<DocumentNode> key = field(fields, "key");
        Optional<DocumentNode> label = field(fields, "row");
        Optional<DocumentNode> to = field(fields, "to");
        if (to.isEmpty()) {
            wrong(item.spot(), "a changed row says what it changed to: {row: label, to: {…}}.");
            return;
        }
        changed.add(new DocumentExpectation.OfChange(
                label.map(l -> (Object) Seed.ref(scalar(l))).or(() -> key.map(this::key)),
                field(fields, "from").map(this::expectedRow),
                expectedRow(to.get())));
    }
}
