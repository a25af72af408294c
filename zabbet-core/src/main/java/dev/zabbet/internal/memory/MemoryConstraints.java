package dev.zabbet.internal.memory;

import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.mapping.ColumnFit;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.store.ConstraintException;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** What one row in memory is tested for by itself, and the words of a refusal. */
final class MemoryConstraints {
    private MemoryConstraints() {}

    /** Brings the values into their columns and tests not null, checks and unique keys. */
    static void require(MemoryTable table, @Nullable Object own, @Nullable Object[] values, boolean typed) {
        for (int i = 0; i < values.length; i++) {
            Column column = table.table.columns().get(i);
            if (values[i] == null && !column.nullable()) {
                throw refused(
                        table, column.name() + " is null, and the column does not allow it", "23502", null, values);
            }
            try {
                values[i] = typed ? ColumnFit.of(column, values[i]) : values[i];
            } catch (ColumnFit.MisfitException e) {
                throw refused(table, e.clause(), e.sqlState, null, values);
            }
        }
        for (CheckCondition condition : table.checks) {
            if (condition.evaluate(i -> values[i]) == Verdict.BROKEN) {
                Check check = condition.check();
                throw refused(
                        table, "check " + check.name() + " is false: " + check.text(), "23514", check.name(), values);
            }
        }
        for (UniqueIndex index : table.uniques) {
            Object unique = index.values(values);
            Object other = unique == null ? null : index.holder(unique);
            if (unique != null && other != null && !other.equals(own)) {
                List<String> what = new java.util.ArrayList<>(index.key.columns());
                what.addAll(index.key.expressions());
                throw duplicate(table, String.join(", ", what), unique, index.key.name(), values);
            }
        }
    }

    static ConstraintException duplicateKey(MemoryTable table, Object key, @Nullable Object[] values) {
        return duplicate(
                table,
                String.join(", ", table.table.keyColumns()),
                key,
                table.table.primaryKey().map(k -> k.name()).orElse(null),
                values);
    }

    private static ConstraintException duplicate(
            MemoryTable table, String columns, Object key, @Nullable String constraint, @Nullable Object[] values) {
        String what = columns + " = " + key + " is stored already and has to be unique";
        return refused(table, what, "23505", constraint, values);
    }

    static ConstraintException refused(
            MemoryTable table, String what, String sqlState, @Nullable String constraint, @Nullable Object[] values) {
        Row row = Row.of(table.names, values);
        return new ConstraintException(
                "A row of " + table.table.name() + " is refused: " + what + ".\nThe row: " + row,
                table.table.name(),
                constraint == null || constraint.isEmpty() ? null : constraint,
                sqlState,
                row,
                null);
    }
}
