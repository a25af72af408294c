package dev.zabbet.jdbc.internal.track;

import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.SchemaChangedException;
import java.sql.Connection;
import java.sql.SQLException;

/**
 * What the tables looked like when they were read, so that changes of theirs are noticed before a journal watches them,
 * or where none can.
 */
final class TablesAsRead {
    private final Journal journal;
    private final String fingerprint;

    /** @param journal is not installed, and only tells how the tables look */
    TablesAsRead(Journal journal, Connection connection) throws SQLException {
        this.journal = journal;
        this.fingerprint = journal.fingerprint(connection);
    }

    /** Tells whether they look as they did. */
    boolean areStill(Connection connection) throws SQLException {
        return journal.fingerprint(connection).equals(fingerprint);
    }

    void require(Connection connection) throws SQLException {
        if (!areStill(connection)) {
            throw new SchemaChangedException();
        }
    }
}
