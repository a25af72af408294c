package dev.zabbet.jdbc.internal.dialect;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;

/** How work is run on a stage's connection: in a transaction, without references, with a statement that is kept. A role of a {@link Dialect}. */
public interface Transactions {
    /**
     * Runs work in one transaction in which references are not checked and the application's own triggers rest, as far
     * as they can be made to; commits, or rolls back if it fails.
     *
     * @return false if the connection has no right to that; nothing was run then
     */
    boolean withoutReferences(Connection connection, SqlWork work) throws SQLException;

    /**
     * Runs work as {@link #withoutReferences} does, and without a note in the journal.
     *
     * @return false if the connection has no right to that; nothing was run then
     */
    default boolean unnoticed(Connection connection, SqlWork work) throws SQLException {
        return withoutReferences(connection, work);
    }

    /** Runs work with a prepared statement that is wanted again and again. */
    default void often(Connection connection, String sql, StatementWork work) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            work.run(statement);
        }
    }

    /** Reads the rows of a query that is asked again and again with other numbers. */
    default void readOften(Connection connection, String sql, SchemaDraft.RowReader reader, long... numbers)
            throws SQLException {
        often(connection, sql, statement -> {
            for (int i = 0; i < numbers.length; i++) {
                statement.setLong(i + 1, numbers[i]);
            }
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    reader.read(rows);
                }
            }
        });
    }
    /** Returns what the only row of a query holds that is asked again and again; the other value without a row. */
    default <T> T firstOften(Connection connection, String sql, SchemaDraft.RowMapper<T> mapper, T otherwise)
            throws SQLException {
        List<T> found = new ArrayList<>();
        readOften(connection, sql, rows -> found.add(Objects.requireNonNull(mapper.map(rows), sql)));
        return found.isEmpty() ? otherwise : found.get(0);
    }

    /** Sets up the stage's own connection. */
    default void prepare(Connection connection) throws SQLException {}

    /** Leaves the stage's own connection as it was before {@link #prepare}. */
    default void setBack(Connection connection) throws SQLException {}

    /** Tells whether a transaction sees nothing of what others commit after it has begun to read. */
    default boolean readsSnapshots() {
        return false;
    }

    /** Tells whether a statement that fails ends its transaction, so that it can only be rolled back. */
    default boolean abortsTransactions() {
        return false;
    }

    /** Tells whether a transaction has ended so. */
    default boolean isAborted(Connection connection) throws SQLException {
        return false;
    }

    /** Tells whether each return to a savepoint costs as much as all that has happened since it was set. */
    default boolean savepointsGrow() {
        return false;
    }

    /** Checks inside a transaction what its end would check, where the database can. */
    default void checkDeferred(Connection connection) throws SQLException {}

    /** Begins a transaction on a connection that commits each statement by itself. */
    default void begin(Connection connection) throws SQLException {
        connection.setAutoCommit(false);
    }

    /** Ends what {@link #begin} began. */
    default void commit(Connection connection) throws SQLException {
        connection.commit();
        connection.setAutoCommit(true);
    }

    /** Ends what {@link #begin} began, and takes it back. */
    default void rollBack(Connection connection) throws SQLException {
        connection.rollback();
        connection.setAutoCommit(true);
    }
    /** Runs work in one transaction: commits, or rolls back if it fails, and leaves the connection's mode as it was. */
    static void atomically(Connection connection, SqlWork work) throws SQLException {
        boolean before = connection.getAutoCommit();
        connection.setAutoCommit(false);
        try {
            work.run();
            connection.commit();
        } catch (SQLException | RuntimeException e) {
            try {
                connection.rollback();
            } catch (SQLException lost) {
                e.addSuppressed(lost);
            }
            throw e;
        } finally {
            connection.setAutoCommit(before);
        }
    }

    /** Work with a prepared statement; results are closed by it. */
    @FunctionalInterface
    interface StatementWork {
        void run(PreparedStatement statement) throws SQLException;
    }

    /** Work on a connection. */
    @FunctionalInterface
    interface SqlWork {
        void run() throws SQLException;
    }
}
