package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Where numbers for new rows come from, and how they are set back. A role of a {@link Dialect}. */
public interface KeyNumbers {
    /** More numbers than that are not taken from a counter one by one. */
    int MANY = 10_000;

    /** Returns the sequences that have names. */
    default Sequences sequences() {
        return Sequences.NONE;
    }

    /** Returns by how much the counter of a numbered column moves for each number. */
    default long step(Connection connection, Column numbered) throws SQLException {
        return numbered.sequence().isPresent()
                ? sequences().step(connection, numbered.sequence().get())
                : 1;
    }

    /** Reserves consecutive numbers of a numbered column and returns the first; no row has or gets one of them. */
    long reserve(Connection connection, Table table, Column numbered, int count) throws SQLException;

    /** Reserves as {@link #reserve} does for several tables at once, and leaves out those for which it cannot be done. */
    default Map<Table, Long> reserve(Connection connection, Map<Table, Integer> counts) throws SQLException {
        return new HashMap<>();
    }

    /** Tells whether somebody else may take numbers that were reserved, as those of a counter that only a row moves. */
    default boolean sharesReserved(Column numbered) {
        return false;
    }

    /** Returns the numbers that the numbered columns of the tables will give next, by table. */
    Map<Table, Long> counters(Connection connection, List<Table> tables) throws SQLException;

    /**
     * As {@link #counters(Connection, List)}.
     *
     * @param told what the journal has just told of counters, if it tells of them
     */
    default Map<Table, Long> counters(Connection connection, List<Table> tables, @Nullable String told)
            throws SQLException {
        return counters(connection, tables);
    }

    /** Takes note of rows that the stage has stored. */
    default void stored(Load load) {}

    /** The rows that the stage had stored are gone. */
    default void rewound() {}

    /**
     * Leaves a counter for now that stands further on than it should, if that is worth it.
     *
     * @return false if it has to be set
     */
    default boolean leavesCounter(Table table, long next) {
        return false;
    }

    /** Returns the numbers that counters should give next which were left, and forgets them. */
    default Map<Table, Long> takeCountersLeft() {
        return Map.of();
    }

    /** Sets the number that a table's numbered column will give next. */
    void setCounter(Connection connection, Table table, Column numbered, long next) throws SQLException;

    /** Lets a table's numbered column begin where it began. */
    default void restart(Connection connection, Table table, Column numbered) throws SQLException {
        if (numbered.sequence().isPresent()) {
            try (java.sql.Statement statement = connection.createStatement()) {
                statement.execute("ALTER SEQUENCE " + numbered.sequence().get() + " RESTART");
            }
        } else {
            setCounter(connection, table, numbered, 1);
        }
    }

    /** Returns how many times a stage in one transaction has taken numbers that no rollback gives back. */
    default int taken() {
        return 0;
    }

    /** Gives numbers back that were taken since {@link #taken} returned this, after a rollback; as far as no commit is needed. */
    default void giveBack(Connection connection, int taken) throws SQLException {}
}
