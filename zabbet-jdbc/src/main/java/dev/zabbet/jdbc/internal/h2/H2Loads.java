package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * Knows of large loads into H2 files that were cut off. H2 commits a transaction row by row, and a process that is killed
 * meanwhile leaves a file with a part of the rows, and with indexes that may not fit them (seen with H2 2.5 when a process
 * ended during the commit of some ten thousand rows). What a load stores is noted before, and the note deleted as the last
 * thing that its transaction does.
 */
final class H2Loads {
    private static final int LARGE = 1_000;

    private H2Loads() {}

    /**
     * Notes what is to be stored, if that is much; commits what is open.
     *
     * @return whether it was noted
     */
    static boolean begin(Dialect dialect, Connection connection, Load load) throws SQLException {
        Map<Table, Long> rows = new LinkedHashMap<>();
        for (RowSource source : load.inserts()) {
            rows.merge(source.table(), (long) source.size(), Long::sum);
        }
        if (rows.values().stream().mapToLong(n -> n).sum() < LARGE || isInMemory(connection)) {
            return false;
        }
        try (Statement statement = connection.createStatement()) {
            statement.execute("CREATE SCHEMA IF NOT EXISTS ZABBET");
            statement.execute("CREATE TABLE IF NOT EXISTS ZABBET.LOADING (NAME VARCHAR(600) NOT NULL, BEFORE BIGINT NOT"
                    + " NULL, ADDED BIGINT NOT NULL)");
        }
        try (PreparedStatement note = connection.prepareStatement("INSERT INTO ZABBET.LOADING VALUES (?, ?, ?)")) {
            for (Map.Entry<Table, Long> table : rows.entrySet()) {
                note.setString(1, table.getKey().name());
                note.setLong(2, new TableSql(dialect, table.getKey()).count(connection));
                note.setLong(3, table.getValue());
                note.executeUpdate();
            }
        }
        return true;
    }

    /** Deletes the note, in the load's own transaction. */
    static void end(Connection connection) throws SQLException {
        delete(connection);
    }

    /** Refuses a file that holds a part of a load. */
    static void requireWhole(Dialect dialect, Connection connection, DatabaseIdentity place, Schema schema)
            throws SQLException {
        if (place.inThisProcess() || !isNoted(connection)) {
            return;
        }
        StringBuilder parts = new StringBuilder();
        SchemaDraft.each(connection, "SELECT NAME, BEFORE, ADDED FROM ZABBET.LOADING", rows -> {
            Table table = schema.table(rows.getString(1)).orElse(null);
            long more = table == null ? 0 : new TableSql(dialect, table).count(connection) - rows.getLong(2);
            if (more > 0 && more < rows.getLong(3)) {
                parts.append(parts.isEmpty() ? "" : ", ")
                        .append(more + " of " + Words.count(rows.getLong(3), "row") + " of " + rows.getString(1));
            }
        });
        if (!parts.isEmpty()) {
            throw new ZabbetException("A process was killed while it stored rows in the " + place.describe()
                    + ", and H2 kept a part of them: " + parts
                    + ". Its indexes may not fit its rows any more: delete the"
                    + " file and make it again.");
        }
        delete(connection); // none were kept, or all
    }

    private static void delete(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.executeUpdate("DELETE FROM ZABBET.LOADING");
        }
    }

    private static boolean isNoted(Connection connection) throws SQLException {
        if (isInMemory(connection)) {
            return false;
        }
        return SchemaDraft.exists(
                connection, "SELECT 1 FROM INFORMATION_SCHEMA.TABLES WHERE " + H2Dialect.isOurs("LOADING"));
    }

    private static boolean isInMemory(Connection connection) throws SQLException {
        return connection.getMetaData().getURL().startsWith("jdbc:h2:mem:");
    }
}
