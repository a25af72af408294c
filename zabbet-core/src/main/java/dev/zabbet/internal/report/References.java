package dev.zabbet.internal.report;

import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/** Looks whether references lead to rows. */
public final class References {
    private References() {}

    /**
     * Requires that every reference of every table leads to a row.
     *
     * @throws AssertionError if one does not
     */
    public static void requireIntact(Store store, long variation) {
        for (Table table : store.schema().tables()) {
            for (Reference reference : table.references()) {
                List<Row> lost = lost(store, table, reference);
                if (!lost.isEmpty()) {
                    Report report = new Report(Words.count(lost.size(), "row") + " of " + table.name()
                            + (lost.size() == 1 ? " refers" : " refer") + " to no " + reference.target() + " ("
                            + reference.describe() + ").");
                    List<String> shown = Stream.concat(table.keyColumns().stream(), reference.columns().stream())
                            .distinct()
                            .toList();
                    report.rows(table, lost, shown, "without the row they refer to");
                    throw report.failure(variation);
                }
            }
        }
    }

    private static List<Row> lost(Store store, Table table, Reference reference) {
        Table target = store.schema().require(reference.target());
        Set<Row> keys = new HashSet<>();
        store.read(target, Condition.all(), row -> keys.add(held(row, reference.targetColumns())));
        List<Row> lost = new ArrayList<>();
        store.read(table, Condition.all(), row -> {
            boolean refers = reference.columns().stream().map(row::get).noneMatch(Objects::isNull);
            if (refers && !keys.contains(held(row, reference.columns()))) {
                lost.add(row);
            }
        });
        return lost;
    }

    /** The values by their places, so that numbers are compared by value whatever their columns are named. */
    private static Row held(Row row, List<String> columns) {
        List<String> places =
                IntStream.range(0, columns.size()).mapToObj(String::valueOf).toList();
        return Row.of(places, columns.stream().map(row::get).toArray());
    }
}
