package dev.zabbet.expect;

import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.ExpectedRow;
import dev.zabbet.internal.report.Ignored;
import dev.zabbet.internal.report.OpenChanges;
import dev.zabbet.internal.report.Pairing;
import dev.zabbet.internal.report.Report;
import dev.zabbet.internal.report.SoftDeletion;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Text;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Store;
import dev.zabbet.type.Kind;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Compares what an act left with what was expected, and keeps account of what was spoken of. */
final class FootprintComparison {
    private final Store store;
    private final Schema schema;
    private final boolean strict;
    private final List<Change> all;
    private final OpenChanges open;
    private final long variation;

    private FootprintComparison(Store store, List<Change> changes, OpenChanges open, long variation, boolean strict) {
        this.store = store;
        this.schema = store.schema();
        this.strict = strict;
        this.all = changes;
        this.open = open;
        this.variation = variation;
    }

    static FootprintComparison on(Store store, List<Change> changes, long variation) {
        List<Change> all = List.copyOf(changes);
        return new FootprintComparison(store, all, OpenChanges.of(all), variation, false);
    }

    FootprintComparison added(String table, Object... rows) {
        rows(schema.require(table), Change.Added.class, "added", rows);
        return this;
    }

    List<Change> changes() {
        return List.copyOf(all);
    }

    List<String> columnsLeft(Change.Changed change) {
        return open.columns(change);
    }

    FootprintComparison removed(String table, Object... rows) {
        Table found = schema.require(table);
        Object[] asRows = new Object[rows.length];
        for (int i = 0; i < rows.length; i++) {
            boolean single = found.keyColumns().size() == 1
                    && JavaValue.kindOf(rows[i].getClass()) != Kind.OTHER
                    && !(rows[i] instanceof String text && text.contains("|"));
            asRows[i] = single ? Row.row(found.keyColumns().get(0), rows[i]) : rows[i];
        }
        rows(found, Change.Removed.class, "removed", asRows);
        return this;
    }

    FootprintComparison changed(String table, Object key, Object after) {
        Table found = schema.require(table);
        Map<String, Object> keyed = ExpectedRow.key(found, key);
        Optional<Change> change = all.stream()
                .filter(c -> c.table().equals(found))
                .filter(c -> keyed.entrySet().stream()
                        .allMatch(k -> ValueEquality.values(c.row().get(k.getKey()), k.getValue())))
                .findFirst();
        String name =
                found.name() + " " + keyed.values().stream().map(Text::cell).collect(Collectors.joining("/"));
        ExpectedRow expected = single(found, after);
        if (change.isPresent() && change.get() instanceof Change.Changed changed) {
            require(changed, expected, name);
            open.close(changed, expected);
            return this;
        }
        String instead = change.map(Change::word).map("was "::concat).orElse("was not changed");
        Report report = new Report(name + " " + instead + "; expected that it changes to " + expected.describe() + ".");
        report.compare(expected.describe(), instead);
        throw fail(report);
    }

    FootprintComparison changed(String table, Object key, Object before, Object after) {
        Table found = schema.require(table);
        ExpectedRow earlier = single(found, before);
        Map<String, Object> keyed = ExpectedRow.key(found, key);
        for (Change.Changed change : changed(found, keyed)) {
            List<RowPart> differences = earlier.differences(change.before());
            if (!differences.isEmpty()) {
                Report report = new Report(found.name() + " "
                        + keyed.values().stream().map(Text::cell).collect(Collectors.joining("/"))
                        + " was changed, but not from " + earlier.describe() + ".");
                report.different(List.of(new Pairing.Pair(earlier, change.before(), differences)), "before");
                throw fail(report);
            }
        }
        changed(table, key, after);
        changed(found, keyed).forEach(change -> open.close(change, earlier));
        return this;
    }

