package dev.zabbet.internal.memory;

import dev.zabbet.internal.check.Formula;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** The rows of a table by one of its unique keys, whether of columns or expressions, of all rows or some. */
final class UniqueIndex {
    final UniqueKey key;
    private final int[] at;
    private final List<Formula> formulas;
    private final @Nullable Formula condition;
    private final Map<Object, Object> holders = new HashMap<>();

    private UniqueIndex(UniqueKey key, int[] at, List<Formula> formulas, @Nullable Formula condition) {
        this.key = key;
        this.at = at;
        this.formulas = formulas;
        this.condition = condition;
    }

    /** Returns an index; empty for a key whose expressions or condition are not understood. */
    static Optional<UniqueIndex> of(Table table, UniqueKey key) {
        List<Formula> formulas = new ArrayList<>();
        for (String expression : key.expressions()) {
            Optional<Formula> formula = Formula.of(table, expression);
            if (formula.isEmpty()) {
                return Optional.empty();
            }
            formulas.add(formula.get());
        }
        Optional<Formula> condition = key.condition().flatMap(text -> Formula.of(table, text));
        if (condition.isPresent() != key.condition().isPresent()) {
            return Optional.empty();
        }
        return Optional.of(
                new UniqueIndex(key, MemoryTable.positions(table, key.columns()), formulas, condition.orElse(null)));
    }

    /**
     * Returns what has to be unique of a row; null for a row that is not in the key, or has a null in it that is distinct
     * from others.
     */
    @Nullable
    Object values(@Nullable Object[] row) {
        if (key.nullsDistinct() && MemoryTable.hasNull(row, at)) {
            return null;
        }
        if (formulas.isEmpty() && condition == null && key.nullsDistinct()) {
            return MemoryTable.part(row, at);
        }
        if (condition != null
                && !condition
                        .value(i -> row[i])
                        .map(result -> Boolean.TRUE.equals(result.value()))
                        .orElse(false)) {
            return null;
        }
        List<@Nullable Object> values = new ArrayList<>();
        for (int i : at) {
            values.add(row[i] == null ? null : MemoryTable.lookup(row[i]));
        }
        for (Formula formula : formulas) {
            Object value = formula.value(i -> row[i]).map(Formula.Result::value).orElse(null);
            if (value == null && key.nullsDistinct()) {
                return null;
            }
            values.add(value == null ? null : MemoryTable.lookup(value));
        }
        return values;
    }

    /** Returns the key of the row that holds these values. */
    @Nullable
    Object holder(Object values) {
        return holders.get(values);
    }

    void put(Object rowKey, @Nullable Object[] row) {
        Object values = values(row);
        if (values != null) {
            holders.put(values, rowKey);
        }
    }

    void remove(@Nullable Object[] row) {
        Object values = values(row);
        if (values != null) {
            holders.remove(values);
        }
    }

    void clear() {
        holders.clear();
    }
}
