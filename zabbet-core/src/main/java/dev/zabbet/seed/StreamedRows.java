package dev.zabbet.seed;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Very many plain rows of one table, read from where they stand each time they are needed and never held together. Brought
 * by a {@link SeedNotation}; called when the seed is stored or validated, by one thread.
 */
public interface StreamedRows {
    /** {@return the table's name} */
    String table();

    /** {@return the names of the columns that every row has} */
    List<String> columns();

    /** {@return where the columns are named, for messages} */
    SourceLocation place();

    /**
     * Begins to read the rows from the first.
     *
     * @return what reads row after row
     * @throws dev.zabbet.error.ZabbetException if they cannot be read
     */
    Reading read();

    /** Reads rows one after another. */
    interface Reading extends AutoCloseable {
        /**
         * {@return the next row, a text or null for each column; null after the last}
         *
         * @throws dev.zabbet.error.ZabbetException if the row cannot be read; the message says where
         */
        @Nullable
        String @Nullable [] next();

        /** {@return where the row stands that was read last} */
        SourceLocation at();

        @Override
        void close();
    }
}
