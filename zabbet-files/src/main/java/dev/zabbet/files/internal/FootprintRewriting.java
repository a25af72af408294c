package dev.zabbet.files.internal;

import dev.zabbet.Footprint;
import dev.zabbet.expect.FootprintExpectation;
import dev.zabbet.files.internal.DocumentNode.Field;
import dev.zabbet.files.internal.DocumentNode.Fields;
import dev.zabbet.files.internal.DocumentNode.Items;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.Differences;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Rewrites what a document says of a footprint. */
@SuppressWarnings("ReferenceEquality") // a row of a change is found as itself
final class FootprintRewriting {
    private final Rewriting rewriting;

    FootprintRewriting(Rewriting rewriting) {
        this.rewriting = rewriting;
    }

    void footprint(DocumentExpectation.OfFootprint expected, Footprint footprint, ParsedDocument document) {
        FootprintExpectation counted = expected.ignoring().isEmpty()
                ? footprint.expect()
                : footprint.expect().ignoring(expected.ignoring().toArray(String[]::new));
        List<Change> left = new ArrayList<>(counted.changes());
        for (DocumentExpectation.OfChanges one : expected.tables()) {
            Table table = rewriting.expectation.table(one.table(), one.place());
            one.counts().ifPresent(counts -> counts(table, counts, counted.changes()));
            for (Field field : one.written().fields()) {
                switch (field.name().text()) {
                    case "added" ->
                        rewriting.rows(field, table, one.added(), Change.Added.class, left, expected.nothingElse());
                    case "removed" ->
                        rewriting.rows(field, table, one.removed(), Change.Removed.class, left, expected.nothingElse());
                    case "changed" -> changes(field, table, one, left, expected.nothingElse() ? counted : null);
                    default -> {}
                }
            }
            if (one.counts().isPresent()) {
                left.removeIf(change -> change.table().equals(table));
            }
        }
        if (expected.nothingElse()) {
            addTables(left);
        }
    }

