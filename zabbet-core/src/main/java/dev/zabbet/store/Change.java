package dev.zabbet.store;

import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.util.List;
import java.util.Optional;

/** One row's net change. */
public sealed interface Change {

    /** {@return the row's table} */
    Table table();

    /** {@return the row as it was last seen: after the change, or before it was removed} */
    Row row();

    /** {@return the row before the change; empty if it was not there} */
    Optional<Row> rowBefore();

    /** {@return the row after the change; empty if it is no longer there} */
    Optional<Row> rowAfter();

    /** {@return what happened to the row, in a word: added, changed or removed} */
    String word();

    /**
     * A row that was not there before.
     *
     * @param table its table
     * @param row the row with all columns
     */
    record Added(Table table, Row row) implements Change {
        @Override
        public Optional<Row> rowBefore() {
            return Optional.empty();
        }

        @Override
        public Optional<Row> rowAfter() {
            return Optional.of(row);
        }

        @Override
        public String word() {
            return "added";
        }
    }

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

        @Override
        public Optional<Row> rowBefore() {
            return Optional.of(before);
        }

        @Override
        public Optional<Row> rowAfter() {
            return Optional.of(after);
        }

        @Override
        public String word() {
            return "changed";
        }

        /** {@return the names of the columns that hold another value, in the table's order} */
        public List<String> columns() {
            return table.columns().stream()
                    .filter(c -> c.type().kind() == Kind.JSON
                            ? !ValueEquality.asStored(c.type(), before.get(c.name()), after.get(c.name()))
                            : !ValueEquality.values(before.get(c.name()), after.get(c.name())))
                    .map(Column::name)
                    .toList();
        }
    }

    /**
     * A row that is no longer there.
     *
     * @param table its table
     * @param row the row as it was, with all columns
     */
    record Removed(Table table, Row row) implements Change {
        @Override
        public Optional<Row> rowBefore() {
            return Optional.of(row);
        }

        @Override
        public Optional<Row> rowAfter() {
            return Optional.empty();
        }

        @Override
        public String word() {
            return "removed";
        }
    }
}
