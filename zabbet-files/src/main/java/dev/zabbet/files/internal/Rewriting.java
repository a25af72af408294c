package dev.zabbet.files.internal;

import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.TableExpectation;
import dev.zabbet.files.internal.DocumentNode.Field;
import dev.zabbet.files.internal.DocumentNode.Fields;
import dev.zabbet.files.internal.DocumentNode.Items;
import dev.zabbet.files.internal.DocumentNode.Scalar;
import dev.zabbet.files.internal.DocumentNode.Spot;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.Differences;
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
public final class Rewriting {
    private static final Logger LOG = System.getLogger("dev.zabbet.files");
    private static final String PROPERTY = "zabbet.rewriteExpected";

    private final FootprintRewriting changed = new FootprintRewriting(this);
    final DocumentText text;
    private final boolean json;
    final TextEdits edits;
    final DocumentExpectation expectation;

    @Nullable
    DocumentNode root;

    private Rewriting(DocumentText text, String content, boolean json, Stage stage, Optional<Instant> clock) {
        this.json = json;
        this.text = text;
        this.edits = new TextEdits(content);
        this.expectation = new DocumentExpectation(stage, clock);
    }

    /** Tells whether expectations are to be rewritten; refuses in continuous integration, where nobody would look. */
    public static boolean isWanted(List<String> files) {
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

    public static ParsedDocument read(String file) {
        Path path = source(file);
        return DocumentReader.read(path.toString(), text(path));
    }

    public static void stored(String file, Stage stage, Optional<Instant> clock) {
        rewrite(file, stage, clock, (rewriting, document) -> document.stored().forEach(rewriting::table));
    }

    public static void changed(String file, Stage stage, Optional<Instant> clock, Footprint footprint) {
        rewrite(
                file,
                stage,
                clock,
                (rewriting, document) -> rewriting.changed.footprint(document.footprint(), footprint, document));
    }

    private interface Work {
        void on(Rewriting rewriting, ParsedDocument document);
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

    static String text(Path path) {
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
    Object[] rows(Table table, @Nullable Object said) {
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

    void set(DocumentNode node, String literal, @Nullable Object before, Object now) {
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

    void value(Fields fields, Table table, String column, Row found) {
        for (Field field : fields.fields()) {
            RowPart part = RowPart.of(table, field.name().text());
            if (part.name().equals(column)) {
                edits.replace(
                        edits.at(field.value().spot()),
                        edits.at(text.end(field.value()).spot()),
                        literal(RowPart.of(List.of(part), found).at(0)));
            }
        }
    }

    static List<String> names(DocumentNode row, Table table) {
        return row instanceof Fields fields
                ? fields.fields().stream()
                        .map(f -> RowPart.of(table, f.name().text()).name())
                        .toList()
                : List.of();
    }

    String shown(Table table, Row row, List<String> columns) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (Column column : table.columns()) {
            boolean wanted = columns.isEmpty()
                    ? row.get(column.name()) != null && !column.isNumbered()
                    : columns.contains(column.name());
            if (wanted) {
                values.put(column.name(), row.get(column.name()));
            }
        }
        List<RowPart> places = columns.stream()
                .map(name -> RowPart.of(table, name))
                .filter(part -> !part.isColumn())
                .toList();
        values.putAll(RowPart.of(places, row).asMap());
        return literals(Row.of(values));
    }

    void replaceItems(Field field, Items items, List<Integer> gone, List<String> added) {
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

    /** Some items stay; what stands between them, such as comments, stays with them. */
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

    void rows(
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

    static List<RowPart> parts(Table table, List<String> names) {
        return names.stream().map(name -> RowPart.of(table, name)).toList();
    }

    String shown(Table table, Change.Changed change) {
        String to = literals(RowPart.of(parts(table, change.columns()), change.after()));
        String key = table.keyColumns().size() == 1
                ? "key: " + literal(change.after().get(table.keyColumns().get(0))) + ", "
                : "";
        return "{" + key + name("from") + literals(RowPart.of(parts(table, change.columns()), change.before()))
                + ", to: " + to + "}";
    }

    /** JSON puts all names and texts in quotes. */
    String literal(@Nullable Object value) {
        String text = DocumentWriter.value(value);
        boolean quoted = value == null || value instanceof Number || value instanceof Boolean || text.startsWith("\"");
        return json && !quoted ? '"' + text + '"' : text;
    }

    String literals(Row row) {
        return row.columns().stream()
                .map(column -> name(column) + literal(row.get(column)))
                .collect(Collectors.joining(", ", "{", "}"));
    }

    String name(String name) {
        return (json ? '"' + name + '"' : DocumentWriter.value(name)) + ": ";
    }
}
