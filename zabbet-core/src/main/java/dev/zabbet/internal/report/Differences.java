package dev.zabbet.internal.report;

import dev.zabbet.internal.document.RowPart;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * How expected rows differ from those found, told apart from any report: for programs that mend one of the two.
 *
 * @param pairs for each expected row, in the order given, the row that was most likely meant
 * @param beyond the rows found that no expected row stands for
 */
public record Differences(List<Pair> pairs, List<Row> beyond) {
    /** Copies the lists. */
    public Differences {
        pairs = List.copyOf(pairs);
        beyond = List.copyOf(beyond);
    }

    /**
     * An expected row.
     *
     * @param found the row that was most likely meant; empty if none is like it
     * @param columns the columns that differ, by name; empty if the row is as expected
     */
    public record Pair(Optional<Row> found, List<String> columns) {
        /** Copies the list. */
        public Pair {
            columns = List.copyOf(columns);
        }
    }

    /**
     * Pairs expected rows with rows found.
     *
     * @param expected rows in any form that {@code TableExpectation.holds} takes
     */
    public static Differences of(Table table, List<Row> found, Object... expected) {
        List<ExpectedRow> rows = ExpectedRow.of(table, expected);
        Pairing pairing = new Pairing(rows, found);
        List<Pair> pairs = new ArrayList<>();
        for (int i = 0; i < rows.size(); i++) {
            Optional<Row> partner = pairing.partner(i);
            ExpectedRow row = rows.get(i);
            pairs.add(new Pair(
                    partner,
                    partner.map(row::differences).orElse(List.of()).stream()
                            .map(RowPart::name)
                            .toList()));
        }
        return new Differences(pairs, pairing.left);
    }
}
