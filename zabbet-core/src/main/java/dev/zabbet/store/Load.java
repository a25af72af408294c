package dev.zabbet.store;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.util.List;

/**
 * Rows to be stored together, all or none.
 *
 * @param inserts the rows, in an order in which they can be stored
 * @param updates columns that are filled afterwards, where rows refer to each other in a circle
 * @param labels what rows are called, to be found by {@link Store#labelled} later
 */
public record Load(List<RowSource> inserts, List<Fill> updates, List<Label> labels) {
    /** Copies the lists. */
    public Load {
        inserts = List.copyOf(inserts);
        updates = List.copyOf(updates);
        labels = List.copyOf(labels);
    }

    /** Rows without labels. */
    public Load(List<RowSource> inserts, List<Fill> updates) {
        this(inserts, updates, List.of());
    }

    /**
     * Columns to fill in rows that are stored already.
     *
     * @param rows the key columns of each row, followed by the columns to fill
     * @param keyColumns how many of the first columns are the key
     */
    public record Fill(RowSource rows, int keyColumns) {}

    /**
     * What a row is called.
     *
     * @param table its table
     * @param label the label, unique in the table; one that another row has goes over to this one
     * @param key its key columns
     */
    public record Label(Table table, String label, Row key) {}
}
