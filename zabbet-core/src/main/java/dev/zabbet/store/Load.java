package dev.zabbet.store;

import java.util.List;

/**
 * Rows to be stored together, all or none.
 *
 * @param inserts the rows, in an order in which they can be stored
 * @param updates columns that are filled afterwards, where rows refer to each other in a circle
 */
public record Load(List<RowSource> inserts, List<Fill> updates) {
    /** Copies the lists. */
    public Load {
        inserts = List.copyOf(inserts);
        updates = List.copyOf(updates);
    }

    /**
     * Columns to fill in rows that are stored already.
     *
     * @param rows the key columns of each row, followed by the columns to fill
     * @param keyColumns how many of the first columns are the key
     */
    public record Fill(RowSource rows, int keyColumns) {}
}
