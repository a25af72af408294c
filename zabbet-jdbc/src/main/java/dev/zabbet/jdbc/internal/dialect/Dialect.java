package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.schema.Schema;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Optional;

/**
 * What differs from one database to another, role by role. One object for each stage: it may hold what belongs to the stage's
 * connection, such as prepared statements, and is used by one thread at a time. What a role gives is standard SQL and JDBC; an
 * engine overrides what its database does in another way.
 */
public interface Dialect extends SqlSyntax, ColumnValues, KeyNumbers, Transactions, Refusals, DatabaseMark {
    /** Returns the database's name for people: "H2". */
    String product();

    /** Reads the tables. */
    Schema readSchema(Connection connection) throws SQLException;

    /** Returns the change journal of the tables. */
    Journal journal(Schema schema);

    /** As {@link #journal}, for a stage in one transaction; empty if it cannot be had there. Nothing need be waited for. */
    default Optional<Journal> journalTogether(Schema schema) {
        return Optional.empty();
    }

    /** Returns whether a session can act under another role ({@code SET ROLE}, ISO 9075-2). */
    default boolean switchesRoles() {
        return false;
    }

    /** Tells whether every user is shown all triggers of the tables, so that there are none if none is shown. */
    default boolean showsTriggers() {
        return true;
    }

    /** Returns what gives a user the right to install triggers, for people. */
    default String howToAllowTriggers() {
        return "let it own the tables";
    }

    /** Prepares for a load that a killed process may leave half done; commits what is open. */
    default void beforeLoad(Connection connection, Load load) throws SQLException {}

    /** Does what {@link #beforeLoad} asks for at the end of the load's transaction. */
    default void endOfLoad(Connection connection) throws SQLException {}

    /** Refuses a database that holds a part of a load, where its product does not see to that itself. */
    default void requireWhole(Connection connection, DatabaseIdentity place, Schema schema) throws SQLException {}

    /** Stores rows in the fastest way that the connection allows, inside the open transaction. */
    default boolean storeFast(Connection connection, Schema schema, RowSource rows) throws SQLException {
        return false;
    }

    /** Drops all tables and whatever else an application's script makes; not our mark. */
    void dropAll(Connection connection) throws SQLException;

    /** Ends a database that lives only for one stage. */
    default void end(Connection connection) throws SQLException {}

    /** Runs the statements that a query gives, and then leaves alone what is gone already. */
    static void runAll(Connection connection, String query) throws SQLException {
        List<String> statements = SchemaDraft.texts(connection, query);
        try (java.sql.Statement statement = connection.createStatement()) {
            for (String sql : statements) {
                statement.execute(sql);
            }
        }
    }
}
