package dev.zabbet.expect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * What should be stored in a table. Each method looks at the table as it is at that moment and throws an
 * {@link AssertionError} if the expectation does not hold; otherwise it returns this, so that expectations can be
 * chained.
 *
 * <p>A row is given as a {@link Row} or a map (only the columns named count), as an object (all its properties count),
 * as text in a notation (a table in Markdown), or as a list of these. Values are compared as the column's type:
 * {@code 2}, {@code "2"} and {@code 2.00} are the same number.
 *
 * <p>Immutable: {@link #where} returns another expectation.
 */
public final class TableExpectation {
    private final Store store;
    private final Table table;
    private final long variation;
    private final Condition where;
    private final String whereText;

    private TableExpectation(Store store, Table table, long variation, Condition where, String whereText) {
        this.store = store;
        this.table = table;
        this.variation = variation;
        this.where = where;
        this.whereText = whereText;
    }

    /** Begins an expectation on all rows of a table; {@code Stage.expect} is the usual way. */
    public static TableExpectation on(Store store, String table, long variation) {
        return new TableExpectation(store, store.schema().require(table), variation, Condition.ALL, "");
    }

    /**
     * Looks only at rows in which a column holds a value; for null, in which it is null.
     *
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     */
    public TableExpectation where(String column, @Nullable Object value) {
        Column found = table.requireColumn(column);
        Object canonical = ExpectedRow.canonical(table, found, value);
        String text = found.name() + (value == null ? " is null" : " = " + Text.cell(canonical));
        return new TableExpectation(
                store,
                table,
                variation,
                where.and(new Condition.Equal(found.name(), canonical)),
                whereText.isEmpty() ? " where " + text : whereText + " and " + text);
    }

    /** Expects that each of these rows is stored, a row of its own for each; others may be stored too. */
    public TableExpectation holds(Object... rows) {
        compare(false, rows);
        return this;
    }

    /** Expects that these rows are stored and no others. */
    public TableExpectation holdsOnly(Object... rows) {
        compare(true, rows);
        return this;
    }

    /** Expects that no stored row is like one of these. */
    public TableExpectation holdsNoneOf(Object... rows) {
        List<ExpectedRow> unwanted = required(rows);
        List<Row> stored = store.rows(table, where);
        List<Row> hits = new ArrayList<>();
        for (Row row : stored) {
            if (unwanted.stream().anyMatch(u -> u.matches(row))) {
                hits.add(row);
            }
        }
        if (!hits.isEmpty()) {
            Report report =
                    new Report(place() + " holds " + Words.count(hits.size(), "row") + " that should not be there.");
            report.rows(table, hits, columns(unwanted), "stored");
            throw report.failure(variation);
        }
        return this;
    }

    /** Expects that so many rows are stored. */
    public TableExpectation count(long rows) {
        List<Row> stored = store.rows(table, where);
        if (stored.size() != rows) {
            Report report =
                    new Report(place() + " holds " + Words.count(stored.size(), "row") + "; " + rows + " expected.");
            report.rows(table, stored, shortColumns(), "stored");
            report.compare(rows + " rows", stored.size() + " rows");
            throw report.failure(variation);
        }
        return this;
    }

    /** Expects that no row is stored. */
    public TableExpectation empty() {
        return count(0);
    }

    private void compare(boolean only, Object... rows) {
        List<ExpectedRow> expected = required(rows);
        List<Row> stored = store.rows(table, where);
        Pairing pairing = new Pairing(expected, stored);
        if (pairing.isExact() && (!only || pairing.left.isEmpty())) {
            return;
        }
        Report report = new Report(headline(expected, stored, pairing, only));
        report.different(pairing.different, "stored");
        report.nowhere(pairing.unpaired, "no row like this is stored");
        if (only) {
            report.rows(table, pairing.left, columns(expected), "stored beyond those expected");
        }
        report.note(Words.count(stored.size(), "row") + " looked at, "
                + (expected.size() - pairing.different.size() - pairing.unpaired.size()) + " as expected.");
        throw report.failure(variation);
    }

    private String headline(List<ExpectedRow> expected, List<Row> stored, Pairing pairing, boolean only) {
        if (stored.isEmpty()) {
            return place() + " holds no row; " + expected.size() + " expected.";
        }
        int off = pairing.different.size() + pairing.unpaired.size();
        List<String> faults = new ArrayList<>();
        if (off > 0) {
            String nature = pairing.unpaired.isEmpty()
                    ? "stored with other values"
                    : pairing.different.isEmpty() ? "not stored" : "not stored like that";
            faults.add(off + " of " + Words.count(expected.size(), "expected row") + (off == 1 ? " is " : " are ")
                    + nature);
        }
        if (only && !pairing.left.isEmpty()) {
            faults.add(Words.count(pairing.left.size(), "row") + (pairing.left.size() == 1 ? " is" : " are")
                    + " stored beyond those expected");
        }
        return place() + ": " + Words.and(faults) + ".";
    }

    private List<ExpectedRow> required(Object... rows) {
        List<ExpectedRow> expected = ExpectedRow.of(table, rows);
        if (expected.isEmpty()) {
            throw new ZabbetException(
                    "No row was given to expect in " + table.name() + ". To expect that there is none, say empty().");
        }
        return expected;
    }

    /** The columns that the expectation is about, or a few that tell rows apart. */
    private List<String> columns(List<ExpectedRow> rows) {
        Set<String> columns = new LinkedHashSet<>();
        rows.forEach(row -> row.columns().forEach(c -> columns.add(c.name())));
        return columns.isEmpty() ? shortColumns() : List.copyOf(columns);
    }

    private List<String> shortColumns() {
        return table.columnNames().stream()
                .filter(c -> !table.keyColumns().contains(c))
                .limit(4)
                .toList();
    }

    private String place() {
        return table.name() + whereText;
    }
}
