package dev.zabbet.internal.plan;

import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * What a plan has to know of the place where its rows will be stored.
 */
public interface StoreView {

    /** Reserves ordinals of a table, and returns the first. */
    long reserve(Table table, int count);

    /** Reserves ordinals of several tables, and returns the first of each. */
    default Map<Table, Long> reserve(Map<Table, Integer> counts) {
        Map<Table, Long> first = new LinkedHashMap<>();
        counts.forEach((table, count) -> first.put(table, reserve(table, count)));
        return first;
    }

    /**
     * Tells whether nobody need look beforehand for stored rows with the same keys: a plan whose rows are refused for that
     * is made again on a ground where one looks.
     */
    default boolean refusesTwins() {
        return false;
    }

    /** Tells whether a row keeps a check, if the place can tell. */
    default Optional<Boolean> keeps(Table table, Check check, Row row) {
        return Optional.empty();
    }

    /** Makes an empty one of what values of a column refer to outside of all tables; see {@link Store#blank}. */
    default Optional<Object> blank(Table table, Column column) {
        return Optional.empty();
    }

    /** Returns how the documents of a column are made, if a test says so. */
    default Optional<DocumentRecipe> documents(Table table, Column column) {
        return Optional.empty();
    }

    /** Tells whether a row is stored for which a condition holds. */
    default boolean isStored(Table table, Condition condition) {
        return false;
    }

    /**
     * Finds the stored row that rows of a plan are to refer to, of those for which a condition holds. Where several
     * processes make the same plan, all find the row that the first one found.
     *
     * @param key the columns by which it is known
     * @param turn how many others are referred to by the same row; another is found, if there is one
     */
    default Optional<Row> serving(Table table, Condition condition, List<String> key, int turn) {
        List<Row> rows = rows(table, condition);
        return rows.isEmpty() ? Optional.empty() : Optional.of(rows.get(turn % rows.size()));
    }

    /** Returns the stored rows of a table for which a condition holds, in key order. */
    default List<Row> rows(Table table, Condition condition) {
        return List.of();
    }

    /** Returns stored rows of a table in key order, at most so many. */
    default List<Row> rows(Table table, int most) {
        return List.of();
    }

    /** Tells whether arithmetic on decimals is exact at the place. */
    default boolean isExact() {
        return true;
    }

    /** Returns a view of a store. */
    static StoreView of(Store store) {
        return of(store, false);
    }

    /**
     * Returns a view of a store.
     *
     * @param refusesTwins what {@link #refusesTwins()} tells
     */
    static StoreView of(Store store, boolean refusesTwins) {
        return new StoreView() {
            @Override
            public boolean refusesTwins() {
                return refusesTwins;
            }

            @Override
            public Map<Table, Long> reserve(Map<Table, Integer> counts) {
                return store.reserve(counts);
            }

            @Override
            public long reserve(Table table, int count) {
                return store.reserve(table, count);
            }

            @Override
            public Optional<Boolean> keeps(Table table, Check check, Row row) {
                return store.keeps(table, check, row);
            }

            @Override
            public Optional<Object> blank(Table table, Column column) {
                return store.blank(table, column);
            }

            @Override
            public Optional<DocumentRecipe> documents(Table table, Column column) {
                return StoredDocuments.of(store).of(table, column);
            }

            @Override
            public boolean isExact() {
                return store.isExact();
            }

            @Override
            public boolean isStored(Table table, Condition condition) {
                return store.holds(table, condition);
            }

            @Override
            public List<Row> rows(Table table, Condition condition) {
                return store.rows(table, condition);
            }

            @Override
            public List<Row> rows(Table table, int most) {
                List<Row> rows = store.rows(table, Condition.all());
                return rows.size() > most ? rows.subList(0, most) : rows;
            }
        };
    }
}
