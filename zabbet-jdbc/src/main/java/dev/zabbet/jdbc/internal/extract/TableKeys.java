package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.extract.Extract;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.store.Condition;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * The rows of one table that belong to an extract, by their keys; of a table without a key the rows themselves. A key of one number
 * is kept as that, so that a million of them fit.
 */
final class TableKeys {
    /** How far below a row that was asked for a parent is that came along. */
    static final int CAME_ALONG = -1;

    private static final Comparator<Object> BY_VALUE = Comparator.nullsFirst((a, b) -> Ordering.compare(a, b));

    private final Table table;
    private final List<Column> key;
    private final List<String> keyNames;
    private final List<Column> written;
    private final List<Column> looked;
    private final List<Reference> references;
    private final Map<String, List<Reference>> byColumn = new HashMap<>();
    private final Set<String> cutOff = new HashSet<>();
    private final Map<Object, Integer> depths = new LinkedHashMap<>();
    private final Map<Row, Integer> keyless = new LinkedHashMap<>();
    private final Map<Row, Integer> found = new HashMap<>();
    private final Map<List<String>, Map<Object, Object>> byOther = new HashMap<>();
    private final Map<List<String>, Map<Object, Object>> others = new HashMap<>();
    private final Map<String, Integer> reasons = new LinkedHashMap<>();
    private List<Object> fresh = new ArrayList<>();
    private List<Object> ordered = List.of();

    TableKeys(Table table, Schema schema, Extract extract, DocumentParts documents) {
        this.table = table;
        this.keyNames = keyOf(table);
        this.key = keyNames.stream().map(table::requireColumn).toList();
        this.written = table.columns().stream()
                .filter(column -> !column.isComputed() && !extract.leavesOut(table.name(), column.name()))
                .toList();
        this.references = table.references().stream()
                .filter(reference -> schema.table(reference.target()).isPresent()
                        && reference.columns().stream().noneMatch(c -> extract.leavesOut(table.name(), c)))
                .toList();
        for (Column column : written) {
            byColumn.put(
                    column.name(),
                    references.stream()
                            .filter(r -> r.columns().contains(column.name()))
                            .sorted(Comparator.comparingInt(r -> r.columns().size()))
                            .toList());
            boolean cut = table.referencesOf(column.name()).stream()
                    .anyMatch(r -> r.columns().stream().anyMatch(c -> extract.leavesOut(table.name(), c)));
            if (cut) {
                cutOff.add(column.name());
            }
        }
        Set<Column> all = new LinkedHashSet<>(key);
        references.forEach(r -> r.columns().forEach(c -> all.add(table.requireColumn(c))));
        documents.refs(table).stream()
                .map(ref -> ref.place().column())
                .filter(written::contains)
                .forEach(all::add);
        for (Table other : schema.tables()) {
            for (Reference reference : other.references()) {
                if (reference.target().equals(table.name())) {
                    reference.targetColumns().forEach(c -> all.add(table.requireColumn(c)));
                    if (!isKey(reference.targetColumns())) {
                        byOther.put(reference.targetColumns(), new HashMap<>());
                        others.put(reference.targetColumns(), new HashMap<>());
                    }
                }
            }
        }
        boolean mayLackKey = key.isEmpty() || key.stream().anyMatch(Column::nullable);
        this.looked = mayLackKey ? table.columns() : List.copyOf(all);
    }

    /** The primary key, or else columns that are unique: never null, if there are such. */
    private static List<String> keyOf(Table table) {
        if (!table.keyColumns().isEmpty()) {
            return table.keyColumns();
        }
        List<List<String>> uniques = table.uniques().stream()
                .filter(UniqueKey::isPlain)
                .map(UniqueKey::columns)
                .toList();
        return uniques.stream()
                .filter(columns ->
                        columns.stream().noneMatch(c -> table.requireColumn(c).nullable()))
                .findFirst()
                .orElse(uniques.isEmpty() ? List.of() : uniques.get(0));
    }

    Table table() {
        return table;
    }

    List<Column> key() {
        return key;
    }

    /** The columns that are written. */
    List<Column> written() {
        return written;
    }

    /** The columns that are read to find what belongs together. */
    List<Column> looked() {
        return looked;
    }

    /** The references that are followed. */
    List<Reference> references() {
        return references;
    }

    Map<String, Integer> reasons() {
        return reasons;
    }

    boolean isKey(List<String> columns) {
        return columns.size() == keyNames.size() && columns.containsAll(keyNames);
    }

    /** Returns the values of columns in a form that can be looked up: in key order, if they are the key. */
    Object tuple(List<String> columns, List<@Nullable Object> values) {
        if (values.size() == 1 && values.get(0) instanceof Long number) {
            return number;
        }
        List<String> names = isKey(columns) ? keyNames : columns;
        @Nullable Object[] sorted = new @Nullable Object[names.size()];
        for (int i = 0; i < sorted.length; i++) {
            sorted[i] = values.get(columns.indexOf(names.get(i)));
        }
        return Row.of(names, sorted);
    }

    Object keyOf(Row row) {
        List<@Nullable Object> values = new ArrayList<>(keyNames.size());
        keyNames.forEach(name -> values.add(row.get(name)));
        return tuple(keyNames, values);
    }

    /** Returns the key of the row that has these values in these columns; null if it does not belong to the extract. */
    @Nullable
    Object find(List<String> columns, List<@Nullable Object> values) {
        Object tuple = tuple(columns, values);
        if (isKey(columns)) {
            if (depths.containsKey(tuple)) {
                return tuple;
            }
            Map<Object, Object> known = byOther.get(List.of());
            return known == null ? null : known.get(tuple);
        }
        return byOther.getOrDefault(columns, Map.of()).get(tuple);
    }

