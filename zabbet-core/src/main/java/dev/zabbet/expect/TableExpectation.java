package dev.zabbet.expect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Ordering;
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

    private final Store store;
    private final Table table;
    private final long variation;
    private final Look look;

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
    private record Look(
            Condition where,
            String text,
            @Nullable Set<String> selected,
            List<String> order,
            @Nullable Integer most,
            boolean strict) {
        static final Look ALL = new Look(Condition.ALL, "", null, List.of(), null, false);
    }

    private TableExpectation(Store store, Table table, long variation, Look look) {
        this.store = store;
        this.table = table;
        this.variation = variation;
        this.look = look;
    }

    /** Begins an expectation on all rows of a table; {@code Stage.expect} is the usual way. */
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
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     * @throws ZabbetException for another matcher, or a value that the column can never hold
     */
    public TableExpectation where(String column, @Nullable Object value) {
        Wanted wanted = Wanted.of(table, column, value);
        return looking(
                look.where.and(wanted.condition()),
                look.text.isEmpty() ? " where " + wanted.text() : look.text + " and " + wanted.text());
    }

    /** Looks also at rows in which a column holds a value, beside those looked at already; as {@link #where}. */
    public TableExpectation orWhere(String column, @Nullable Object value) {
        if (look.where.equals(Condition.ALL)) {
            throw new ZabbetException("orWhere(\"" + column + "\", …) adds to a where(…); say that first.");
        }
        Wanted wanted = Wanted.of(table, column, value);
        return looking(look.where.or(wanted.condition()), look.text + " or " + wanted.text());
    }

    private TableExpectation looking(Condition at, String text) {
        return with(new Look(at, text, look.selected, look.order, look.most, look.strict));
    }

    /**
     * Takes a value for the same only if its column keeps it just as it is given. Otherwise a time that is finer than the
     * column's precision equals what the database keeps of it, and a text that is shorter than its column's fixed width
     * what is filled up with blanks; a report says so.
     */
    public TableExpectation strictly() {
        return with(new Look(look.where, look.text, look.selected, look.order, look.most, true));
    }

    /**
     * Counts only these columns of expected rows: of an object, say, not all its properties.
     *
     * @param columns at least one
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
                    + table.name() + " that counts. To count rows, say count(n).");
        }
        return select(names.toArray(String[]::new));
    }

    /**
     * Looks at the rows in the order of these columns; a minus before a name turns it round. Nulls come first.
     *
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
     * @throws ZabbetException without {@link #orderedBy}: rows of a table have no order of their own
     * @throws IllegalArgumentException if {@code rows} is less than 1
     */
    public TableExpectation first(int rows) {
        if (rows < 1) {
            throw new IllegalArgumentException("first(" + rows + ") of " + table.name()
                    + ": the number of rows must be at least 1. To expect that there is none, say empty().");
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
     * @throws ZabbetException without {@link #orderedBy}
     */
    public TableExpectation holdsInOrder(Object... rows) {
        if (look.order.isEmpty()) {
            throw new ZabbetException("holdsInOrder(…) of " + table.name()
                    + " needs an order: rows of a table have none of their own. Say orderedBy(…) first.");
        }
        List<ExpectedRow> expected = required(rows);
        List<Row> stored = stored();
        for (int i = 0; i < Math.max(expected.size(), stored.size()); i++) {
            boolean there = i < expected.size() && i < stored.size();
            if (there && expected.get(i).matches(stored.get(i))) {
                continue;
            }
            Report report = new Report(place() + ordered() + ": "
                    + (there
                            ? "row " + (i + 1) + " is another one than expected."
                            : i < expected.size()
                                    ? "there are " + stored.size() + " rows; row " + (i + 1) + " is missing."
                                    : Words.count(stored.size() - i, "row") + " more than expected."));
            if (there) {
                ExpectedRow row = expected.get(i);
                report.different(
                        List.of(new Pairing.Pair(row, stored.get(i), row.differences(stored.get(i)))),
                        "row " + (i + 1));
            }
            report.rows(table, stored, columns(expected), "stored, in this order");
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
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     */
    public TableExpectation unique(String... columns) {
        List<String> names =
                Stream.of(columns).map(c -> table.requireColumn(c).name()).toList();
        Map<Row, List<Row>> alike = new LinkedHashMap<>();
        for (Row row : stored()) {
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
            Report report = new Report(place() + ": " + String.join(", ", names) + " should be different in each row.");
            List<String> shown = new ArrayList<>(names);
            shown.addAll(shortColumns());
            report.rows(table, twice, shown.stream().distinct().toList(), "alike");
            throw report.failure(variation);
        }
        return this;
    }

    /**
     * Returns the only row looked at.
     *
     * @throws AssertionError if there is none, or there are others
     */
    public Row one() {
        List<Row> stored = stored();
        if (stored.size() != 1) {
            count(1);
        }
        return stored.get(0);
    }

    /**
     * Returns the row with this key.
     *
     * @param key the key; of a key of several columns a list in key order, or a row
     * @throws AssertionError if there is none
     */
    public Row one(Object key) {
        Condition condition = look.where;
        Map<String, Object> keyed = FootprintExpectation.key(table, key);
        for (Map.Entry<String, Object> part : keyed.entrySet()) {
            condition = condition.and(new Condition.Equal(part.getKey(), part.getValue()));
        }
        List<Row> found = store.rows(table, condition);
        if (found.isEmpty()) {
            Report report = new Report("No row of " + place() + " has the key "
                    + keyed.values().stream().map(Text::cell).collect(Collectors.joining("/")) + ".");
            report.rows(table, store.rows(table, look.where), shortColumns(), "stored");
            throw report.failure(variation);
        }
        return found.get(0);
    }

    /**
     * Expects that the row with this key is there and soft-deleted: the column that says when is not null. That is the one
     * column of times that may be null and is named like deleted, removed, cancelled or archived.
     *
     * @throws ZabbetException if no column, or more than one, is named like that
     */
    public TableExpectation softDeleted(Object key) {
        return softDeleted(key, SoftDeletion.column(table));
    }

    /** Expects that the row with this key is there and soft-deleted by this column. */
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
        List<Row> stored = stored();
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
        List<Row> stored = stored();
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

    /**
     * Expects these rows and no others, very many of them: both sides are read in key order, one row at a time, and never
     * held. Each expected row gives its key, and they come in its order.
     *
     * @param rows in any form that {@link #holds} takes; the stream is closed
     * @throws ZabbetException if a row is out of order or without its key, or the key is one that databases order each in
     *     their own way
     */
    public TableExpectation holdsOnlyInKeyOrder(Stream<?> rows) {
        try (rows) {
            InKeyOrder compared = new InKeyOrder(
                    store,
                    table,
                    rows.iterator(),
                    column -> look.selected == null || look.selected.contains(column.name()),
                    look.strict);
            store.readLong(table, look.where, compared::stored);
            compared.end();
            if (compared.isExact()) {
                return this;
            }
            List<String> faults = new ArrayList<>();
            fault(faults, compared.differentRows, "of those expected", "stored with other values");
            fault(faults, compared.missingRows, "of those expected", "not stored");
            fault(faults, compared.beyondRows, "", "stored beyond those expected");
            Report report = new Report(place() + ": " + Words.and(faults) + ".");
            report.different(compared.different, "stored");
            report.more(compared.differentRows, compared.different.size());
            report.nowhere(compared.missing, "no row with this key is stored", List.of());
            report.more(compared.missingRows, compared.missing.size());
            report.rows(table, compared.beyond, columns(List.of()), "stored beyond those expected");
            report.more(compared.beyondRows, compared.beyond.size());
            report.note(Words.count(compared.storedRows, "row") + " looked at, in key order, beside "
                    + Words.count(compared.expectedRows(), "expected row") + ".");
            throw report.failure(variation);
        }
    }

    private static void fault(List<String> faults, long rows, String of, String what) {
        if (rows > 0) {
            faults.add(
                    Words.count(rows, "row") + (of.isEmpty() ? "" : " " + of) + (rows == 1 ? " is " : " are ") + what);
        }
    }

    /** Returns the stored rows that this is about, in order. */
    public List<Row> rows() {
        return List.copyOf(stored());
    }

    private void compare(boolean only, Object... rows) {
        List<ExpectedRow> expected = required(rows);
        List<Row> stored = stored();
        Pairing pairing = new Pairing(expected, stored);
        if (pairing.isExact() && (!only || pairing.left.isEmpty())) {
            return;
        }
        Report report = new Report(headline(expected, stored, pairing, only));
        report.different(pairing.different, "stored");
        report.nowhere(pairing.unpaired, "no row like this is stored", stored);
        if (only) {
            report.rows(table, pairing.left, columns(expected), "stored beyond those expected");
        }
        if (!pairing.isOptimal) {
            report.note("There are too many rows to find the best pairs; each was set beside the nearest one left.");
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
        Set<String> selected = look.selected;
        if (selected != null) {
            expected = expected.stream()
                    .map(row -> row.only(column -> selected.contains(column.name())))
                    .toList();
        }
        expected = expected.stream()
                .map(row -> (look.strict ? row.strictly() : row).resolved(store))
                .toList();
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

    /** The columns by which rows are looked for, and the first few that are not the key. */
    private List<String> shortColumns() {
        Set<String> columns = new LinkedHashSet<>(look.where.columns());
        columns.removeAll(table.keyColumns());
        table.columnNames().stream()
                .filter(c -> !table.keyColumns().contains(c))
                .limit(4)
                .forEach(columns::add);
        return List.copyOf(columns);
    }

    private List<Row> stored() {
        List<Row> rows = store.rows(table, look.where);
        if (look.order.isEmpty()) {
            return rows;
        }
        List<Row> sorted = new ArrayList<>(rows);
        sorted.sort((a, b) -> {
            for (String column : look.order) {
                boolean down = column.startsWith("-");
                String name = down ? column.substring(1) : column;
                int compared = compare(a.get(name), b.get(name));
                if (compared != 0) {
                    return down ? -compared : compared;
                }
            }
            return 0;
        });
        return look.most != null && sorted.size() > look.most ? sorted.subList(0, look.most) : sorted;
    }

    private static int compare(@Nullable Object a, @Nullable Object b) {
        return a == null || b == null ? (a == b ? 0 : a == null ? -1 : 1) : Ordering.compare(a, b);
    }

    private String ordered() {
        return " by " + String.join(", ", look.order) + (look.most == null ? "" : ", the first " + look.most);
    }

    private String place() {
        return table.name() + look.text;
    }
}
