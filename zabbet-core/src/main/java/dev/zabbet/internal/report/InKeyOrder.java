package dev.zabbet.internal.report;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RowAtHand;
import dev.zabbet.store.Store;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.Iterator;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Compares very many rows, both sides in key order, one row of each at a time: what is held does not grow with the rows.
 * Only the first differences are kept for the report.
 */
public final class InKeyOrder {
    /** Keys that every database orders alike; text is ordered by collations. */
    private static final Set<Kind> ORDERED =
            EnumSet.of(Kind.INTEGER, Kind.DECIMAL, Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT, Kind.TIME);

    private static final int KEPT = 10;

    private final Store store;
    private final boolean strict;
    private final Table table;
    private final Iterator<?> expected;
    private final Counted counts;
    private final int[] key;
    private final @Nullable Object[][] keys; // of the current row and of the one before, in turn
    private @Nullable Object given; // the current expected row
    private @Nullable Object @Nullable [] nextKey;
    private @Nullable List<String> names; // of the columns of the current expected row, which those below belong to
    private Column[] columns = new Column[0];
    private int[] positions = new int[0];
    private boolean[] counted = new boolean[0];
    private int[] keyAt = new int[0];
    private Row wanted = Row.of(List.of());
    private long taken;

    public final List<Pairing.Pair> different = new ArrayList<>();
    public final List<ExpectedRow> missing = new ArrayList<>();
    public final List<Row> beyond = new ArrayList<>();
    public long differentRows;
    public long missingRows;
    public long beyondRows;
    public long storedRows;

    /**
     * @param expected rows in key order, each with its key
     * @param counts which columns count
     */
    public InKeyOrder(Store store, Table table, Iterator<?> expected, Counted counts, boolean strict) {
        if (counts.hasPlaces()) {
            throw new ZabbetException("Rows of " + table.name()
                    + " are compared in key order by whole columns; places in documents cannot be selected or ignored"
                    + " there. Use holdsOnly.");
        }
        this.store = store;
        this.strict = strict;
        this.table = table;
        this.expected = expected;
        this.counts = counts;
        this.key = table.keyColumns().stream().mapToInt(table::requirePosition).toArray();
        this.keys = new @Nullable Object[2][key.length];
        for (String name : table.keyColumns()) {
            Column column = table.requireColumn(name);
            if (!ORDERED.contains(column.type().kind())) {
                throw new ZabbetException("Rows of " + table.name() + " cannot be compared in key order: " + name
                        + " is " + column.type().sqlName()
                        + ", which each database orders in its own way. Use holdsOnly.");
            }
        }
        if (key.length == 0) {
            throw new ZabbetException(
                    "Rows of " + table.name() + " cannot be compared in key order: it has no key. Use holdsOnly.");
        }
        advance();
    }

    public long expectedRows() {
        return taken;
    }

    public boolean isExact() {
        return differentRows == 0 && missingRows == 0 && beyondRows == 0;
    }

    /** Takes the next stored row. */
    public void stored(RowAtHand row) {
        storedRows++;
        int order = 1;
        while (given != null && (order = compare(Objects.requireNonNull(nextKey), row)) < 0) {
            missing();
            advance();
        }
        if (given == null || order > 0) {
            beyondRows++;
            if (beyond.size() < KEPT) {
                beyond.add(row.row());
            }
            return;
        }
        if (!matches(row)) {
            differentRows++;
            if (different.size() < KEPT) {
                ExpectedRow expectedRow = atHand();
                Row found = row.row();
                different.add(new Pairing.Pair(expectedRow, found, expectedRow.differences(found)));
            }
        }
        advance();
    }

    private boolean matches(RowAtHand row) {
        for (int i = 0; i < columns.length; i++) {
            if (counted[i] && !matches(i, row)) {
                return false;
            }
        }
        return true;
    }

    /** Most values are equal, and are not looked at any closer. */
    private boolean matches(int at, RowAtHand row) {
        Object expectedValue = wanted.at(at);
        if (row.holds(positions[at], expectedValue)) {
            return !strict || !isKeptOtherwise(at, row.at(positions[at]));
        }
        if (expectedValue instanceof Matchers.OfRow other) {
            expectedValue = other.resolved(store);
        }
        Object found = row.at(positions[at]);
        return expectedValue instanceof Matcher matcher
                ? matcher.matches(columns[at].type(), found, row.row())
                : isAsStored(columns[at], expectedValue, found) && (!strict || !isKeptOtherwise(at, found));
    }