    /** Notes that the database takes a value for a row's, though they are written differently: in another case, say. */
    void alias(List<String> columns, List<@Nullable Object> values, Object rowKey) {
        byOther.computeIfAbsent(isKey(columns) ? List.of() : columns, c -> new HashMap<>())
                .put(tuple(columns, values), rowKey);
    }

    /** Returns a row's values in columns that others refer to. */
    @Nullable
    Object other(List<String> columns, Object rowKey) {
        return isKey(columns) ? rowKey : others.getOrDefault(columns, Map.of()).get(rowKey);
    }

    /** Tells whether a row has a key, and can be found by it. */
    boolean hasKey(Row row) {
        for (String name : keyNames) {
            if (row.get(name) == null) {
                return false;
            }
        }
        return !keyNames.isEmpty();
    }

    /** Begins a search of its own: a row without a key that two searches find is one row, not two. */
    void search() {
        found.clear();
    }

    /**
     * Adds a row.
     *
     * @return whether it is new, or nearer to a row that was asked for than it was
     */
    boolean add(Row row, int depth, String reason) {
        if (!hasKey(row)) {
            int times = found.merge(row, 1, Integer::sum);
            if (times > keyless.getOrDefault(row, 0)) {
                keyless.put(row, times);
                reasons.merge(reason, 1, Integer::sum);
            }
            return times == 1;
        }
        Object rowKey = keyOf(row);
        Integer before = depths.get(rowKey);
        if (before == null) {
            depths.put(rowKey, depth);
            fresh.add(rowKey);
            reasons.merge(reason, 1, Integer::sum);
            byOther.forEach((columns, keys) -> {
                if (!columns.isEmpty()) {
                    Object tuple = tuple(columns, columns.stream().map(row::get).toList());
                    keys.put(tuple, rowKey);
                    others.getOrDefault(columns, new HashMap<>()).put(rowKey, tuple);
                }
            });
            return true;
        }
        if (depth >= 0 && (before < 0 || depth < before)) {
            depths.put(rowKey, depth);
            fresh.add(rowKey);
        }
        return false;
    }

    /** Returns the rows that were added since this was asked before. */
    List<Object> fresh() {
        List<Object> added = fresh;
        fresh = new ArrayList<>();
        return added;
    }

    int depth(Object rowKey) {
        return depths.getOrDefault(rowKey, CAME_ALONG);
    }

    int size() {
        return depths.size()
                + keyless.values().stream().mapToInt(Integer::intValue).sum();
    }

    /** Returns all keys, in their order; it does not depend on the database. */
    List<Object> inOrder() {
        if (ordered.size() == depths.size()) {
            return ordered; // rows are only ever added
        }
        List<Object> keys = new ArrayList<>(depths.keySet());
        keys.sort((a, b) -> {
            if (a instanceof Long x && b instanceof Long y) {
                return Long.compare(x, y);
            }
            Row left = (Row) a;
            Row right = (Row) b;
            for (int i = 0; i < key.size(); i++) {
                int order = BY_VALUE.compare(left.at(i), right.at(i));
                if (order != 0) {
                    return order;
                }
            }
            return 0;
        });
        ordered = keys;
        return keys;
    }

    /** Returns the rows of a table without a key, in the order in which they were read, each as often as it is there. */
    List<Row> keyless() {
        List<Row> rows = new ArrayList<>();
        keyless.forEach((row, times) -> rows.addAll(java.util.Collections.nCopies(times, row)));
        return rows;
    }

    /** Returns the condition that columns have one of some values. */
    Condition isOneOf(List<String> columns, List<Object> tuples) {
        List<String> names = isKey(columns) ? key.stream().map(Column::name).toList() : columns;
        if (names.size() == 1) {
            return new Condition.OneOf(
                    names.get(0),
                    tuples.stream()
                            .map(t -> t instanceof Row row ? row.at(0) : t)
                            .toList());
        }
        List<Condition> alternatives = new ArrayList<>();
        tuples.forEach(tuple -> alternatives.add(equal(names, (Row) tuple)));
        return new Condition.Or(alternatives);
    }

    /** Returns the condition that a reference's columns hold one of some values of the columns that they refer to. */
    Condition isReferredToBy(Reference reference, List<Object> tuples) {
        List<String> targets = isKey(reference.targetColumns())
                ? key.stream().map(Column::name).toList()
                : reference.targetColumns();
        List<String> own = targets.stream()
                .map(target -> reference.columns().get(reference.targetColumns().indexOf(target)))
                .toList();
        if (own.size() == 1) {
            return new Condition.OneOf(
                    own.get(0),
                    tuples.stream()
                            .map(t -> t instanceof Row row ? row.at(0) : t)
                            .toList());
        }
        List<Condition> alternatives = new ArrayList<>();
        tuples.forEach(tuple -> alternatives.add(equal(own, (Row) tuple)));
        return new Condition.Or(alternatives);
    }

    private static Condition equal(List<String> names, Row tuple) {
        List<Condition> parts = new ArrayList<>();
        for (int i = 0; i < names.size(); i++) {
            parts.add(new Condition.Equal(names.get(i), tuple.at(i)));
        }
        return new Condition.And(parts);
    }

    /** Returns the references that a column belongs to, those of few columns first. */
    List<Reference> references(String column) {
        return byColumn.getOrDefault(column, List.of());
    }

    /** Tells whether a column belongs to a reference that cannot be followed, since another of its columns is left out. */
    boolean isCutOff(String column) {
        return cutOff.contains(column);
    }

    Optional<Reference> reference(String column) {
        return references.stream().filter(r -> r.columns().contains(column)).findFirst();
    }
}