    /** Mends the numbers of rows; one that is not written is written if it is not none. */
    private void counts(Table table, DocumentExpectation.OfCounts counts, List<Change> changes) {
        Fields fields = counts.written();
        Map<String, @Nullable Object> more = new LinkedHashMap<>();
        for (String word : DocumentExpectation.OfCounts.WORDS) {
            int found = (int) changes.stream()
                    .filter(change ->
                            change.table().equals(table) && change.word().equals(word))
                    .count();
            Optional<DocumentNode> written = fields.fields().stream()
                    .filter(f -> f.name().text().equals(word))
                    .map(Field::value)
                    .findFirst();
            if (written.isPresent()) {
                rewriting.set(written.get(), String.valueOf(found), counts.of(word), found);
            } else if (found > 0) {
                more.put(word, found);
            }
        }
        addColumns(fields, Row.of(more));
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
            Row to = rewriting.expectation.row(table, change.to());
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
                List<RowPart> said =
                        new ArrayList<>(Rewriting.parts(table, change.to().columns()));
                change.from().ifPresent(from -> said.addAll(Rewriting.parts(table, from.columns())));
                List<RowPart> more = Rewriting.parts(table, nothingElse.columnsLeft(found.get())).stream()
                        .filter(part -> said.stream().noneMatch(named -> named.covers(part)))
                        .toList();
                change.written().fields().stream()
                        .filter(part -> part.name().text().equals("to") && part.value() instanceof Fields)
                        .forEach(part -> addColumns(
                                (Fields) part.value(),
                                RowPart.of(more, found.get().after())));
            }
            for (Field part : change.written().fields()) {
                Row row = part.name().text().equals("from")
                        ? found.get().before()
                        : found.get().after();
                Row said = part.name().text().equals("from") ? change.from().orElse(change.to()) : change.to();
                if (part.value() instanceof Fields fields
                        && List.of("from", "to").contains(part.name().text())) {
                    Differences.of(table, List.of(row), rewriting.expectation.row(table, said))
                            .pairs()
                            .get(0)
                            .columns()
                            .forEach(column -> rewriting.value(fields, table, column, row));
                    if (Differences.of(table, List.of(row), rewriting.expectation.row(table, said))
                            .pairs()
                            .get(0)
                            .found()
                            .isEmpty()) {
                        Rewriting.names(fields, table).forEach(column -> rewriting.value(fields, table, column, row));
                    }
                }
            }
        }
        List<String> added = new ArrayList<>();
        for (Change other : List.copyOf(left)) {
            if (nothingElse != null
                    && other instanceof Change.Changed changed
                    && changed.table().equals(table)) {
                added.add(rewriting.shown(table, changed));
                left.remove(other);
            }
        }
        rewriting.replaceItems(field, (Items) field.value(), gone, added);
    }

    /** Adds columns to those that a row is expected to have. */
    private void addColumns(Fields fields, Row more) {
        if (more.columns().isEmpty()) {
            return;
        }
        if (fields.fields().isEmpty()) {
            rewriting.edits.replace(
                    rewriting.edits.at(fields.spot()),
                    rewriting.edits.at(rewriting.text.end(fields).spot()),
                    rewriting.literals(more));
            return;
        }
        Field last = fields.fields().get(fields.fields().size() - 1);
        if (rewriting.text.end(fields).bracketed()) {
            int end = rewriting.edits.at(rewriting.text.end(last.value()).spot());
            String added = rewriting.literals(more);
            rewriting.edits.replace(end, end, ", " + added.substring(1, added.length() - 1));
            return;
        }
        String indent = " ".repeat(last.name().spot().column() - 1);
        int line = rewriting.text.end(last.value()).spot().line();
        more.columns()
                .forEach(column -> rewriting.edits.addLine(
                        line, indent + rewriting.name(column) + rewriting.literal(more.get(column))));
    }

    private static boolean isLike(Table table, Row found, Object expected) {
        Differences.Pair pair =
                Differences.of(table, List.of(found), expected).pairs().get(0);
        return pair.found().isPresent() && pair.columns().isEmpty();
    }

    private Object keyRow(Table table, Object written) {
        Object key = rewriting.expectation.key(table, written);
        return key instanceof Row row ? row : Row.row(table.keyColumns().get(0), key);
    }

    /** What happened in tables, or in ways, that the document does not speak of. */
    private void addTables(List<Change> left) {
        Map<String, Map<String, List<String>>> more = new LinkedHashMap<>();
        for (Change change : left) {
            String kind = change.word();
            String row = change instanceof Change.Changed changed
                    ? rewriting.shown(change.table(), changed)
                    : rewriting.shown(change.table(), change.row(), List.of());
            more.computeIfAbsent(change.table().name(), t -> new LinkedHashMap<>())
                    .computeIfAbsent(kind, k -> new ArrayList<>())
                    .add(row);
        }
        Fields all = (Fields) ((Fields) java.util.Objects.requireNonNull(rewriting.root))
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
            if (rewriting.text.end(all).bracketed()
                    || known.filter(f -> rewriting.text.end(f).bracketed()).isPresent()) {
                return; // a footprint on one line is left to its author
            }
            Fields beside = known.orElse(all);
            Field first = beside.fields().get(0);
            String indent = " ".repeat(first.name().spot().column() - 1);
            int last = rewriting
                    .text
                    .end(beside.fields().get(beside.fields().size() - 1).value())
                    .spot()
                    .line();
            String inner = indent;
            if (known.isEmpty()) {
                rewriting.edits.addLine(last, indent + table + ":");
                inner = indent + "  ";
            }
            for (Map.Entry<String, List<String>> kind : kinds.entrySet()) {
                rewriting.edits.addLine(last, inner + kind.getKey() + ":");
                for (String row : kind.getValue()) {
                    rewriting.edits.addLine(last, inner + "  - " + row);
                }
            }
        });
    }
}
