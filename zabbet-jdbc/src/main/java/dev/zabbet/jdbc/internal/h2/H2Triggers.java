package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * The application's triggers in H2, which knows no way to switch them off: they are dropped and made again. What makes
 * them is kept in a table meanwhile, so that a process that dies does not take them along.
 */
public final class H2Triggers {
    private H2Triggers() {}

    /** Drops the triggers; returns whether there were any, so that {@link #work} is due. */
    public static boolean rest(Dialect dialect, Connection connection) throws SQLException {
        Map<String, String> triggers = new LinkedHashMap<>();
        dialect.readOften(
                connection,
                "SELECT DISTINCT TRIGGER_SCHEMA, TRIGGER_NAME, DB_OBJECT_SQL('TRIGGER', TRIGGER_SCHEMA, TRIGGER_NAME),"
                        + " DB_OBJECT_ID('TRIGGER', TRIGGER_SCHEMA, TRIGGER_NAME) AS ID FROM INFORMATION_SCHEMA.TRIGGERS"
                        + " WHERE TRIGGER_NAME NOT LIKE 'ZABBET\\_%' ORDER BY ID",
                rows -> triggers.put(quote(rows.getString(1)) + "." + quote(rows.getString(2)), rows.getString(3)));
        if (triggers.isEmpty()) {
            return false;
        }
        try (Statement statement = connection.createStatement()) {
            statement.execute("CREATE SCHEMA IF NOT EXISTS ZABBET");
            statement.execute(
                    "CREATE TABLE IF NOT EXISTS ZABBET.RESTING (PLACE INT GENERATED ALWAYS AS IDENTITY PRIMARY KEY, MAKES VARCHAR NOT NULL)");
            try (PreparedStatement keep =
                    connection.prepareStatement("INSERT INTO ZABBET.RESTING (MAKES) VALUES (?)")) {
                for (String makes : triggers.values()) {
                    keep.setString(1, makes);
                    keep.addBatch();
                }
                keep.executeBatch();
            }
            for (String trigger : triggers.keySet()) {
                statement.execute("DROP TRIGGER " + trigger);
            }
        }
        return true;
    }

    /** Makes the triggers again that rest, after those of the journal: the eldest fires first. */
    static void work(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            if (!statement
                    .executeQuery("SELECT 1 FROM INFORMATION_SCHEMA.TABLES WHERE " + H2Dialect.isOurs("RESTING"))
                    .next()) {
                return;
            }
            for (String sql : SchemaDraft.texts(connection, "SELECT MAKES FROM ZABBET.RESTING ORDER BY PLACE")) {
                statement.execute(sql.replaceFirst("TRIGGER ", "TRIGGER IF NOT EXISTS ")); // it may have got that far
            }
            statement.execute("DROP TABLE ZABBET.RESTING");
        }
    }

    private static String quote(String name) {
        return '"' + name.replace("\"", "\"\"") + '"';
    }
}
