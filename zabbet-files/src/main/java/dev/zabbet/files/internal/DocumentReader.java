package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.DocumentNode.Field;
import dev.zabbet.files.internal.DocumentNode.Fields;
import dev.zabbet.files.internal.DocumentNode.Items;
import dev.zabbet.files.internal.DocumentNode.Scalar;
import dev.zabbet.files.internal.DocumentNode.Spot;
import dev.zabbet.internal.text.Nearest;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SourceLocation;
import java.time.DateTimeException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Makes rows and expectations of a document that was parsed; all that is wrong is told at once. */
public final class DocumentReader {
    private static final List<String> PARTS = List.of("clock", "use", "defaults", "tables", "expect", "footprint");
    private static final int MOST_REPEATED = 1_000_000;

    private final DocumentText text;
    private final List<String> trouble = new ArrayList<>();
    private final Map<String, Fields> defaults = new LinkedHashMap<>();
    private final DocumentValues values;
    private @Nullable Instant clock;

    private DocumentReader(String name, DocumentText text) {
        this.values = new DocumentValues(name, this::wrong);
        this.text = text;
    }

    public static ParsedDocument read(String name, String content) {
        return read(name, DocumentText.parse(name, content));
    }

    static ParsedDocument read(String name, DocumentText.Parsed parsed) {
        DocumentReader reader = new DocumentReader(name, parsed.text());
        ParsedDocument document = reader.document(parsed.root());
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
        SourceLocation place = text.place(spot);
        if (trouble.size() < 50) {
            trouble.add(place.where() + ": " + Words.cut(what, 1_000)
                    + (place.line().isEmpty() ? "" : "\n    | " + place.line()));
        }
    }

    private ParsedDocument document(DocumentNode root) {
        List<SeedRow> rows = new ArrayList<>();
        List<DocumentExpectation.OfTable> stored = new ArrayList<>();
        DocumentExpectation.OfFootprint footprint = DocumentExpectation.OfFootprint.NONE;
        if (!(root instanceof Fields fields)) {
            wrong(root.spot(), "a row document begins with " + String.join(", ", PARTS) + ".");
            return new ParsedDocument(Seed.empty(), stored, footprint, Map.of());
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
        String[] used = field(fields, "use").map(this::used).orElse(List.of()).toArray(String[]::new);
        Map<String, Row> shared = new LinkedHashMap<>();
        defaults.forEach((table, columns) -> shared.put(table, values(columns)));
        return new ParsedDocument(Seed.of(rows).withClock(clock).usingStored(used), stored, footprint, shared);
    }

    /** {region: stored}: tables whose rows may be there already. */
    private List<String> used(DocumentNode node) {
        List<String> tables = new ArrayList<>();
        for (Field table : tables(node)) {
            if (scalar(table.value()).equals("stored")) {
                tables.add(table.name().text());
            } else {
                wrong(
                        table.value().spot(),
                        "of a table whose rows may be there already it is written "
                                + table.name().text() + ": stored.");
            }
        }
        return tables;
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

    static String scalar(DocumentNode node) {
        if (node instanceof Scalar scalar) {
            return scalar.text();
        }
        if (node instanceof Items) {
            return "a list";
        }
        return "an object";
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

    private Row values(Fields columns) {
        Map<String, @Nullable Object> all = new LinkedHashMap<>();
        columns.fields()
                .forEach(field -> all.put(
                        field.name().text(), values.seedValue(field.name().text(), field.value())));
        return Row.of(all);
    }

    private SeedRow row(String table, Optional<String> label, Fields columns, int times) {
        Map<String, @Nullable Object> row = new LinkedHashMap<>();
        Map<String, SourceLocation> places = new LinkedHashMap<>();
        Fields shared = defaults.get(table);
        for (Fields from : shared == null ? List.of(columns) : List.of(shared, columns)) {
            for (Field field : from.fields()) {
                row.put(field.name().text(), values.seedValue(field.name().text(), field.value()));
                places.put(field.name().text(), text.place(field.name().spot()));
            }
        }
        return new SeedRow(table, label, Row.of(row), times, text.place(columns.spot()), places);
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
                case "count" -> number(value, word, 0, said);
                case "first" -> number(value, word, 1, said);
                case "empty", "strictly" -> said.put(word, isTrue(value));
                case "select", "ignoring", "orderedBy", "unique" -> said.put(word, names(value));
                case "softDeleted" -> said.put(word, key(value));
                default -> said.put(word, expectedRows(value));
            }
        }
        stored.add(new DocumentExpectation.OfTable(
                table.name().text(), said, fields, text.place(table.name().spot())));
    }

    private void number(DocumentNode value, String word, int least, Map<String, Object> said) {
        String text = scalar(value);
        if (text.matches("\\d{1,9}") && Integer.parseInt(text) >= least) {
            said.put(word, Integer.parseInt(text));
        } else {
            wrong(
                    value.spot(),
                    word + " is a whole number" + (least == 0 ? "" : ", at least " + least) + ", not '" + text + "'.");
        }
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
        } else if (node instanceof Scalar) {
            names.add(scalar(node));
        } else {
            wrong(node.spot(), "a column or a list of columns is needed here, and this is " + scalar(node) + ".");
        }
        if (node instanceof Items && names.isEmpty()) {
            wrong(node.spot(), "a column or a list of columns is needed here, and this list is empty.");
        }
        return names;
    }

