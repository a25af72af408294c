package dev.zabbet.files;

import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.Differences;
import dev.zabbet.expect.FootprintExpectation;
import dev.zabbet.expect.TableExpectation;
import dev.zabbet.files.DocumentNode.Field;
import dev.zabbet.files.DocumentNode.Fields;
import dev.zabbet.files.DocumentNode.Items;
import dev.zabbet.files.DocumentNode.Scalar;
import dev.zabbet.files.DocumentNode.Spot;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.Seed;
import dev.zabbet.store.Change;
import java.io.IOException;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Rewrites the expectations of a file from what was found. Only what does not hold is touched: a value, a row too few or too
 * many, a count. What expects something that cannot be read off (holdsNoneOf, unique) stays and goes on failing.
 */
final class Rewriting {
    private static final Logger LOG = System.getLogger("dev.zabbet.files");
    private static final String PROPERTY = "zabbet.rewriteExpected";

    private final DocumentText text;
    private final boolean json;
    private final TextEdits edits;
    private final DocumentExpectation expectation;

    private Rewriting(DocumentText text, String content, boolean json, Stage stage, Optional<Instant> clock) {
        this.json = json;
        this.text = text;
        this.edits = new TextEdits(content);
        this.expectation = new DocumentExpectation(stage, clock);
    }

    /** Tells whether expectations are to be rewritten; refuses in continuous integration, where nobody would look. */
    static boolean isWanted(List<String> files) {
        if (!Boolean.getBoolean(PROPERTY) || files.isEmpty()) {
            return false;
        }
        String ci = System.getenv("CI");
        if (ci != null && !ci.isBlank() && !ci.equalsIgnoreCase("false")) {
            throw new ZabbetException("The expectations in " + String.join(", ", files)
                    + " do not hold, and are not rewritten in continuous integration (CI=" + ci + "). Run it with "
                    + PROPERTY + " where you can look at what changes.");
        }
        return true;
    }

    static RowDocument read(String file) {
        Path path = source(file);
        return DocumentReader.read(path.toString(), text(path));
    }

    static void stored(String file, Stage stage, Optional<Instant> clock) {
        rewrite(file, stage, clock, (rewriting, document) -> document.stored().forEach(rewriting::table));
    }

    static void changed(String file, Stage stage, Optional<Instant> clock, Footprint footprint) {
        rewrite(
                file,
                stage,
                clock,
                (rewriting, document) -> rewriting.footprint(document.footprint(), footprint, document));
    }

    private interface Work {
        void on(Rewriting rewriting, RowDocument document);
    }

