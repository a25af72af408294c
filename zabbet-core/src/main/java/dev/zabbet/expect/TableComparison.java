package dev.zabbet.expect;

import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.Counted;
import dev.zabbet.internal.report.ExpectedRow;
import dev.zabbet.internal.report.InKeyOrder;
import dev.zabbet.internal.report.Pairing;
import dev.zabbet.internal.report.Report;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.store.Condition;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Compares the rows of a table with expected ones, and says what differs. */
final class TableComparison {
    private static final int MOST_DUPLICATES = 10;

    private final TableLook expectation;

    TableComparison(TableLook expectation) {
        this.expectation = expectation;
    }

    void holdsOnlyInKeyOrder(Stream<?> rows) {
        try (rows) {
            InKeyOrder compared = new InKeyOrder(
                    expectation.store,
                    expectation.table,
                    rows.iterator(),
                    expectation.look.counted(),
                    expectation.look.strict());
            expectation.store.readStreaming(expectation.table, expectation.look.where(), compared::stored);
            compared.end();
            if (compared.isExact()) {
                return;
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
            report.rows(expectation.table, compared.beyond, columns(List.of()), "stored beyond those expected");
            report.more(compared.beyondRows, compared.beyond.size());
            report.note(Words.count(compared.storedRows, "row") + " looked at, in key order, beside "
                    + Words.count(compared.expectedRows(), "expected row") + ".");
            throw report.failure(expectation.variation);
        }
    }

    private static void fault(List<String> faults, long rows, String of, String what) {
        if (rows > 0) {
            faults.add(
                    Words.count(rows, "row") + (of.isEmpty() ? "" : " " + of) + (rows == 1 ? " is " : " are ") + what);
        }
    }

    void compare(boolean only, Object... rows) {
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
            report.rows(expectation.table, pairing.left, columns(expected), "stored beyond those expected");
        }
        if (!pairing.isOptimal) {
            report.note("There are too many rows to find the best pairs; each was set beside the nearest one left.");
        }
        report.note(Words.count(stored.size(), "row") + " looked at, "
                + (expected.size() - pairing.different.size() - pairing.unpaired.size()) + " as expected.");
        throw report.failure(expectation.variation);
    }

    private String headline(List<ExpectedRow> expected, List<Row> stored, Pairing pairing, boolean only) {
        if (stored.isEmpty()) {
            return place() + " holds no row; " + expected.size() + " expected.";
        }
        int off = pairing.different.size() + pairing.unpaired.size();
        List<String> faults = new ArrayList<>();
        if (off > 0) {
            String nature;
            if (pairing.unpaired.isEmpty()) {
                nature = "stored with other values";
            } else if (pairing.different.isEmpty()) {
                nature = "not stored";
            } else {
                nature = "not stored like that";
            }
            faults.add(off + " of " + Words.count(expected.size(), "expected row") + (off == 1 ? " is " : " are ")
                    + nature);
        }
        if (only && !pairing.left.isEmpty()) {
            faults.add(Words.count(pairing.left.size(), "row") + (pairing.left.size() == 1 ? " is" : " are")
                    + " stored beyond those expected");
        }
        return place() + ": " + Words.and(faults) + ".";
    }

    List<ExpectedRow> required(Object... rows) {
        List<ExpectedRow> expected = ExpectedRow.of(expectation.table, rows);
        Counted counted = expectation.look.counted();
        if (!counted.equals(Counted.ALL)) {
            expected = expected.stream().map(row -> row.only(counted)).toList();
        }
        expected = expected.stream()
                .map(row -> (expectation.look.strict() ? row.strictly() : row).resolved(expectation.store))
                .toList();
        if (expected.isEmpty()) {
            throw new IllegalArgumentException(
                    "No row was given to expect in " + expectation.table.name() + ". To expect none, call empty().");
        }
        return expected;
    }

    /** The columns that the expectation is about, or a few that tell rows apart. */
    List<String> columns(List<ExpectedRow> rows) {
        Set<String> columns = new LinkedHashSet<>();
        rows.forEach(row -> row.parts().forEach(part -> columns.add(part.name())));
        return columns.isEmpty() ? shortColumns() : List.copyOf(columns);
    }

    /** The columns by which rows are looked for, and the first few that are not the key. */
    List<String> shortColumns() {
        Set<String> columns = new LinkedHashSet<>(expectation.look.where().columns());
        columns.removeAll(expectation.table.keyColumns());
        expectation.table.columnNames().stream()
                .filter(c -> !expectation.table.keyColumns().contains(c))
                .limit(4)
                .forEach(columns::add);
        return List.copyOf(columns);
    }

