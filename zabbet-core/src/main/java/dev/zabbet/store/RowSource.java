package dev.zabbet.store;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Rows of one table, ready to be stored: values are asked for by row and column, and may be made only then. */
public interface RowSource {

    /** Returns the table. */
    Table table();

    /** Returns the columns that have values; the others are left to the store. */
    List<Column> columns();

    /** Returns how many rows there are. */
    int size();

    /**
     * Returns a value, the same each time.
     *
     * @param row the row, from 0
     * @param column the position in {@link #columns()}, from 0
     */
    @Nullable
    Object value(int row, int column);
}