    private static void rewrite(String file, Stage stage, Optional<Instant> clock, Work work) {
        Path path = source(file);
        String content = text(path);
        DocumentText.Parsed parsed = DocumentText.parse(path.toString(), content);
        Rewriting rewriting =
                new Rewriting(parsed.text(), content, path.toString().endsWith(".json"), stage, clock);
        rewriting.root = parsed.root();
        work.on(rewriting, DocumentReader.read(path.toString(), parsed));
        if (rewriting.edits.isEmpty()) {
            return;
        }
        String result = rewriting.edits.result();
        DocumentReader.read(path.toString(), result); // what cannot be read is not written
        try {
            Path beside = path.resolveSibling(path.getFileName() + ".part");
            Files.writeString(beside, result);
            Files.move(beside, path, StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException e) {
            throw new ZabbetException("'" + path + "' cannot be rewritten: " + e, e);
        }
        LOG.log(
                Level.WARNING,
                "{0} was rewritten from what was found, in {1} places. Look at what changed.",
                path,
                rewriting.edits.size());
    }

    private @Nullable DocumentNode root;

    /** Returns the file itself: of a resource on the class path the source that it was copied from. */
    private static Path source(String file) {
        Path path = Path.of(file);
        if (Files.isRegularFile(path)) {
            return path;
        }
        String name = file.startsWith("/") ? file.substring(1) : file;
        for (String folder : List.of("src/test/resources", "src/main/resources")) {
            Path source = Path.of(folder, name);
            if (Files.isRegularFile(source)) {
                return source;
            }
        }
        throw new ZabbetException("The expectations in " + file + " cannot be rewritten: it is neither a file here (in "
                + Path.of("").toAbsolutePath() + ") nor under src/test/resources or src/main/resources.");
    }

    private static String text(Path path) {
        String content = Seed.text(path.toString());
        return content.startsWith("\uFEFF") ? content.substring(1) : content;
    }

    private void table(DocumentExpectation.OfTable one) {
        Table table = expectation.table(one.table(), one.place());
        TableExpectation about = expectation.about(table, one);
        List<Row> found = about.rows();
        for (Field field : one.written().fields()) {
            switch (field.name().text()) {
                case "count" ->
                    set(field.value(), String.valueOf(found.size()), one.said().get("count"), found.size());
                case "empty" -> {
                    if (!found.isEmpty()) {
                        edits.replace(
                                edits.at(field.name().spot()),
                                edits.at(text.end(field.value()).spot()),
                                name("count") + found.size());
                    }
                }
                case "holds", "holdsOnly", "holdsInOrder" -> {
                    Object[] rows = rows(table, one.said().get(field.name().text()));
                    Differences differences = field.name().text().equals("holdsInOrder")
                            ? inOrder(table, found, rows)
                            : Differences.of(table, found, rows);
                    boolean only = !field.name().text().equals("holds");
                    list(field, table, differences, only ? differences.beyond() : List.of());
                }
                default -> {}
            }
        }
    }

    @SuppressWarnings("unchecked")
    private Object[] rows(Table table, @Nullable Object said) {
        return expectation.rows(table, (List<Row>) java.util.Objects.requireNonNull(said));
    }

    private static Differences inOrder(Table table, List<Row> found, Object... expected) {
        List<Differences.Pair> pairs = new ArrayList<>();
        for (int i = 0; i < expected.length; i++) {
            pairs.addAll(Differences.of(table, i < found.size() ? found.subList(i, i + 1) : List.of(), expected[i])
                    .pairs());
        }
        return new Differences(pairs, found.subList(Math.min(found.size(), expected.length), found.size()));
    }

    private void set(DocumentNode node, String literal, @Nullable Object before, Object now) {
        if (!now.equals(before)) {
            edits.replace(edits.at(node.spot()), edits.at(text.end(node).spot()), literal);
        }
    }

    /** Mends a list of rows, or a table in Markdown. */
    private void list(Field field, Table table, Differences differences, List<Row> beyond) {
        if (field.value() instanceof Scalar) {
            new MarkdownEdits(edits, field.value().spot().line() + 1).mend(table, differences, beyond);
            return;
        }
        Items items = (Items) field.value();
        List<Integer> gone = new ArrayList<>();
        for (int i = 0; i < items.items().size(); i++) {
            Differences.Pair pair = differences.pairs().get(i);
            if (pair.found().isEmpty()) {
                gone.add(i);
            } else if (items.items().get(i) instanceof Fields fields) {
                pair.columns()
                        .forEach(column ->
                                value(fields, table, column, pair.found().get()));
            }
        }
        List<String> columns =
                items.items().isEmpty() ? List.of() : names(items.items().get(0), table);
        replaceItems(
                field,
                items,
                gone,
                beyond.stream().map(row -> shown(table, row, columns)).toList());
    }

    private void value(Fields fields, Table table, String column, Row found) {
        for (Field field : fields.fields()) {
            if (table.requireColumn(field.name().text()).name().equals(column)) {
                edits.replace(
                        edits.at(field.value().spot()),
                        edits.at(text.end(field.value()).spot()),
                        literal(found.get(column)));
            }
        }
    }

    private static List<String> names(DocumentNode row, Table table) {
        return row instanceof Fields fields
                ? fields.fields().stream()
                        .map(f -> table.requireColumn(f.name().text()).name())
                        .toList()
                : List.of();
    }

    private String shown(Table table, Row row, List<String> columns) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (Column column : table.columns()) {
            boolean wanted = columns.isEmpty()
                    ? row.get(column.name()) != null && !column.isNumbered()
                    : columns.contains(column.name());
            if (wanted) {
                values.put(column.name(), row.get(column.name()));
            }
        }
        return literals(Row.of(values));
    }

