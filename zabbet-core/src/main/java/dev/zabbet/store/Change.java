package dev.zabbet.store;

import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.util.List;

/** One row's net change. */
public sealed interface Change {

    /** {@return the row's table} */
    Table table();

    /** {@return the row as it was last seen: after the change, or before it was removed} */
    Row row();

    /**
     * A row that was not there before.
     *
     * @param table its table
     * @param row the row with all columns
     */
    record Added(Table table, Row row) implements Change {}

    /**
     * A row that holds other values than before.
     *
     * @param table its table
     * @param before the row as it was, with all columns
     * @param after the row as it is, with all columns
     */
    record Changed(Table table, Row before, Row after) implements Change {
        @Override
        public Row row() {
            return after;
        }

        /** {@return the names of the columns that hold another value, in the table's order} */
        public List<String> columns() {
            return table.columns().stream()
                    .map(Column::name)
                    .filter(c -> !ValueEquality.values(before.get(c), after.get(c)))
                    .toList();
        }
    }

    /**
     * A row that is no longer there.
     *
     * @param table its table
     * @param row the row as it was, with all columns
     */
    record Removed(Table table, Row row) implements Change {}
}