    /** Most values are given in the form that they are read in; only others are brought into it. */
    private boolean isAsStored(Column column, @Nullable Object given, @Nullable Object found) {
        return ValueEquality.asStored(column.type(), ExpectedRow.canonical(table, column, given), found);
    }

    private boolean isKeptOtherwise(int at, @Nullable Object found) {
        return StoredForm.of(columns[at], wanted.at(at), found).isPresent();
    }

    /** Returns the current expected row as reports take it. */
    private ExpectedRow atHand() {
        ExpectedRow row =
                ExpectedRow.of(table, Objects.requireNonNull(given)).get(0).only(withKey());
        return (strict ? row.strictly() : row).resolved(store);
    }

    /** The key counts in any case: by it a report names rows. */
    private Counted withKey() {
        List<RowPart> parts = table.columns().stream()
                .map(RowPart::of)
                .filter(part -> counts.counts(part) || table.keyColumns().contains(part.name()))
                .toList();
        return Counted.ALL.select(parts);
    }

    /** Ends it: what is expected still was not stored. */
    public void end() {
        while (given != null) {
            missing();
            advance();
        }
    }

    private void missing() {
        missingRows++;
        if (missing.size() < KEPT) {
            missing.add(atHand());
        }
    }

    private void advance() {
        if (!expected.hasNext()) {
            given = null;
            return;
        }
        Object one = Objects.requireNonNull(expected.next(), "An expected row is null.");
        given = one;
        taken++;
        Row row = one instanceof Row asRow
                ? asRow
                : ExpectedRow.of(table, one).get(0).plain();
        if (!row.columns().equals(names)) {
            read(row.columns());
        }
        wanted = row;
        @Nullable Object[] found = nextKey == keys[0] ? keys[1] : keys[0];
        for (int i = 0; i < key.length; i++) {
            Object part = keyAt[i] < 0 ? null : row.at(keyAt[i]);
            if (part == null || part instanceof Matcher) {
                throw new ZabbetException("Row " + taken + " of those expected in " + table.name()
                        + " does not give its key (" + String.join(", ", table.keyColumns())
                        + "), by which they are compared in order.");
            }
            found[i] = ExpectedRow.canonical(table, columns[keyAt[i]], part);
        }
        @Nullable Object[] before = nextKey;
        if (before != null && compare(before, found) >= 0) {
            throw new ZabbetException("Row " + taken + " of those expected in " + table.name()
                    + " is not behind the one before it by " + String.join(", ", table.keyColumns())
                    + ": " + Words.cut(row.toString(), 120) + ". Sort them by the key, or use holdsOnly.");
        }
        nextKey = found;
    }

    /** Finds the columns that expected rows give; usually all give the same. */
    private void read(List<String> given) {
        names = given;
        columns = given.stream().map(table::requireColumn).toArray(Column[]::new);
        positions = given.stream()
                .mapToInt(
                        name -> table.requirePosition(table.requireColumn(name).name()))
                .toArray();
        counted = new boolean[columns.length];
        keyAt = new int[key.length];
        Arrays.fill(keyAt, -1);
        for (int i = 0; i < columns.length; i++) {
            counted[i] = counts.counts(RowPart.of(columns[i]));
            int part = table.keyColumns().indexOf(columns[i].name());
            if (part >= 0) {
                keyAt[part] = i;
                counted[i] &= strict || columns[i].type().kind() != Kind.INTEGER; // found equal when rows were paired
            }
        }
    }

    private int compare(@Nullable Object[] a, RowAtHand b) {
        for (int i = 0; i < key.length; i++) {
            int compared = compare(a[i], b.at(key[i]));
            if (compared != 0) {
                return compared;
            }
        }
        return 0;
    }

    private int compare(@Nullable Object[] a, @Nullable Object[] b) {
        for (int i = 0; i < key.length; i++) {
            int compared = compare(a[i], b[i]);
            if (compared != 0) {
                return compared;
            }
        }
        return 0;
    }

    private static int compare(@Nullable Object a, @Nullable Object b) {
        return a instanceof Long x && b instanceof Long y
                ? Long.compare(x, y)
                : Ordering.compare(Objects.requireNonNull(a), Objects.requireNonNull(b));
    }
}