    List<Row> stored() {
        List<Row> rows = expectation.store.rows(expectation.table, expectation.look.where());
        if (expectation.look.order().isEmpty()) {
            return rows;
        }
        List<Row> sorted = new ArrayList<>(rows);
        sorted.sort((a, b) -> {
            for (String column : expectation.look.order()) {
                boolean down = column.startsWith("-");
                String name = down ? column.substring(1) : column;
                RowPart part = RowPart.of(expectation.table, name);
                int compared = compare(part.in(a), part.in(b));
                if (compared != 0) {
                    return down ? -compared : compared;
                }
            }
            return 0;
        });
        return expectation.look.most() != null && sorted.size() > expectation.look.most()
                ? sorted.subList(0, expectation.look.most())
                : sorted;
    }

    static int compare(@Nullable Object a, @Nullable Object b) {
        if (a == null || b == null) {
            if (a == b) {
                return 0;
            }
            if (a == null) {
                return -1;
            }
            return 1;
        }
        return Ordering.compare(a, b);
    }

    String ordered() {
        return " by " + String.join(", ", expectation.look.order())
                + (expectation.look.most() == null ? "" : ", the first " + expectation.look.most());
    }

    String place() {
        return expectation.table.name() + expectation.look.text();
    }

    /** Returns what is wrong at the first place where rows in order differ. */
    static String outOfOrder(int at, int expected, int stored) {
        if (at < expected && at < stored) {
            return "row " + (at + 1) + " is another one than expected.";
        }
        return at < expected
                ? "there are " + stored + " rows; row " + (at + 1) + " is missing."
                : Words.count(stored - at, "row") + " more than expected.";
    }

    void inOrder(Object... rows) {
        List<ExpectedRow> expected = required(rows);
        List<Row> stored = stored();
        for (int i = 0; i < Math.max(expected.size(), stored.size()); i++) {
            boolean there = i < expected.size() && i < stored.size();
            if (there && expected.get(i).matches(stored.get(i))) {
                continue;
            }
            String what = outOfOrder(i, expected.size(), stored.size());
            Report report = new Report(place() + ordered() + ": " + what);
            if (there) {
                ExpectedRow row = expected.get(i);
                report.different(
                        List.of(new Pairing.Pair(row, stored.get(i), row.differences(stored.get(i)))),
                        "row " + (i + 1));
            }
            report.rows(expectation.table, stored, columns(expected), "stored, in this order");
            if (expected.size() == stored.size() && new Pairing(expected, stored).isExact()) {
                report.note("The same rows are stored, in another order.");
            }
            throw report.failure(expectation.variation);
        }
    }

    void unique(List<String> names) {
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
            report.rows(expectation.table, twice, shown.stream().distinct().toList(), "alike");
            throw report.failure(expectation.variation);
        }
    }

    Row one() {
        List<Row> stored = stored();
        if (stored.size() != 1) {
            count(1);
        }
        return stored.get(0);
    }

    Row one(Object key) {
        Condition condition = expectation.look.where();
        Map<String, Object> keyed = ExpectedRow.key(expectation.table, key);
        for (Map.Entry<String, Object> part : keyed.entrySet()) {
            condition = condition.and(new Condition.Equal(part.getKey(), part.getValue()));
        }
        List<Row> found = expectation.store.rows(expectation.table, condition);
        if (found.isEmpty()) {
            Report report = new Report("No row of " + place() + " has the key "
                    + keyed.values().stream().map(Text::cell).collect(Collectors.joining("/")) + ".");
            report.rows(
                    expectation.table,
                    expectation.store.rows(expectation.table, expectation.look.where()),
                    shortColumns(),
                    "stored");
            throw report.failure(expectation.variation);
        }
        return found.get(0);
    }

    void softDeleted(Object key, String name) {
        Row row = one(key);
        if (row.get(name) == null) {
            Report report = new Report(expectation.table.name() + " " + Text.cell(key) + " is not soft-deleted: its "
                    + name + " is null.");
            report.compare(name + " not null", name + " null");
            throw report.failure(expectation.variation);
        }
    }

    void noneOf(Object... rows) {
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
            report.rows(expectation.table, hits, columns(unwanted), "stored");
            throw report.failure(expectation.variation);
        }
    }

    void count(long rows) {
        List<Row> stored = stored();
        if (stored.size() != rows) {
            Report report =
                    new Report(place() + " holds " + Words.count(stored.size(), "row") + "; " + rows + " expected.");
            report.rows(expectation.table, stored, shortColumns(), "stored");
            report.compare(rows + " rows", stored.size() + " rows");
            throw report.failure(expectation.variation);
        }
    }
}