    private List<Change.Changed> changed(Table table, Map<String, Object> keyed) {
        return all.stream()
                .filter(c -> c instanceof Change.Changed && c.table().equals(table))
                .map(Change.Changed.class::cast)
                .filter(c -> keyed.entrySet().stream()
                        .allMatch(k -> ValueEquality.values(c.row().get(k.getKey()), k.getValue())))
                .toList();
    }

    FootprintComparison softDeleted(String table, Object key) {
        Table found = schema.require(table);
        String column = SoftDeletion.column(found);
        return changed(table, key, Row.row(column, null), Row.row(column, Expected.notNull()));
    }

    FootprintComparison counts(String table, int added, int changed, int removed) {
        Table found = schema.require(table);
        List<Change> touched = all.stream().filter(c -> c.table().equals(found)).toList();
        long leftAdded = touched.stream().filter(Change.Added.class::isInstance).count();
        long leftChanged =
                touched.stream().filter(Change.Changed.class::isInstance).count();
        long leftRemoved = touched.size() - leftAdded - leftChanged;
        if (leftAdded != added || leftChanged != changed || leftRemoved != removed) {
            Report report =
                    new Report("The act left " + leftAdded + " added, " + leftChanged + " changed and " + leftRemoved
                            + " removed rows of " + found.name() + "; " + added + ", " + changed + " and " + removed
                            + " expected.");
            report.changes("what it left in " + found.name(), touched);
            report.compare(added + "/" + changed + "/" + removed, leftAdded + "/" + leftChanged + "/" + leftRemoved);
            throw report.failure(variation);
        }
        open.close(touched);
        return this;
    }

    FootprintComparison ignoring(String... names) {
        if (names.length == 0) {
            throw new IllegalArgumentException(
                    "ignoring() names nothing; it takes tables and columns: ignoring(\"*.updated_at\").");
        }
        Ignored ignored = new Ignored(schema, names);
        List<Change> rest = all.stream().filter(ignored::counts).toList();
        return new FootprintComparison(store, rest, open.without(ignored), variation, strict);
    }

    FootprintComparison strictly() {
        return new FootprintComparison(store, all, open, variation, true);
    }

    FootprintComparison changed(String table, Object after) {
        Table found = schema.require(table);
        ExpectedRow expected = single(found, after);
        List<Change.Changed> changed = of(found, Change.Changed.class);
        List<Row> rows = changed.stream().map(Change.Changed::after).toList();
        Pairing pairing = new Pairing(List.of(expected), rows);
        if (!pairing.isExact()) {
            Report report = new Report(
                    rows.isEmpty()
                            ? "No " + found.name() + " was changed; expected one that now holds " + expected.describe()
                                    + "."
                            : "No changed " + found.name() + " now holds " + expected.describe() + ".");
            report.different(pairing.different, "after");
            report.compare(expected.describe(), "(none)");
            throw fail(report);
        }
        open.close(changed.get(pairing.exact().get(0)), expected);
        return this;
    }

    FootprintComparison nothingElse() {
        List<Change> rows = open.rows();
        List<OpenChanges.Beyond> beyond = open.beyond();
        if (rows.isEmpty() && beyond.isEmpty()) {
            return this;
        }
        String more = OpenChanges.Beyond.count(beyond);
        Report report = new Report(
                rows.isEmpty()
                        ? inExpectedRows(beyond) + " changed in " + more + " that nobody expected."
                        : "The act left " + Words.count(rows.size(), "change") + " that nobody expected"
                                + (beyond.isEmpty() ? "." : ", and " + more + " of expected rows changed as well."));
        if (!rows.isEmpty()) {
            report.changes("not expected", rows);
            report.compare("(nothing else)", describe(rows));
        }
        if (!beyond.isEmpty()) {
            report.beyond(beyond);
        }
        throw report.failure(variation);
    }

    private static String inExpectedRows(List<OpenChanges.Beyond> rows) {
        Change.Changed first = rows.get(0).change();
        return rows.size() == 1 ? Report.name(first.table(), first.after()) : rows.size() + " expected rows";
    }

