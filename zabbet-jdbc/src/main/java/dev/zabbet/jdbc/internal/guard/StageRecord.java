package dev.zabbet.jdbc.internal.guard;

import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/**
 * What a stage writes down about itself, in a table beside the mark. It is read by the stage itself after it lost its
 * connection (is the database still its own?), and by the next stage (what is to be undone, and where did the counters
 * stand?).
 */
public final class StageRecord {
    /** Which stage installed the journal. */
    public static final String STAGE = "stage";

    /** How a stage ended that could not remove its journal; what is behind this in the journal is not its own. */
    static final String ENDED = "ended";

    /** How many rows stages have stored and not taken back. */
    private static final String LEFT = "rows left";

    private final DatabaseIdentity place;
    private final String table;

    public StageRecord(Dialect dialect, DatabaseIdentity place) {
        this.place = place;
        String mark = dialect.markTable();
        this.table = mark.substring(0, mark.length() - "dedicated".length())
                + (mark.endsWith("DEDICATED") ? "STAGE" : "stage");
    }

    /** Begins a record: forgets what an earlier stage wrote. */
    public void begin(Connection connection, Map<String, String> items) throws SQLException {
        try {
            Files.deleteIfExists(beside());
        } catch (IOException e) {
            throw new SQLException(beside() + " cannot be deleted: " + e.getMessage(), e);
        } catch (InvalidPathException e) {
            // a database of a server has no file here
        }
        String forgetting = "DELETE FROM " + table + " WHERE item <> '" + LEFT + "'";
        try (Statement statement = connection.createStatement()) {
            statement.executeUpdate(forgetting);
        } catch (SQLException e) { // there is none yet
            prepare(connection);
            try (Statement statement = connection.createStatement()) {
                statement.executeUpdate(forgetting);
            }
        }
        try (PreparedStatement insert = connection.prepareStatement("INSERT INTO " + table + " VALUES (?, ?)")) {
            for (Map.Entry<String, String> item : items.entrySet()) {
                insert.setString(1, item.getKey());
                insert.setString(2, item.getValue());
                insert.addBatch();
            }
            insert.executeBatch();
        }
    }

    private void prepare(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("CREATE TABLE IF NOT EXISTS " + table
                    + " (item VARCHAR(400) NOT NULL PRIMARY KEY, said VARCHAR(400) NOT NULL)");
        }
    }

    /** Returns how many rows stages are known to have left in the database. */
    public long rowsLeft(Connection connection) {
        return Long.parseLong(all(connection).getOrDefault(LEFT, "0"));
    }

    public void rowsLeft(Connection connection, long rows) throws SQLException {
        prepare(connection);
        try (Statement statement = connection.createStatement()) {
            statement.executeUpdate("DELETE FROM " + table + " WHERE item = '" + LEFT + "'");
            statement.executeUpdate("INSERT INTO " + table + " VALUES ('" + LEFT + "', '" + rows + "')");
        }
    }

    /** Writes down how the stage ended; in a file beside the database where that takes nothing now. */
    public void end(Connection connection, String how) throws SQLException {
        try (PreparedStatement insert = connection.prepareStatement("INSERT INTO " + table + " VALUES (?, ?)")) {
            insert.setString(1, ENDED);
            insert.setString(2, how);
            insert.executeUpdate();
        } catch (SQLException e) {
            try {
                Files.writeString(beside(), how);
            } catch (IOException | InvalidPathException noFile) {
                e.addSuppressed(noFile);
                throw e;
            }
        }
    }

    public Optional<String> ended(Connection connection) throws SQLException {
        String written = all(connection).get(ENDED);
        try {
            return written == null && Files.isRegularFile(beside())
                    ? Optional.of(Files.readString(beside()))
                    : Optional.ofNullable(written);
        } catch (IOException e) {
            throw new SQLException(beside() + " cannot be read: " + e.getMessage(), e);
        } catch (InvalidPathException e) {
            return Optional.ofNullable(written); // a database of a server
        }
    }

    private Path beside() {
        return Path.of(place.database() + ".zabbet-ended");
    }

    /** Returns all that is written down; nothing where there is no record, or no right to read it. */
    public Map<String, String> all(Connection connection) {
        Map<String, String> all = new LinkedHashMap<>();
        try (Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("SELECT item, said FROM " + table)) {
            while (rows.next()) {
                all.put(rows.getString(1), rows.getString(2));
            }
        } catch (SQLException e) {
            return Map.of();
        }
        return all;
    }
}
