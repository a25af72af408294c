package dev.zabbet.store;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Rows of one table, ready to be stored: values are asked for by row and column, and may be made only then. */
public interface RowSource {

    /** {@return the table} */
    Table table();

    /** {@return the columns that have values; the others are left to the store} */
    List<Column> columns();

    /** {@return how many rows there are} */
    int size();

    /**
     * {@return a value, the same each time}
     *
     * @param row the row, from 0
     * @param column the position in {@link #columns()}, from 0
     */
    @Nullable
    Object value(int row, int column);
}