    FootprintComparison unchanged() {
        if (!all.isEmpty()) {
            Report report =
                    new Report("The act should have left nothing; it left " + Words.count(all.size(), "change") + ".");
            report.changes("what it left", all);
            report.compare("(nothing)", describe(all));
            throw report.failure(variation);
        }
        return this;
    }

    FootprintComparison unchanged(String table) {
        Table found = schema.require(table);
        List<Change> touched = all.stream().filter(c -> c.table().equals(found)).toList();
        if (!touched.isEmpty()) {
            Report report = new Report("The act should have left " + found.name() + " as it was; it left "
                    + Words.count(touched.size(), "change") + " there.");
            report.changes("what it left in " + found.name(), touched);
            report.compare("(nothing)", describe(touched));
            throw report.failure(variation);
        }
        return this;
    }

    private <C extends Change> void rows(Table table, Class<C> kind, String verb, Object... rows) {
        List<ExpectedRow> expected =
                kind == Change.Added.class ? resolved(ExpectedRow.ofAdded(table, rows)) : read(table, rows);
        if (expected.isEmpty()) {
            throw new IllegalArgumentException("No row was given: " + verb + "(\"" + table.name()
                    + "\", …) needs at least one. To expect none, call unchanged(\"" + table.name() + "\").");
        }
        List<C> candidates = of(table, kind);
        List<Row> found = candidates.stream().map(Change::row).toList();
        Pairing pairing = new Pairing(expected, found);
        if (!pairing.isExact()) {
            int off = pairing.different.size() + pairing.unpaired.size();
            String headline = found.isEmpty()
                    ? "No " + table.name() + " was " + verb + "; " + expected.size() + " expected."
                    : off + " of " + Words.count(expected.size(), "row") + " of " + table.name()
                            + " expected to be " + verb
                            + (off == 1 ? " was " : " were ")
                            + (pairing.unpaired.isEmpty() ? verb + " with other values." : "not.");
            Report report = new Report(headline);
            report.different(pairing.different, verb);
            report.nowhere(pairing.unpaired, "expected to be " + verb, found);
            throw fail(report);
        }
        open.close(pairing.exact().stream().map(candidates::get).toList());
    }

    private <C extends Change> List<C> of(Table table, Class<C> kind) {
        return open.rows().stream()
                .filter(c -> c.table().equals(table))
                .filter(kind::isInstance)
                .map(kind::cast)
                .toList();
    }

    private void require(Change.Changed changed, ExpectedRow expected, String name) {
        List<RowPart> differences = expected.differences(changed.after());
        if (!differences.isEmpty()) {
            Report report = new Report(name + " was changed, but not to what was expected.");
            report.changedDifferently(changed, expected, differences);
            throw fail(report);
        }
    }

    AssertionError failure(String headline, String expected, String found, @Nullable Throwable cause) {
        Report report = new Report(headline);
        report.compare(expected, found);
        AssertionError failure = fail(report);
        if (cause != null) {
            failure.initCause(cause);
        }
        return failure;
    }

    private AssertionError fail(Report report) {
        if (all.isEmpty()) {
            report.note("The act left nothing at all.");
        } else {
            report.changes("what the act left", all);
        }
        return report.failure(variation);
    }

    private List<ExpectedRow> read(Table table, Object... rows) {
        return resolved(ExpectedRow.of(table, rows));
    }

    private List<ExpectedRow> resolved(List<ExpectedRow> rows) {
        return rows.stream()
                .map(row -> (strict ? row.strictly() : row).resolved(store))
                .toList();
    }

    private ExpectedRow single(Table table, Object row) {
        List<ExpectedRow> rows = read(table, row);
        if (rows.size() != 1) {
            throw new IllegalArgumentException(
                    "changed(\"" + table.name() + "\", …) needs one row, and got " + rows.size() + ".");
        }
        return rows.get(0);
    }

    private static String describe(List<Change> changes) {
        return changes.stream().map(Report::describe).collect(Collectors.joining("\n"));
    }
}
