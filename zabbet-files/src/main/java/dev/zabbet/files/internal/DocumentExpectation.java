package dev.zabbet.files.internal;

import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.Expected;
import dev.zabbet.expect.FootprintExpectation;
import dev.zabbet.expect.TableExpectation;
import dev.zabbet.files.internal.DocumentNode.Fields;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.Matchers;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.seed.SourceLocation;
import dev.zabbet.type.Kind;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.Period;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** The expectations of a document, as they are written; labels and times are worked out when they are checked. */
public final class DocumentExpectation {
    public static final List<String> WORDS = List.of(
            "where",
            "select",
            "ignoring",
            "strictly",
            "orderedBy",
            "first",
            "holds",
            "holdsOnly",
            "holdsNoneOf",
            "holdsInOrder",
            "count",
            "empty",
            "unique",
            "softDeleted");

    private final Stage stage;
    private final Instant now;

    DocumentExpectation(Stage stage, Optional<Instant> clock) {
        this.stage = stage;
        this.now = clock.orElse(stage.now());
    }

    /** What a table should hold. */
    public record OfTable(String table, Map<String, Object> said, Fields written, SourceLocation place) {}

    /** A row that should have changed; without a key any row will do. */
    record OfChange(Optional<Object> key, Optional<Row> from, Row to, Fields written) {}

    /** How many rows should have been added, changed and removed, with the number as it is written where it is. */
    public record OfCounts(int added, int changed, int removed, Fields written) {
        public static final List<String> WORDS = List.of("added", "changed", "removed");

        int of(String word) {
            if (word.equals("added")) {
                return added;
            }
            if (word.equals("changed")) {
                return changed;
            }
            return removed;
        }
    }

    /** What should have changed in a table. */
    public record OfChanges(
            String table,
            List<Row> added,
            List<OfChange> changed,
            List<Row> removed,
            Optional<OfCounts> counts,
            boolean unchanged,
            Fields written,
            SourceLocation place) {
        public static final List<String> WORDS = List.of("added", "changed", "removed", "counts", "unchanged");
    }

    /** A value that is equal to that of a column of another row, which is named by its key or its label. */
    record ColumnOfRow(String table, Object key, String column) {}

    /** What should have changed in all. */
    public record OfFootprint(
            List<OfChanges> tables, List<String> ignoring, boolean nothingElse, boolean unchanged, boolean strictly) {
        public static final OfFootprint NONE = new OfFootprint(List.of(), List.of(), false, false, false);

        /** Returns what both say. */
        public OfFootprint and(OfFootprint other) {
            List<OfChanges> both = new ArrayList<>(tables);
            both.addAll(other.tables);
            List<String> ignored = new ArrayList<>(ignoring);
            ignored.addAll(other.ignoring);
            return new OfFootprint(
                    both,
                    ignored,
                    nothingElse || other.nothingElse,
                    unchanged || other.unchanged,
                    strictly || other.strictly);
        }
    }

    public static void checkStored(Stage stage, Optional<Instant> clock, List<OfTable> expected) {
        DocumentExpectation check = new DocumentExpectation(stage, clock);
        List<Runnable> all = new ArrayList<>();
        for (OfTable one : expected) {
            Table table = check.table(one.table(), one.place());
            all.add(() -> check.placed(one.place(), () -> check.stored(table, one)));
        }
        Expected.together(all.toArray(Runnable[]::new));
    }

    public static void checkChanged(Stage stage, Optional<Instant> clock, OfFootprint expected, Footprint footprint) {
        new DocumentExpectation(stage, clock).changed(expected, footprint);
    }

    Table table(String name, SourceLocation place) {
        try {
            return stage.store().schemaNow().require(name);
        } catch (UnknownNameException e) {
            throw at(place, e);
        }
    }

    private static ZabbetException at(SourceLocation place, ZabbetException e) {
        return new ZabbetException(
                place.where() + ": " + e.getMessage() + (place.line().isEmpty() ? "" : "\n  | " + place.line()), e);
    }

    /** Adds the place to errors in the document; reports of expectations that fail stay as they are. */
    private void placed(SourceLocation place, Runnable check) {
        try {
            check.run();
        } catch (ZabbetException e) {
            throw at(place, e);
        } catch (IllegalArgumentException e) {
            throw at(place, new ZabbetException(String.valueOf(e.getMessage()), e));
        }
    }

