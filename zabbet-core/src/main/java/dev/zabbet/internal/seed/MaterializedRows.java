package dev.zabbet.internal.seed;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RowSource;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.function.IntPredicate;
import org.jspecify.annotations.Nullable;

/** Rows whose values are worked out. */
record MaterializedRows(Table table, List<Column> columns, List<@Nullable Object[]> rows) implements RowSource {

    static MaterializedRows of(RowSource source) {
        List<@Nullable Object[]> rows = new ArrayList<>(source.size());
        for (int r = 0; r < source.size(); r++) {
            @Nullable Object[] values = new @Nullable Object[source.columns().size()];
            for (int c = 0; c < values.length; c++) {
                values[c] = source.value(r, c);
            }
            rows.add(values);
        }
        return new MaterializedRows(source.table(), List.copyOf(source.columns()), rows);
    }

    /** Returns some rows with some columns. */
    static MaterializedRows only(RowSource source, List<Column> columns, IntPredicate wanted) {
        int[] at = columns.stream().mapToInt(c -> source.columns().indexOf(c)).toArray();
        List<@Nullable Object[]> rows = new ArrayList<>();
        for (int r = 0; r < source.size(); r++) {
            if (wanted.test(r)) {
                @Nullable Object[] values = new @Nullable Object[at.length];
                for (int c = 0; c < at.length; c++) {
                    values[c] = source.value(r, at[c]);
                }
                rows.add(values);
            }
        }
        return new MaterializedRows(source.table(), List.copyOf(columns), rows);
    }

    /** Returns all rows with some columns, of which those from {@code full} on are null. */
    static MaterializedRows emptied(RowSource source, List<Column> columns, int full) {
        MaterializedRows rows = only(source, columns, row -> true);
        rows.rows().forEach(values -> Arrays.fill(values, full, values.length, null));
        return rows;
    }

    /** Puts together what follows one another and has the same columns, so that it is stored at once. */
    static List<RowSource> merged(List<RowSource> sources) {
        List<RowSource> merged = new ArrayList<>();
        for (RowSource source : sources) {
            RowSource last = merged.isEmpty() ? null : merged.get(merged.size() - 1);
            if (last instanceof MaterializedRows held
                    && source instanceof MaterializedRows
                    && held.table().equals(source.table())
                    && held.columns().equals(source.columns())) {
                List<@Nullable Object[]> rows = new ArrayList<>(held.rows());
                rows.addAll(of(source).rows());
                merged.set(merged.size() - 1, new MaterializedRows(held.table(), held.columns(), rows));
            } else {
                merged.add(source);
            }
        }
        return merged;
    }

    @Override
    public int size() {
        return rows.size();
    }

    @Override
    public @Nullable Object value(int row, int column) {
        return rows.get(row)[column];
    }
}