    private void replaceItems(Field field, Items items, List<Integer> gone, List<String> added) {
        if (gone.isEmpty() && added.isEmpty()) {
            return;
        }
        List<DocumentNode> all = items.items();
        boolean bracketed = text.end(items).bracketed();
        if (bracketed && gone.size() < all.size()) {
            replaceBracketed(all, gone, added);
            return;
        }
        if (bracketed || all.isEmpty() || (gone.size() == all.size() && added.isEmpty())) {
            List<String> rows = new ArrayList<>();
            for (int i = 0; i < all.size(); i++) {
                if (!gone.contains(i)) {
                    rows.add(edited(all.get(i)));
                }
            }
            rows.addAll(added);
            Spot name = text.end(field.name()).spot();
            edits.replace(edits.at(name), edits.at(text.end(items).spot()), ": [" + String.join(", ", rows) + "]");
            return;
        }
        for (int i : gone) {
            edits.removeLines(
                    all.get(i).spot().line(), text.end(all.get(i)).spot().line());
        }
        String first = edits.line(all.get(0).spot().line());
        String indent = first.substring(0, first.length() - first.stripLeading().length());
        int last = text.end(all.get(all.size() - 1)).spot().line();
        added.forEach(row -> edits.addLine(last, indent + "- " + row));
    }

    /** Some items stay; what stands between them, comments say, stays with them. */
    private void replaceBracketed(List<DocumentNode> all, List<Integer> gone, List<String> added) {
        int kept = -1;
        for (int i = 0; i < all.size(); i++) {
            if (!gone.contains(i)) {
                kept = i;
            } else if (i < all.size() - 1) {
                edits.replace(
                        edits.at(all.get(i).spot()), edits.at(all.get(i + 1).spot()), "");
            } else {
                int comma = edits.next(edits.at(text.end(all.get(kept)).spot()), ',');
                edits.replace(comma, comma + 1, "");
                edits.replace(
                        edits.at(all.get(i).spot()),
                        edits.at(text.end(all.get(i)).spot()),
                        "");
            }
        }
        int end = edits.at(text.end(all.get(all.size() - 1)).spot());
        added.forEach(row -> edits.replace(end, end, ", " + row));
    }

    /** Returns a part of the text as it is with the changes made inside of it. */
    private String edited(DocumentNode node) {
        return edits.resultOf(edits.at(node.spot()), edits.at(text.end(node).spot()));
    }

    private void footprint(DocumentExpectation.OfFootprint expected, Footprint footprint, RowDocument document) {
        FootprintExpectation counted = expected.ignoring().isEmpty()
                ? footprint.expect()
                : footprint.expect().ignoring(expected.ignoring().toArray(String[]::new));
        List<Change> left = new ArrayList<>(counted.changes());
        for (DocumentExpectation.OfChanges one : expected.tables()) {
            Table table = expectation.table(one.table(), one.place());
            one.counts().ifPresent(counts -> counts(table, counts, counted.changes()));
            for (Field field : one.written().fields()) {
                switch (field.name().text()) {
                    case "added" -> rows(field, table, one.added(), Change.Added.class, left, expected.nothingElse());
                    case "removed" ->
                        rows(field, table, one.removed(), Change.Removed.class, left, expected.nothingElse());
                    case "changed" -> changes(field, table, one, left, expected.nothingElse() ? counted : null);
                    default -> {}
                }
            }
            if (one.counts().isPresent()) {
                left.removeIf(change -> change.table().equals(table));
            }
        }
        if (expected.nothingElse()) {
            addTables(left, document);
        }
    }

    /** Mends the numbers of rows; one that is not written is written if it is not none. */
    private void counts(Table table, DocumentExpectation.OfCounts counts, List<Change> changes) {
        Fields fields = counts.written();
        Map<String, @Nullable Object> more = new LinkedHashMap<>();
        for (String word : DocumentExpectation.OfCounts.WORDS) {
            int found = (int) changes.stream()
                    .filter(change ->
                            change.table().equals(table) && word(change).equals(word))
                    .count();
            Optional<DocumentNode> written = fields.fields().stream()
                    .filter(f -> f.name().text().equals(word))
                    .map(Field::value)
                    .findFirst();
            if (written.isPresent()) {
                set(written.get(), String.valueOf(found), counts.of(word), found);
            } else if (found > 0) {
                more.put(word, found);
            }
        }
        addColumns(fields, Row.of(more));
    }

