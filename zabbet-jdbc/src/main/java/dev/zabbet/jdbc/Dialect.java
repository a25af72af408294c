package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What differs from one database to another. One class for each; stateless and thread-safe. */
interface Dialect {

    /** Returns the dialect of the database behind a connection. */
    static Dialect of(Connection connection) throws SQLException {
        String product = connection.getMetaData().getDatabaseProductName();
        if (product.equals("H2")) {
            return new H2Dialect();
        }
        throw new ZabbetException("Zabbet does not know the database " + product + ". It knows H2.");
    }

    /** Returns the database's name for people: "H2". */
    String product();

    /** Tells whether the database lives in this process's memory and ends with it. */
    boolean isInThisProcess(Connection connection) throws SQLException;

    /** Reads the tables. */
    Schema readSchema(Connection connection) throws SQLException;

    /** Returns a name in quotes, as it stands in SQL. */
    default String quote(String name) {
        return '"' + name.replace("\"", "\"\"") + '"';
    }

    /** Returns a table's name as it stands in SQL. */
    default String name(Table table) {
        return table.sqlSchema().isEmpty()
                ? quote(table.sqlName())
                : quote(table.sqlSchema()) + "." + quote(table.sqlName());
    }

    /** Returns what stands between the columns and VALUES so that explicit identities are taken. */
    String overriding(Table table);

    /** Returns what stands for a value of the column: usually a question mark. */
    default String placeholder(Column column) {
        return "?";
    }

    /** Sets a parameter to a value in its form in memory. */
    void bind(PreparedStatement statement, int index, Column column, @Nullable Object value) throws SQLException;

    /** Reads a value into its form in memory. */
    @Nullable
    Object read(ResultSet rows, int index, Column column) throws SQLException;

    /** Returns the numbers that the identity columns of the tables will give next, by table. */
    Map<Table, Long> counters(Connection connection, List<Table> tables) throws SQLException;

    /** Sets the number that a table's identity column will give next. */
    void setCounter(Connection connection, Table table, Column identity, long next) throws SQLException;

    /** Runs work with references unchecked. The connection commits what it has open. */
    void withoutReferences(Connection connection, SqlWork work) throws SQLException;

    /** Returns a condition that is true when column and parameter are equal or both null. */
    default String same(Column column) {
        return quote(column.sqlName()) + " IS NOT DISTINCT FROM " + placeholder(column);
    }

    /** Returns what limits a DELETE to one row. */
    String oneRow();

    /** Ends a database that lives only for one stage. */
    void end(Connection connection) throws SQLException;

    /** Work on a connection. */
    @FunctionalInterface
    interface SqlWork {
        void run() throws SQLException;
    }
}
