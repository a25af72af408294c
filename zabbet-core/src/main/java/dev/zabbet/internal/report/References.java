package dev.zabbet.internal.report;

import dev.zabbet.internal.document.DocumentPlaces;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.plan.StoredDocuments;
import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.math.BigDecimal;
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
            StoredDocuments.of(store).each(table, (column, documents) -> documents
                    .references()
                    .forEach(reference -> requireIntact(store, variation, table, column, reference)));
        }
    }

    /** Requires that the keys in documents are those of rows. */
    private static void requireIntact(
            Store store, long variation, Table table, Column column, DocumentRecipe.Reference reference) {
        Table target = store.schema().require(reference.table());
        Column key = target.requireColumn(target.keyColumns().get(0));
        Set<String> keys = new HashSet<>();
        store.read(target, Condition.all(), row -> keys.add(keyText(Objects.requireNonNull(row.get(key.name())))));
        List<Row> lost = new ArrayList<>();
        store.read(table, Condition.all(), row -> {
            Object document = PlainDocument.read(row.get(column.name()));
            boolean leadsNowhere = DocumentPlaces.meant(document, reference.path()).stream()
                    .map(path -> path.in(document))
                    .anyMatch(held -> held != null && !keys.contains(keyText(held)));
            if (leadsNowhere) {
                lost.add(row);
            }
        });
        if (!lost.isEmpty()) {
            Report report = new Report(Words.count(lost.size(), "row") + " of " + table.name()
                    + (lost.size() == 1 ? " refers" : " refer") + " to no " + target.name() + " (" + column.name()
                    + reference.path() + " → " + target.name() + "." + key.name() + ").");
            List<String> shown = Stream.concat(table.keyColumns().stream(), Stream.of(column.name()))
                    .toList();
            report.rows(table, lost, shown, "without the row they refer to");
            throw report.failure(variation);
        }
    }

    /** A number in a document is the same as that of a column, and a UUID is written as text. */
    private static String keyText(Object held) {
        return held instanceof BigDecimal number ? number.stripTrailingZeros().toPlainString() : held.toString();
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
