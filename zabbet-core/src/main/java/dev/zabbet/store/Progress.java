package dev.zabbet.store;

/** Receives the progress of a large load, about every thousand rows, on the thread that stores them. */
@FunctionalInterface
public interface Progress {
    /** Takes no notice. */
    Progress NONE = (table, rows, of) -> {};

    /**
     * Is called before a row is stored. Rows that are tried and refused may be counted again.
     *
     * @param table the name of the current table
     * @param rows how many of its rows have been sent to the store
     * @param of how many there are
     */
    void at(String table, int rows, int of);
}