    private static String word(Change change) {
        return change instanceof Change.Added ? "added" : change instanceof Change.Removed ? "removed" : "changed";
    }

    private void rows(
            Field field,
            Table table,
            List<Row> expected,
            Class<? extends Change> kind,
            List<Change> left,
            boolean nothingElse) {
        List<Row> found = left.stream()
                .filter(change -> change.table().equals(table) && kind.isInstance(change))
                .map(Change::row)
                .toList();
        Differences differences = Differences.of(table, found, expectation.rows(table, expected));
        List<Row> beyond = nothingElse ? differences.beyond() : List.of();
        list(field, table, differences, beyond);
        left.removeIf(change -> change.table().equals(table) && kind.isInstance(change));
    }

    private void changes(
            Field field,
            Table table,
            DocumentExpectation.OfChanges one,
            List<Change> left,
            @Nullable FootprintExpectation nothingElse) {
        List<Integer> gone = new ArrayList<>();
        for (int i = 0; i < one.changed().size(); i++) {
            DocumentExpectation.OfChange change = one.changed().get(i);
            Row to = expectation.row(table, change.to());
            List<Change.Changed> candidates = left.stream()
                    .filter(Change.Changed.class::isInstance)
                    .map(Change.Changed.class::cast)
                    .filter(c -> c.table().equals(table))
                    .filter(c -> change.key().isEmpty()
                            || isLike(
                                    table, c.after(), keyRow(table, change.key().get())))
                    .toList();
            Differences.Pair pair = Differences.of(
                            table,
                            candidates.stream().map(Change.Changed::after).toList(),
                            to)
                    .pairs()
                    .get(0);
            Optional<Change.Changed> found = candidates.size() == 1
                            && change.key().isPresent()
                    ? Optional.of(candidates.get(0))
                    : candidates.stream()
                            .filter(c ->
                                    pair.found().filter(row -> row == c.after()).isPresent())
                            .findFirst();
            if (found.isEmpty()) {
                gone.add(i);
                continue;
            }
            left.remove(found.get());
            if (nothingElse != null) {
                List<String> more = new ArrayList<>(nothingElse.columnsLeft(found.get()));
                more.removeAll(names(table, change.to()));
                change.from().ifPresent(from -> more.removeAll(names(table, from)));
                change.written().fields().stream()
                        .filter(part -> part.name().text().equals("to") && part.value() instanceof Fields)
                        .forEach(part -> addColumns(
                                (Fields) part.value(), columns(found.get().after(), more)));
            }
            for (Field part : change.written().fields()) {
                Row row = part.name().text().equals("from")
                        ? found.get().before()
                        : found.get().after();
                Row said = part.name().text().equals("from") ? change.from().orElse(change.to()) : change.to();
                if (part.value() instanceof Fields fields
                        && List.of("from", "to").contains(part.name().text())) {
                    Differences.of(table, List.of(row), expectation.row(table, said))
                            .pairs()
                            .get(0)
                            .columns()
                            .forEach(column -> value(fields, table, column, row));
                    if (Differences.of(table, List.of(row), expectation.row(table, said))
                            .pairs()
                            .get(0)
                            .found()
                            .isEmpty()) {
                        names(fields, table).forEach(column -> value(fields, table, column, row));
                    }
                }
            }
        }
        List<String> added = new ArrayList<>();
        for (Change other : List.copyOf(left)) {
            if (nothingElse != null
                    && other instanceof Change.Changed changed
                    && changed.table().equals(table)) {
                added.add(shown(table, changed));
                left.remove(other);
            }
        }
        replaceItems(field, (Items) field.value(), gone, added);
    }

    private static List<String> names(Table table, Row said) {
        return said.columns().stream()
                .map(column -> table.requireColumn(column).name())
                .toList();
    }

