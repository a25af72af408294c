package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The counters of AUTO_INCREMENT columns, as a stage knows them. To set one back takes an ALTER TABLE, the dearest statement
 * of all. A counter that only rows of the stage's own have moved is therefore left behind where it is, until the
 * application may take a number from it: often rows of the next test have brought it just there by then.
 */
final class MariaDbCounters {
    /** Nothing has happened since the counters were told last. */
    static final String UNCHANGED = "unchanged";

    /** Stands behind each counter that is told; names may hold any character but this. */
    static final String END = "\0";

    private static final int MANY = 10_000;

    private final MariaDbDialect dialect;
    private final Map<Table, Long> known = new HashMap<>(); // where they stand in the database
    private final Map<Table, Left> left = new HashMap<>();
    private final Map<Table, Long> own = new HashMap<>(); // past the greatest key that the stage has stored
    private boolean told = true;
    private long altered;

    /**
     * A counter that is further on than it should be.
     *
     * @param stands where it stands
     * @param belongs where it should stand
     */
    private record Left(long stands, long belongs) {}

    MariaDbCounters(MariaDbDialect dialect) {
        this.dialect = dialect;
    }

    /** Returns how many statements of ours have altered tables. */
    long altered() {
        return altered;
    }

    /** Returns the query that tells of all counters, for who may ask it: those of tables that the server has open. */
    String telling(MariaDbDatabases databases) {
        String database =
                "CONVERT(CONVERT(CAST(SUBSTRING_INDEX(NAME, '/', 1) AS BINARY) USING filename) USING utf8mb4)";
        String table = "CONVERT(CONVERT(CAST(SUBSTRING_INDEX(SUBSTRING_INDEX(NAME, '/', -1), '#', 1) AS BINARY) USING"
                + " filename) USING utf8mb4)";
        return "SELECT CONCAT(AUTOINC, ' ', " + database + ", '/', " + table
                + ") FROM information_schema.INNODB_SYS_TABLESTATS WHERE AUTOINC > 0 AND " + database + " IN ("
                + databases.names().stream().map(dialect::literal).collect(Collectors.joining(", ")) + ")";
    }

    boolean isTold() {
        return told;
    }

    void mayNotBeTold() {
        told = false;
    }

    /**
     * Returns the numbers that the counters give next, or should.
     *
     * @param said what the journal has told; null if nothing
     */
    Map<Table, Long> next(Connection connection, List<Table> tables, @Nullable String said) throws SQLException {
        if (said == null || !known.keySet().containsAll(tables)) {
            known.putAll(dialect.countersNow(connection, tables));
            tables.forEach(table -> known.putIfAbsent(table, 1L));
        } else if (!said.equals(UNCHANGED)) {
            read(connection, tables, said);
        }
        left.entrySet().removeIf(one -> one.getValue().stands() != known.getOrDefault(one.getKey(), 0L));
        Map<Table, Long> next = new HashMap<>();
        for (Table table : tables) {
            Left behind = left.get(table);
            next.put(table, behind != null ? behind.belongs() : known.getOrDefault(table, 1L));
        }
        return next;
    }

    private void read(Connection connection, List<Table> tables, String said) throws SQLException {
        Map<String, Long> byPlace = new HashMap<>();
        for (String line : said.isEmpty() ? new String[0] : said.split(END)) {
            int blank = line.indexOf(' ');
            byPlace.merge(line.substring(blank + 1), Long.valueOf(line.substring(0, blank)), Math::max);
        }
        List<Table> asked = new ArrayList<>();
        for (Table table : tables) {
            Long number = byPlace.get(table.sqlSchema() + "/" + table.sqlName());
            if (number != null) {
                known.put(table, number);
            } else if (known.getOrDefault(table, 1L) != 1) {
                asked.add(table); // the server has put it aside
            }
        }
        if (!asked.isEmpty()) {
            known.putAll(dialect.countersNow(connection, asked));
        }
    }

    /** Notes which keys the stage has stored itself. */
    void stored(Load load) {
        for (RowSource rows : load.inserts()) {
            Column numbered = rows.table().numberedColumn().orElse(null);
            int at = numbered == null || numbered.sequence().isPresent()
                    ? -1
                    : rows.columns().indexOf(numbered);
            if (at < 0 || rows.size() > MANY) {
                continue;
            }
            long most = 0;
            for (int row = 0; row < rows.size(); row++) {
                most = rows.value(row, at) instanceof Long key ? Math.max(most, key) : Long.MAX_VALUE - 1;
            }
            long next = most + 1;
            own.merge(rows.table(), next, Math::max);
            left.computeIfPresent(
                    rows.table(),
                    (table, behind) -> next >= behind.stands()
                            ? null
                            : new Left(behind.stands(), Math.max(behind.belongs(), next)));
            if (next > known.getOrDefault(rows.table(), Long.MAX_VALUE)) {
                known.put(rows.table(), next); // as the server does itself
            }
        }
    }

    /** Leaves a counter where it is if only rows of the stage's own have moved it; false if it has to be set back. */
    boolean leave(Table table, long belongs) {
        long stands = known.getOrDefault(table, 1L);
        if (!left.containsKey(table) && own.getOrDefault(table, 0L) != stands) {
            return false;
        }
        left.put(table, new Left(stands, belongs));
        return true;
    }

    /** The rows that the stage had stored are gone. */
    void rewound() {
        own.clear();
    }

    /** Returns where a counter that was left behind should stand; null if it was not. */
    @Nullable
    Long belongs(Table table) {
        Left behind = left.get(table);
        return behind == null ? null : behind.belongs();
    }

    /** Returns where counters that were left behind should stand, and forgets them. */
    Map<Table, Long> takeLeft() {
        Map<Table, Long> all = new HashMap<>();
        left.forEach((table, behind) -> all.put(table, behind.belongs()));
        left.clear();
        return all;
    }

    void alter(Connection connection, Table table, long next) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("ALTER TABLE " + dialect.name(table) + " AUTO_INCREMENT = " + next);
        }
        altered++;
        dialect.altered();
        known.put(table, next);
        left.remove(table);
    }
}