    @SuppressWarnings("unchecked")
    private void stored(Table table, OfTable one) {
        Map<String, Object> said = one.said();
        TableExpectation all = about(table, one);
        List<Runnable> checks = new ArrayList<>();
        said.forEach((word, value) -> {
            switch (word) {
                case "holds" -> checks.add(() -> all.holds(rows(table, (List<Row>) value)));
                case "holdsOnly" ->
                    checks.add(() -> {
                        Object[] rows = rows(table, (List<Row>) value);
                        if (rows.length == 0) {
                            all.empty();
                        } else {
                            all.holdsOnly(rows);
                        }
                    });
                case "holdsNoneOf" -> checks.add(() -> all.holdsNoneOf(rows(table, (List<Row>) value)));
                case "holdsInOrder" -> checks.add(() -> all.holdsInOrder(rows(table, (List<Row>) value)));
                case "count" -> checks.add(() -> all.count((Integer) value));
                case "empty" -> checks.add(all::empty);
                case "unique" -> checks.add(() -> all.unique(((List<String>) value).toArray(String[]::new)));
                case "softDeleted" -> checks.add(() -> all.softDeleted(key(table, value)));
                default -> {}
            }
        });
        if (checks.isEmpty()) {
            throw new ZabbetException(
                    "Nothing is expected of " + table.name() + ". Say holds, holdsOnly, count or another.");
        }
        Expected.together(checks.toArray(Runnable[]::new));
    }

    /** Returns the expectation of the rows that are looked at. */
    TableExpectation about(Table table, OfTable one) {
        Map<String, Object> said = one.said();
        TableExpectation expectation = stage.expect(table.name());
        if (said.get("where") instanceof Row where) {
            for (String column : where.columns()) {
                expectation = expectation.where(column, value(table, column, where.get(column)));
            }
        }
        if (said.containsKey("strictly")) {
            expectation = expectation.strictly();
        }
        if (said.get("select") instanceof List<?> names) {
            expectation = expectation.select(names.toArray(String[]::new));
        }
        if (said.get("ignoring") instanceof List<?> names) {
            expectation = expectation.ignoring(names.toArray(String[]::new));
        }
        if (said.get("orderedBy") instanceof List<?> names) {
            expectation = expectation.orderedBy(names.toArray(String[]::new));
        }
        if (said.get("first") instanceof Integer first) {
            expectation = expectation.first(first);
        }
        return expectation;
    }

    private void changed(OfFootprint expected, Footprint footprint) {
        FootprintExpectation expectation = footprint.expect();
        if (expected.strictly()) {
            expectation = expectation.strictly();
        }
        if (!expected.ignoring().isEmpty()) {
            expectation = expectation.ignoring(expected.ignoring().toArray(String[]::new));
        }
        FootprintExpectation all = expectation;
        for (OfChanges changes : expected.tables()) {
            Table table = table(changes.table(), changes.place());
            placed(changes.place(), () -> changed(table, changes, all));
        }
        if (expected.unchanged()) {
            expectation.unchanged();
        }
        if (expected.nothingElse()) {
            expectation.nothingElse();
        }
    }

    private void changed(Table table, OfChanges changes, FootprintExpectation expectation) {
        if (!changes.added().isEmpty()) {
            expectation.added(table.name(), rows(table, changes.added()));
        }
        if (!changes.removed().isEmpty()) {
            expectation.removed(table.name(), rows(table, changes.removed()));
        }
        for (OfChange change : changes.changed()) {
            Row to = row(table, change.to());
            if (change.key().isEmpty()) {
                expectation.changed(table.name(), to);
            } else if (change.from().isPresent()) {
                expectation.changed(
                        table.name(),
                        key(table, change.key().get()),
                        row(table, change.from().get()),
                        to);
            } else {
                expectation.changed(table.name(), key(table, change.key().get()), to);
            }
        }
        changes.counts()
                .ifPresent(count -> expectation.counts(table.name(), count.added(), count.changed(), count.removed()));
        if (changes.unchanged()) {
            expectation.unchanged(table.name());
        }
    }

    Object[] rows(Table table, List<Row> rows) {
        return rows.stream().map(row -> (Object) row(table, row)).toArray();
    }