    private List<Row> expectedRows(DocumentNode node) {
        List<Row> rows = new ArrayList<>();
        if (node instanceof Items items) {
            items.items().forEach(item -> rows.add(expectedRow(item)));
        } else if (node instanceof Scalar scalar && scalar.text().strip().startsWith("|")) {
            try {
                rows.addAll(new MarkdownTable().read(scalar.text()));
            } catch (ZabbetException e) {
                wrong(node.spot(), String.valueOf(e.getMessage()).strip());
            }
        } else {
            wrong(node.spot(), "expected rows are a list: - {…}, or a table in Markdown.");
        }
        return rows;
    }

    private Row expectedRow(DocumentNode node) {
        Map<String, @Nullable Object> row = new LinkedHashMap<>();
        if (node instanceof Fields fields) {
            fields.fields().forEach(f -> row.put(f.name().text(), values.expectedValue(f.value())));
        } else {
            wrong(node.spot(), "columns with values are needed here, and this is " + scalar(node) + ".");
        }
        return Row.of(row);
    }

    private Object key(DocumentNode node) {
        Object key = values.expectedValue(node);
        return key == null ? "" : key;
    }

    private DocumentExpectation.OfFootprint footprint(DocumentNode node) {
        List<DocumentExpectation.OfChanges> tables = new ArrayList<>();
        boolean nothingElse = false;
        boolean unchanged = false;
        boolean strictly = false;
        List<String> ignoring = List.of();
        for (Field field : tables(node)) {
            switch (field.name().text()) {
                case "nothingElse" -> nothingElse = isTrue(field.value());
                case "unchanged" -> unchanged = isTrue(field.value());
                case "strictly" -> strictly = isTrue(field.value());
                case "ignoring" -> ignoring = names(field.value());
                default -> tables.add(changes(field));
            }
        }
        return new DocumentExpectation.OfFootprint(tables, ignoring, nothingElse, unchanged, strictly);
    }

    private DocumentExpectation.OfChanges changes(Field table) {
        List<Row> added = new ArrayList<>();
        List<Row> removed = new ArrayList<>();
        List<DocumentExpectation.OfChange> changed = new ArrayList<>();
        Optional<DocumentExpectation.OfCounts> counts = Optional.empty();
        boolean unchanged = false;
        if (!(table.value() instanceof Fields fields)) {
            wrong(table.value().spot(), "what changed in a table is written {added: […], changed: […], removed: […]}.");
            return new DocumentExpectation.OfChanges(
                    table.name().text(),
                    added,
                    changed,
                    removed,
                    counts,
                    unchanged,
                    new Fields(List.of(), table.value().spot()),
                    text.place(table.name().spot()));
        }
        requireKnown(fields, DocumentExpectation.OfChanges.WORDS, "part of a footprint");
        for (Field field : fields.fields()) {
            switch (field.name().text()) {
                case "added" -> added.addAll(expectedRows(field.value()));
                case "removed" -> removed.addAll(expectedRows(field.value()));
                case "unchanged" -> unchanged = isTrue(field.value());
                case "counts" -> counts = counts(field.value());
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
                counts,
                unchanged,
                fields,
                text.place(table.name().spot()));
    }

    private Optional<DocumentExpectation.OfCounts> counts(DocumentNode node) {
        if (!(node instanceof Fields fields) || fields.fields().isEmpty()) {
            wrong(node.spot(), "counts says how many rows: {added: 3, changed: 1}; what is left out is none.");
            return Optional.empty();
        }
        requireKnown(fields, DocumentExpectation.OfCounts.WORDS, "way to count rows of a footprint");
        Map<String, Object> said = new LinkedHashMap<>();
        fields.fields().forEach(f -> number(f.value(), f.name().text(), 0, said));
        int[] numbers = DocumentExpectation.OfCounts.WORDS.stream()
                .mapToInt(word -> (Integer) said.getOrDefault(word, 0))
                .toArray();
        return Optional.of(new DocumentExpectation.OfCounts(numbers[0], numbers[1], numbers[2], fields));
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
        if (key.isPresent() && label.isPresent()) {
            wrong(item.spot(), "a changed row is named by its label or by its key, not by both.");
        }
        if (to.isEmpty()) {
            wrong(item.spot(), "a changed row says what it changed to: {row: label, to: {…}}.");
            return;
        }
        changed.add(new DocumentExpectation.OfChange(
                label.map(l -> (Object) Seed.ref(scalar(l))).or(() -> key.map(this::key)),
                field(fields, "from").map(this::expectedRow),
                expectedRow(to.get()),
                fields));
    }
}
