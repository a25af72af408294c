package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * Notices tables that were truncated or rebuilt, for which no trigger fires. InnoDB gives them other numbers, which it
 * tells a user with the right PROCESS. To others it counts as emptied if the server has truncated some table meanwhile,
 * and of the rows that were there none is left untouched.
 */
final class MariaDbTruncations {
    private static final int NO_SUCH_RIGHT = 1227;

    private final MariaDbJournal journal;
    private String counts = "";
    private String truncations = "";
    private Map<String, String> ids = Map.of();
    private boolean tellsIds = true;

    /** What was so at each position; without the right, the tables that held rows. */
    private final NavigableMap<Long, State> at = new TreeMap<>();

    private record State(String truncations, Map<String, String> tables) {}

    MariaDbTruncations(MariaDbJournal journal) {
        this.journal = journal;
    }

    /**
     * Takes what the server has counted so far of statements that give tables other numbers, and of those among them that
     * truncate one.
     */
    void look(Connection connection, String counted, String truncated) throws SQLException {
        if (tellsIds && !counted.equals(counts)) {
            try {
                ids = tableIds(connection);
            } catch (SQLException e) {
                if (e.getErrorCode() != NO_SUCH_RIGHT) {
                    throw e;
                }
                tellsIds = false;
            }
        }
        counts = counted;
        truncations = truncated;
    }

    /** Notes how it is at a position, after a look. */
    void settled(Connection connection, long position) throws SQLException {
        at.put(position, new State(truncations, tellsIds ? ids : held(connection)));
    }

    void forget(long after) {
        at.tailMap(after, false).clear();
    }

    /** Refuses to tell what changed since a position if a table was truncated; the last look was just now. */
    void requireNone(Connection connection, long after) throws SQLException {
        State before = at.get(after);
        if (before == null || (!tellsIds && before.truncations().equals(truncations))) {
            return;
        }
        for (Table table : journal.schema.tables()) {
            String then = before.tables().get(id(table));
            if (then != null && tellsIds && ids.containsKey(id(table))) {
                if (!then.equals(ids.get(id(table)))) {
                    throw new ZabbetException(
                            "Table " + table.name() + " was truncated or rebuilt, and MariaDB tells"
                                    + " nobody which rows it held. Use DELETE in the code under test, or open a new stage after it.");
                }
            } else if (then != null && !tellsIds && !holdsUntouched(connection, table, after)) {
                throw new ZabbetException(
                        "Table " + table.name() + " holds none of its rows any more, and something was"
                                + " truncated meanwhile: if it was this table, MariaDB tells nobody which rows it held. Use DELETE"
                                + " in the code under test, open a new stage after it, or grant the database user the right PROCESS,"
                                + " which tells the two apart (GRANT PROCESS ON *.* TO the user).");
            }
        }
    }

    private static String id(Table table) {
        return table.sqlSchema() + "/" + table.sqlName();
    }

    /** Names are written there as those of files are; each part of a partitioned table has a number of its own. */
    private Map<String, String> tableIds(Connection connection) throws SQLException {
        String database = "CONVERT(CAST(SUBSTRING_INDEX(NAME, '/', 1) AS BINARY) USING filename)";
        String table =
                "CONVERT(CAST(SUBSTRING_INDEX(SUBSTRING_INDEX(NAME, '/', -1), '#', 1) AS BINARY) USING filename)";
        Map<String, String> ids = new HashMap<>();
        journal.databases(connection)
                .each(
                        connection,
                        "SELECT DATABASE(), CONVERT(" + table + " USING utf8mb4), TABLE_ID FROM"
                                + " information_schema.INNODB_SYS_TABLES WHERE CONVERT(" + database
                                + " USING utf8mb4) = DATABASE() ORDER BY NAME",
                        rows -> ids.merge(
                                rows.getString(1) + "/" + rows.getString(2),
                                rows.getString(3),
                                (one, other) -> one + "," + other));
        return ids;
    }

    private Map<String, String> held(Connection connection) throws SQLException {
        Map<String, String> held = new HashMap<>();
        List<Table> tables = journal.schema.tables();
        String sql = IntStream.range(0, tables.size())
                .mapToObj(i -> "SELECT " + i + " FROM (SELECT 1) one WHERE EXISTS (SELECT 1 FROM "
                        + journal.dialect.name(tables.get(i)) + ")")
                .collect(Collectors.joining(" UNION ALL "));
        if (!sql.isEmpty()) {
            SchemaDraft.each(connection, sql, rows -> held.put(id(tables.get(rows.getInt(1))), "rows"));
        }
        return held;
    }

    private boolean holdsUntouched(Connection connection, Table table, long after) throws SQLException {
        String images = journal.shadow(table) + " s WHERE s.zabbet_number > " + after + " AND s.zabbet_side = 'a'";
        String rows = journal.dialect.name(table) + " t";
        String same = table.keyColumns().stream()
                .map(c -> journal.dialect.quote(table.requireColumn(c).sqlName()))
                .map(c -> " AND s." + c + " <=> t." + c)
                .collect(Collectors.joining());
        return SchemaDraft.first(
                        connection,
                        same.isEmpty()
                                ? "SELECT (SELECT COUNT(*) FROM " + rows + ") > (SELECT COUNT(*) FROM " + images + ")"
                                : "SELECT EXISTS (SELECT 1 FROM " + rows + " WHERE NOT EXISTS (SELECT 1 FROM " + images
                                        + same + "))",
                        row -> row.getBoolean(1))
                .orElse(false);
    }
}