    /** Adds columns to those that a row is expected to have. */
    private void addColumns(Fields fields, Row more) {
        if (more.columns().isEmpty()) {
            return;
        }
        if (fields.fields().isEmpty()) {
            edits.replace(edits.at(fields.spot()), edits.at(text.end(fields).spot()), literals(more));
            return;
        }
        Field last = fields.fields().get(fields.fields().size() - 1);
        if (text.end(fields).bracketed()) {
            int end = edits.at(text.end(last.value()).spot());
            String added = literals(more);
            edits.replace(end, end, ", " + added.substring(1, added.length() - 1));
            return;
        }
        String indent = " ".repeat(last.name().spot().column() - 1);
        int line = text.end(last.value()).spot().line();
        more.columns().forEach(column -> edits.addLine(line, indent + name(column) + literal(more.get(column))));
    }

    private static boolean isLike(Table table, Row found, Object expected) {
        Differences.Pair pair =
                Differences.of(table, List.of(found), expected).pairs().get(0);
        return pair.found().isPresent() && pair.columns().isEmpty();
    }

    private Object keyRow(Table table, Object written) {
        Object key = expectation.key(table, written);
        return key instanceof Row row ? row : Row.row(table.keyColumns().get(0), key);
    }

    private String shown(Table table, Change.Changed change) {
        String to = literals(columns(change.after(), change.columns()));
        String key = table.keyColumns().size() == 1
                ? "key: " + literal(change.after().get(table.keyColumns().get(0))) + ", "
                : "";
        return "{" + key + name("from") + literals(columns(change.before(), change.columns())) + ", to: " + to + "}";
    }

    /** JSON puts all names and texts in quotes. */
    private String literal(@Nullable Object value) {
        String text = DocumentWriter.value(value);
        boolean quoted = value == null || value instanceof Number || value instanceof Boolean || text.startsWith("\"");
        return json && !quoted ? '"' + text + '"' : text;
    }

    private String literals(Row row) {
        return row.columns().stream()
                .map(column -> name(column) + literal(row.get(column)))
                .collect(Collectors.joining(", ", "{", "}"));
    }

    private String name(String name) {
        return (json ? '"' + name + '"' : DocumentWriter.value(name)) + ": ";
    }

    private static Row columns(Row row, List<String> names) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        names.forEach(name -> values.put(name, row.get(name)));
        return Row.of(values);
    }

    /** What happened in tables, or in ways, that the document does not speak of. */
    private void addTables(List<Change> left, RowDocument document) {
        Map<String, Map<String, List<String>>> more = new LinkedHashMap<>();
        for (Change change : left) {
            String kind = word(change);
            String row = change instanceof Change.Changed changed
                    ? shown(change.table(), changed)
                    : shown(change.table(), change.row(), List.of());
            more.computeIfAbsent(change.table().name(), t -> new LinkedHashMap<>())
                    .computeIfAbsent(kind, k -> new ArrayList<>())
                    .add(row);
        }
        Fields all = (Fields) ((Fields) java.util.Objects.requireNonNull(root))
                .fields().stream()
                        .filter(f -> f.name().text().equals("footprint"))
                        .findFirst()
                        .orElseThrow()
                        .value();
        more.forEach((table, kinds) -> {
            Optional<Fields> known = all.fields().stream()
                    .filter(f -> f.name().text().equals(table) && f.value() instanceof Fields)
                    .map(f -> (Fields) f.value())
                    .findFirst();
            if (text.end(all).bracketed()
                    || known.filter(f -> text.end(f).bracketed()).isPresent()) {
                return; // a footprint on one line is left to its author
            }
            Fields beside = known.orElse(all);
            Field first = beside.fields().get(0);
            String indent = " ".repeat(first.name().spot().column() - 1);
            int last = text.end(beside.fields().get(beside.fields().size() - 1).value())
                    .spot()
                    .line();
            String inner = indent;
            if (known.isEmpty()) {
                edits.addLine(last, indent + table + ":");
                inner = indent + "  ";
            }
            for (Map.Entry<String, List<String>> kind : kinds.entrySet()) {
                edits.addLine(last, inner + kind.getKey() + ":");
                for (String row : kind.getValue()) {
                    edits.addLine(last, inner + "  - " + row);
                }
            }
        });
    }
}
