package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Optional;

/** Which database this is, whose it is, and the mark and the lock that say so. A role of a {@link Dialect}. */
public interface DatabaseMark {
    /** Tells which database this is. */
    DatabaseIdentity place(Connection connection) throws SQLException;

    /** Takes what keeps other processes from opening a stage here, as long as the connection lives; false if taken. */
    default boolean lock(Connection connection, DatabaseIdentity place) throws SQLException {
        return true;
    }

    /** Gives back what {@link #lock} took, although the connection stays open, for example in a pool. */
    default void unlock(Connection connection, DatabaseIdentity place) throws SQLException {}

    /** Returns who holds the database, for a message. */
    default String holder(Connection connection, DatabaseIdentity place) throws SQLException {
        return "another process";
    }

    /** Returns why nothing can be written to this database at all, if that is so: for example because it is a replica. */
    default Optional<String> readOnly(Connection connection) throws SQLException {
        return connection.isReadOnly() ? Optional.of("its connections are read-only") : Optional.empty();
    }

    /** Returns the table that holds our mark, as it stands in SQL. */
    default String markTable() {
        return "zabbet_dedicated";
    }

    /** Returns the table that holds the mark of one of the places of {@link #places}, as it stands in SQL. */
    default String markTable(DatabaseIdentity place) {
        return markTable();
    }

    /**
     * Returns the databases that tables are in, each of which needs a mark and the lease.
     *
     * @param home the one that the connection leads to, which comes first
     */
    default List<DatabaseIdentity> places(Connection connection, DatabaseIdentity home, Schema schema)
            throws SQLException {
        return List.of(home);
    }

    /** Tells whether a table is in one of the places of {@link #places}. */
    default boolean isIn(Table table, DatabaseIdentity place) {
        return true;
    }

    /** Returns the statements that drop the mark and whatever else is kept beside it. */
    default List<String> removing(Connection connection) throws SQLException {
        String mark = markTable();
        return List.of("DROP SCHEMA IF EXISTS " + mark.substring(0, mark.indexOf('.')) + " CASCADE");
    }

    /** Returns the statements that make the mark's table; they do nothing where it is there. */
    default List<String> createMark() {
        return List.of("CREATE TABLE IF NOT EXISTS " + markTable() + " (identity VARCHAR(500) NOT NULL PRIMARY KEY)");
    }
}
