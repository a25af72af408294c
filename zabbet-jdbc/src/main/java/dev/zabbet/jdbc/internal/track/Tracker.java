package dev.zabbet.jdbc.internal.track;

import dev.zabbet.jdbc.internal.dialect.SchemaChangedException;
import dev.zabbet.jdbc.internal.dialect.Sequences;
import dev.zabbet.store.Change;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Optional;

/** A way to know what changed in a database, and to undo it. */
public interface Tracker {

    /** A state of the database, as far as this way knows it. */
    interface Position {

        /** Returns what was told of sequences, for {@link Sequences#next}. */
        default Optional<String> sequences() {
            return Optional.empty();
        }
    }

    /** Notes the present state. */
    Position here(Connection connection) throws SQLException;

    /** Notes the present state for a rewind. */
    default Position point(Connection connection) throws SQLException {
        return here(connection);
    }

    /** Throws {@link SchemaChangedException} if the tables themselves were changed since they were read; cheap. */
    void requireSameTables(Connection connection) throws SQLException;

    /** Returns what has changed since. */
    List<Change> changes(Connection connection, Position since) throws SQLException;

    /**
     * Brings all rows back to how they were.
     *
     * @return what is told of sequences, for {@link Sequences#next}
     */
    Optional<String> undo(Connection connection, Position to) throws SQLException;

    /** Takes note that a transaction was taken back. */
    default void undone() {}

    /** Ends it: nothing is noted in the database any more. */
    void end(Connection connection) throws SQLException;
}
