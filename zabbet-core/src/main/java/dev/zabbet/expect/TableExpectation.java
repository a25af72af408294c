package dev.zabbet.expect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.report.ExpectedRow;
import dev.zabbet.internal.report.Pairing;
import dev.zabbet.internal.report.Report;
import dev.zabbet.internal.report.RowFilter;
import dev.zabbet.internal.report.SoftDeletion;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
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
    private static final int MOST_DUPLICATES = 10;

    private final TableComparison comparison = new TableComparison(this);
    final Store store;
    final Table table;
    final long variation;
    final Look look;

    /**
     * Which rows are looked at, and what of them counts.
     *
     * @param where which rows
     * @param text the same in words, after the table's name
     * @param selected the columns of expected rows that count; null if all do
     * @param order the columns to order by; none if the order does not count
     * @param most the number of rows at which the order is cut; null for all
     * @param strict whether a column has to keep values just as they are given
     */
    record Look(
            Condition where,
            String text,
            @Nullable Set<String> selected,
            List<String> order,
            @Nullable Integer most,
            boolean strict) {
        static final Look ALL = new Look(Condition.all(), "", null, List.of(), null, false);
    }

    private TableExpectation(Store store, Table table, long variation, Look look) {
        this.store = store;
        this.table = table;
        this.variation = variation;
        this.look = look;
    }

    /**
     * Begins an expectation on all rows of a table; {@code Stage.expect} is the usual way.
     *
     * @param store the store that is asked
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param variation the number that reports name
     * @return the expectation, to be gone on with
     */
    public static TableExpectation on(Store store, String table, long variation) {
        return new TableExpectation(store, store.schemaNow().require(table), variation, Look.ALL);
    }

    private TableExpectation with(Look other) {
        return new TableExpectation(store, table, variation, other);
    }

    /**
     * Looks only at rows in which a column holds a value; for null, in which it is null. The value may be one of the
     * matchers {@code notNull}, {@code below}, {@code upTo}, {@code above}, {@code from},
     * {@code otherThan}, {@code between}, {@code oneOf} and {@code like} of {@link Expected}; the database looks for it.
     *
     * @param column the column's name
     * @param value the value, in any form that the column can hold; null for SQL's NULL
     * @return another expectation, on these only; this one stays as it is
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     * @throws ZabbetException for another matcher, or a value that the column can never hold
     */
    public TableExpectation where(String column, @Nullable Object value) {
        RowFilter wanted = RowFilter.of(table, column, value);
        return looking(
                look.where.and(wanted.condition()),
                look.text.isEmpty() ? " where " + wanted.text() : look.text + " and " + wanted.text());
    }

    /**
     * Looks also at rows in which a column holds a value, beside those looked at already; as {@link #where}.
     *
     * @param column the column's name
     * @param value the value, in any form that the column can hold; null for SQL's NULL
     * @return another expectation, on these only; this one stays as it is
     */
    public TableExpectation orWhere(String column, @Nullable Object value) {
        if (look.where.equals(Condition.all())) {
            throw new ZabbetException("orWhere(\"" + column + "\", …) adds to a where(…); call that first.");
        }
        RowFilter wanted = RowFilter.of(table, column, value);
        return looking(look.where.or(wanted.condition()), look.text + " or " + wanted.text());
    }

    private TableExpectation looking(Condition at, String text) {
        return with(new Look(at, text, look.selected, look.order, look.most, look.strict));
    }

    /**
     * Takes a value for the same only if its column keeps it just as it is given. Otherwise a time that is finer than the
     * column's precision equals what the database keeps of it, and a text that is shorter than its column's fixed width
     * what is filled up with blanks; a report says so.
     *
     * @return another expectation, on these only; this one stays as it is
     */
    public TableExpectation strictly() {
        return with(new Look(look.where, look.text, look.selected, look.order, look.most, true));
    }

    /**
     * Compares only these columns of expected rows: of an object, for example, not all its properties.
     *
     * @param columns at least one
     * @return another expectation, on these only; this one stays as it is
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     * @throws IllegalArgumentException if no column is named
     */
    public TableExpectation select(String... columns) {
        if (columns.length == 0) {
            throw new IllegalArgumentException("select() of " + table.name()
                    + " names no column, so that nothing would count. Its columns are "
                    + String.join(", ", table.columnNames()) + ".");
        }
        Set<String> names = new LinkedHashSet<>();
        for (String column : columns) {
            names.add(table.requireColumn(column).name());
        }
        return with(new Look(
                look.where, look.text, Collections.unmodifiableSet(names), look.order, look.most, look.strict));
    }

    /**
     * Counts all columns of expected rows but these.
     *
     * @param columns at least one
     * @return another expectation, on these only; this one stays as it is
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     * @throws IllegalArgumentException if no column is named, or none would be left
     */
    public TableExpectation ignoring(String... columns) {
        if (columns.length == 0) {
            throw new IllegalArgumentException("ignoring() of " + table.name() + " names no column.");
        }
        Set<String> names = new LinkedHashSet<>(table.columnNames());
        for (String column : columns) {
            names.remove(table.requireColumn(column).name());
        }
        if (names.isEmpty()) {
            throw new IllegalArgumentException("ignoring(" + String.join(", ", columns) + ") leaves no column of "
                    + table.name() + " that counts. To count rows, call count(n).");
        }
        return select(names.toArray(String[]::new));
    }

    /**
     * Looks at the rows in the order of these columns; prefix a column with '-' for descending order. Nulls come first.
     *
     * @param columns the columns' names, each with a minus before it for descending order
     * @return another expectation, on these only; this one stays as it is
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     */
    public TableExpectation orderedBy(String... columns) {
        List<String> names = new ArrayList<>();
        for (String column : columns) {
            boolean down = column.startsWith("-");
            names.add((down ? "-" : "")
                    + table.requireColumn(down ? column.substring(1) : column).name());
        }
        return with(new Look(look.where, look.text, look.selected, List.copyOf(names), look.most, look.strict));
    }

    /**
     * Looks at the first rows only.
     *
     * @param rows how many, at least 1
     * @return another expectation, on these only; this one stays as it is
     * @throws ZabbetException without {@link #orderedBy}: rows of a table have no order of their own
     * @throws IllegalArgumentException if {@code rows} is less than 1
     */
    public TableExpectation first(int rows) {
        if (rows < 1) {
            throw new IllegalArgumentException("first(" + rows + ") of " + table.name()
                    + ": the number of rows must be at least 1. To expect none, call empty().");
        }
        if (look.order.isEmpty()) {
            throw new ZabbetException("first(" + rows + ") of " + table.name()
                    + " needs an order: rows of a table have none of their own, so that it could be others next time. Say"
                    + " orderedBy(…) first.");
        }
        return with(new Look(look.where, look.text, look.selected, look.order, rows, look.strict));
    }

    /**
     * Expects these rows and no others, in this order.
     *
     * @param rows the expected rows: maps, {@link dev.zabbet.row.Row}s, objects, or a table in Markdown; at least one
     * @return this expectation
     * @throws ZabbetException without {@link #orderedBy}
     */
    public TableExpectation holdsInOrder(Object... rows) {
        if (look.order.isEmpty()) {
            throw new ZabbetException("holdsInOrder(…) of " + table.name()
                    + " needs an order: rows of a table have none of their own. Say orderedBy(…) first.");
        }
        List<ExpectedRow> expected = comparison.required(rows);
        List<Row> stored = comparison.stored();
        for (int i = 0; i < Math.max(expected.size(), stored.size()); i++) {
            boolean there = i < expected.size() && i < stored.size();
            if (there && expected.get(i).matches(stored.get(i))) {
                continue;
            }
            String what = TableComparison.outOfOrder(i, expected.size(), stored.size());
            Report report = new Report(comparison.place() + comparison.ordered() + ": " + what);
            if (there) {
                ExpectedRow row = expected.get(i);
                report.different(
                        List.of(new Pairing.Pair(row, stored.get(i), row.differences(stored.get(i)))),
                        "row " + (i + 1));
            }
            report.rows(table, stored, comparison.columns(expected), "stored, in this order");
            if (expected.size() == stored.size() && new Pairing(expected, stored).isExact()) {
                report.note("The same rows are stored, in another order.");
            }
            throw report.failure(variation);
        }
        return this;
    }

    /**
     * Expects that no two rows hold the same in these columns; rows with a null among them do not count.
     *
     * @param columns the columns' names
     * @return this expectation
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     */
    public TableExpectation unique(String... columns) {
        List<String> names =
                Stream.of(columns).map(c -> table.requireColumn(c).name()).toList();
        Map<Row, List<Row>> alike = new LinkedHashMap<>();
        for (Row row : comparison.stored()) {
            Object[] held = names.stream().map(row::get).toArray();
            if (Stream.of(held).noneMatch(value -> value == null)) {
                alike.computeIfAbsent(Row.of(names, held), r -> new ArrayList<>())
                        .add(row);
            }
        }
        List<Row> twice = alike.values().stream()
                .filter(rows -> rows.size() > 1)
                .flatMap(List::stream)
                .limit(MOST_DUPLICATES)
                .toList();
        if (!twice.isEmpty()) {
            Report report = new Report(
                    comparison.place() + ": " + String.join(", ", names) + " should be different in each row.");
            List<String> shown = new ArrayList<>(names);
            shown.addAll(comparison.shortColumns());
            report.rows(table, twice, shown.stream().distinct().toList(), "alike");
            throw report.failure(variation);
        }
        return this;
    }

    /**
     * {@return the only row looked at}
     *
     * @throws AssertionError unless there is exactly one
     */
    public Row one() {
        List<Row> stored = comparison.stored();
        if (stored.size() != 1) {
            count(1);
        }
        return stored.get(0);
    }

    /**
     * {@return the row with this key}
     *
     * @param key the key; of a key of several columns a list in key order, or a row
     * @throws AssertionError if there is none
     */
    public Row one(Object key) {
        Condition condition = look.where;
        Map<String, Object> keyed = ExpectedRow.key(table, key);
        for (Map.Entry<String, Object> part : keyed.entrySet()) {
            condition = condition.and(new Condition.Equal(part.getKey(), part.getValue()));
        }
        List<Row> found = store.rows(table, condition);
        if (found.isEmpty()) {
            Report report = new Report("No row of " + comparison.place() + " has the key "
                    + keyed.values().stream().map(Text::cell).collect(Collectors.joining("/")) + ".");
            report.rows(table, store.rows(table, look.where), comparison.shortColumns(), "stored");
            throw report.failure(variation);
        }
        return found.get(0);
    }

    /**
     * Expects that the row with this key is there and soft-deleted: the column that says when is not null. That is the one
     * column of times that may be null and is named like deleted, removed, cancelled or archived.
     *
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @return this expectation
     * @throws ZabbetException if no column, or more than one, is named like that
     */
    public TableExpectation softDeleted(Object key) {
        return softDeleted(key, SoftDeletion.column(table));
    }

    /**
     * Expects that the row with this key is there and soft-deleted by this column.
     *
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @param column the column's name
     * @return this expectation
     */
    public TableExpectation softDeleted(Object key, String column) {
        String name = table.requireColumn(column).name();
        Row row = one(key);
        if (row.get(name) == null) {
            Report report =
                    new Report(table.name() + " " + Text.cell(key) + " is not soft-deleted: its " + name + " is null.");
            report.compare(name + " not null", name + " null");
            throw report.failure(variation);
        }
        return this;
    }

    /**
     * Expects that each of these rows is stored, a row of its own for each; others may be stored too.
     *
     * @param rows the expected rows: maps, {@link dev.zabbet.row.Row}s, objects, or a table in Markdown; at least one
     * @return this expectation
     */
    public TableExpectation holds(Object... rows) {
        comparison.compare(false, rows);
        return this;
    }

    /**
     * Expects that these rows are stored and no others.
     *
     * @param rows the expected rows: maps, {@link dev.zabbet.row.Row}s, objects, or a table in Markdown; at least one
     * @return this expectation
     */
    public TableExpectation holdsOnly(Object... rows) {
        comparison.compare(true, rows);
        return this;
    }

    /**
     * Expects that no stored row is like one of these.
     *
     * @param rows the expected rows: maps, {@link dev.zabbet.row.Row}s, objects, or a table in Markdown; at least one
     * @return this expectation
     */
    public TableExpectation holdsNoneOf(Object... rows) {
        List<ExpectedRow> unwanted = comparison.required(rows);
        List<Row> stored = comparison.stored();
        List<Row> hits = new ArrayList<>();
        for (Row row : stored) {
            if (unwanted.stream().anyMatch(u -> u.matches(row))) {
                hits.add(row);
            }
        }
        if (!hits.isEmpty()) {
            Report report = new Report(
                    comparison.place() + " holds " + Words.count(hits.size(), "row") + " that should not be there.");
            report.rows(table, hits, comparison.columns(unwanted), "stored");
            throw report.failure(variation);
        }
        return this;
    }

    /**
     * Expects this number of stored rows.
     *
     * @param rows how many, from 0
     * @return this expectation
     */
    public TableExpectation count(long rows) {
        List<Row> stored = comparison.stored();
        if (stored.size() != rows) {
            Report report = new Report(
                    comparison.place() + " holds " + Words.count(stored.size(), "row") + "; " + rows + " expected.");
            report.rows(table, stored, comparison.shortColumns(), "stored");
            report.compare(rows + " rows", stored.size() + " rows");
            throw report.failure(variation);
        }
        return this;
    }

    /**
     * Expects that no row is stored.
     *
     * @return this expectation
     */
    public TableExpectation empty() {
        return count(0);
    }

    /** {@return the stored rows that this is about, in order} */
    public List<Row> rows() {
        return List.copyOf(comparison.stored());
    }

    /**
     * Expects these rows and no others, very many of them: both sides are read in key order, one row at a time, and never
     * held. Each expected row gives its key, and they come in its order.
     *
     * @param rows in any form that {@link #holds} takes; the stream is closed
     * @return this expectation
     * @throws ZabbetException if a row is out of order or without its key, or the key is one that databases order each in
     *     their own way
     */
    public TableExpectation holdsOnlyInKeyOrder(Stream<?> rows) {
        return comparison.holdsOnlyInKeyOrder(rows);
    }
}
