package dev.zabbet.extract;

import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.List;

/**
 * Where an extract is written. The extract calls {@link #begin}, then {@link #row} for each row, table by table in storing order and
 * in key order within a table, then {@link #end}; whatever happens, {@link #close} comes last. What is written counts only once
 * {@code end} has returned: a target that is closed before leaves nothing behind. Used by one thread.
 */
public interface ExtractTarget extends AutoCloseable {

    /** {@return whether rows are wanted with labels in the place of keys} */
    boolean wantsLabels();

    /**
     * Begins.
     *
     * @param schema the tables of the database that is read
     * @param tables those that rows will come of, in the order in which they will
     */
    void begin(Schema schema, List<Table> tables);

    /**
     * Takes a row.
     *
     * @param row the row
     */
    void row(ExtractedRow row);

    /**
     * Makes what was written count.
     *
     * @throws dev.zabbet.error.ZabbetException if it cannot be written
     */
    void end();

    /** Gives up what does not count yet. */
    @Override
    void close();
}