    Row row(Table table, Row written) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (String column : written.columns()) {
            values.put(column, value(table, column, written.get(column)));
        }
        return Row.of(values);
    }

    private @Nullable Object value(Table table, String name, @Nullable Object written) {
        return Matchers.AsWritten.of(table, name, meant(table, name, written));
    }

    private @Nullable Object meant(Table table, String column, @Nullable Object written) {
        if (written instanceof SeedValue.FromClock from) {
            LocalDateTime base = LocalDateTime.ofInstant(now, ZoneOffset.UTC);
            if (table.column(column).isEmpty()) { // in a document a time is text
                return base.plus(from.amount()).toInstant(ZoneOffset.UTC).toString();
            }
            boolean date = table.requireColumn(column).type().kind() == Kind.DATE;
            if (date && from.amount() instanceof Period) {
                return base.toLocalDate().plus(from.amount());
            }
            if (date) {
                return base.plus(from.amount()).toLocalDate();
            }
            return base.plus(from.amount());
        }
        if (written instanceof SeedValue.RowRef ref) {
            return referred(table, column, ref.label());
        }
        if (written instanceof SeedValue.Nested nested) {
            RowPart part = RowPart.of(table, column);
            if (part.column().type().kind() == Kind.JSON) {
                return Matchers.Document.of(inside(table, part, nested.value()));
            }
            throw new ZabbetException(table.name() + "." + column + ": " + nested.otherwise());
        }
        if (written instanceof ColumnOfRow other) {
            Table of = stage.schema().require(other.table());
            return Expected.equalToColumn(of.name(), key(of, other.key()), other.column());
        }
        return written;
    }

    /** What is expected at the places of a document. */
    private @Nullable Object inside(Table table, RowPart at, @Nullable Object written) {
        if (written instanceof Map<?, ?> map) {
            Map<String, @Nullable Object> meant = new LinkedHashMap<>();
            map.forEach((name, part) -> meant.put(
                    (String) name,
                    inside(table, new RowPart(at.column(), at.path().name((String) name)), part)));
            return meant;
        }
        if (written instanceof List<?> list) {
            List<@Nullable Object> meant = new ArrayList<>();
            for (int i = 0; i < list.size(); i++) {
                meant.add(inside(table, new RowPart(at.column(), at.path().at(i)), list.get(i)));
            }
            return meant;
        }
        return written instanceof SeedValue || written instanceof ColumnOfRow
                ? meant(table, at.name(), written)
                : written;
    }

    /** The value that a reference to a labelled row has; in a key column the labelled row's own. */
    private @Nullable Object referred(Table table, String column, String label) {
        if (!RowPart.of(table, column).isColumn()) {
            throw new ZabbetException(
                    "A label says which row a reference leads to, and " + column + " is a place in a document,"
                            + " of which no reference is known. Name the column that it should equal:"
                            + " {equalToColumn: {table: hut, row: " + label + ", column: id}}.");
        }
        String name = table.requireColumn(column).name();
        for (Reference reference : table.referencesOf(name)) {
            Optional<Row> row = stage.store().labelled(stage.schema().require(reference.target()), label);
            if (row.isPresent()) {
                return row.get()
                        .get(reference.targetColumns().get(reference.columns().indexOf(name)));
            }
        }
        Optional<Row> own = table.keyColumns().contains(name) ? stage.store().labelled(table, label) : Optional.empty();
        return own.orElseThrow(() -> new ZabbetException("No row that " + table.name() + "." + name
                        + " could refer to is labelled '" + label
                        + "'. Labels are known of rows that were loaded with them, and are still there."))
                .get(name);
    }

    Object key(Table table, Object written) {
        if (!(written instanceof SeedValue.RowRef ref)) {
            return written;
        }
        Row row = stage.store()
                .labelled(table, ref.label())
                .orElseThrow(() -> new ZabbetException("No row of " + table.name() + " is labelled '" + ref.label()
                        + "'. Labels are known of rows that were loaded with them, and are still there."));
        if (table.keyColumns().size() == 1) {
            return java.util.Objects.requireNonNull(row.get(table.keyColumns().get(0)));
        }
        Map<String, @Nullable Object> key = new LinkedHashMap<>();
        table.keyColumns().forEach(c -> key.put(c, row.get(c)));
        return Row.of(key);
    }
}
