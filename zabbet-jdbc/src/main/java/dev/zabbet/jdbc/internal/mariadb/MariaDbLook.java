package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.CurrentRows;
import dev.zabbet.jdbc.internal.dialect.Journal.Event;
import dev.zabbet.jdbc.internal.dialect.Journal.Look;
import dev.zabbet.jdbc.internal.dialect.OpenTransactions;
import dev.zabbet.jdbc.internal.dialect.SchemaChangedException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Reads what MariaDB's triggers have noted, and who still has a transaction open. */
final class MariaDbLook {
    static final int LOCK_WAIT_TIMEOUT = 1205;
    private static final int DEADLOCK = 1213;
    private static final int MOST_ATTEMPTS = 20;

    private final MariaDbJournal journal;

    MariaDbLook(MariaDbJournal journal) {
        this.journal = journal;
    }

    /** What is to be told of counters. */
    enum Telling {
        NOTHING,
        IF_CHANGED,
        COUNTERS
    }

    /** Who waits for writers that wait for one another may be the one that the server chooses to give up. */
    Look look(Connection connection, long after, Telling telling) throws SQLException {
        for (int attempt = 1; ; attempt++) {
            try {
                return attempt(connection, after, telling);
            } catch (SQLException e) {
                if (e.getErrorCode() != DEADLOCK || attempt == MOST_ATTEMPTS || journal.together || journal.joined) {
                    throw e;
                }
            }
        }
    }

    /** All in one statement, which gives a result for each table that was touched. */
    private Look attempt(Connection connection, long after, Telling telling) throws SQLException {
        boolean inside = journal.together || journal.joined;
        boolean counters = telling == Telling.COUNTERS
                && !inside
                && journal.maria.counters().isTold();
        boolean changes = telling == Telling.IF_CHANGED && !inside;
        StringBuilder sql = new StringBuilder("BEGIN NOT ATOMIC ");
        if (!inside) { // a number that is taken while nobody writes: all that is noted later has a greater one
            sql.append("DECLARE n INT; DECLARE zabbet_here BIGINT; SET innodb_lock_wait_timeout = 2; SELECT noting, ")
                    .append(journal.next())
                    .append(" INTO n, zabbet_here FROM ")
                    .append(journal.notes.name("zabbet_noting"))
                    .append(" WHERE one = 1 FOR UPDATE; SET innodb_lock_wait_timeout = 5; ");
        }
        sql.append("SELECT ").append(inside ? journal.next() : "zabbet_here, " + MariaDbJournal.COUNTED);
        if (changes) {
            sql.append(", EXISTS (SELECT 1 FROM " + journal.notes.logged(journal.lastNumber) + ")");
        }
        sql.append("; ");
        if (counters) {
            sql.append(journal.maria.counters().telling(journal.databases(connection)))
                    .append("; ");
        }
        if (after >= 0) {
            sql.append(journal.notes.reading(after));
        }
        List<Event> events = new ArrayList<>();
        Set<Long> updates = new HashSet<>(); // the numbers of images before an update
        long number = 0;
        String counted = "";
        boolean followed = false;
        StringBuilder told = new StringBuilder();
        boolean changed = false;
        try (Statement statement = connection.createStatement()) {
            boolean more = statement.execute(sql + "END");
            for (int at = 0; more || statement.getUpdateCount() != -1; more = statement.getMoreResults()) {
                if (!more) {
                    continue;
                }
                try (ResultSet rows = statement.getResultSet()) {
                    if (at == 0) {
                        rows.next();
                        number = rows.getLong(1);
                        counted = inside ? "" : rows.getString(2);
                        changed = changes && rows.getBoolean(3);
                    } else if (at == 1 && counters) {
                        while (rows.next()) {
                            told.append(rows.getString(1)).append(MariaDbCounters.END);
                        }
                    } else {
                        while (rows.next()) {
                            followed |= read(rows, events, updates);
                        }
                    }
                }
                at++;
            }
        } catch (SQLException e) {
            if (e.getErrorCode() == LOCK_WAIT_TIMEOUT) {
                MariaDbJournal.execute(connection, List.of("SET innodb_lock_wait_timeout = 5"));
                throw OpenTransactions.of(
                        transactions(connection, journal.databases(connection), "t.trx_rows_modified > 0 AND "));
            }
            if (e.getErrorCode() == MariaDbJournal.NO_SUCH_RIGHT && counters) {
                journal.maria.counters().mayNotBeTold();
                return look(connection, after, telling);
            }
            throw e;
        }
        if (!inside) {
            if (!journal.fingerprint(connection, counted).equals(journal.fingerprint)
                    && !journal.fingerprint.isEmpty()) {
                throw new SchemaChangedException();
            }
            journal.truncations.settled(connection, number);
            if (after >= 0) {
                journal.truncations.requireNone(connection, after);
            }
        }
        journal.lastNumber = telling == Telling.NOTHING ? journal.lastNumber : number;
        events.sort(Comparator.comparingLong(Event::number));
        boolean complete = telling == Telling.NOTHING && (followed || endsWithUpdate(events, updates));
        Optional<String> state = Optional.empty();
        if (counters) {
            state = Optional.of(told.toString());
        } else if (changes && !changed) {
            state = Optional.of(MariaDbCounters.UNCHANGED);
        }
        return new Look(
                number,
                number,
                complete ? new CurrentRows(journal.dialect, connection).complete(events) : events,
                state);
    }

    /** Reads one image; tells whether it is of a row that followed another. */
    private boolean read(ResultSet rows, List<Event> events, Set<Long> updates) throws SQLException {
        Table table = journal.notes.table(rows.getInt(1));
        if (table == null) {
            return false; // of one that is gone
        }
        String side = rows.getString(3);
        @Nullable Object[] values = new @Nullable Object[table.columns().size()];
        for (int i = 0; i < values.length; i++) {
            values[i] = journal.dialect.read(rows, i + 4, table.columns().get(i));
        }
        Row row = Row.of(table.columnNames(), values);
        boolean before = !side.equalsIgnoreCase("a");
        if (side.equals("u")) {
            updates.add(rows.getLong(2));
        }
        events.add(new Event(rows.getLong(2), table, before ? row : null, before ? null : row));
        return side.equals("B") || side.equals("A");
    }

    /** Tells whether the last that was noted of a row is that it was about to be updated: it has another key now, or is as it was. */
    private static boolean endsWithUpdate(List<Event> events, Set<Long> updates) {
        Map<Object, Long> last = new HashMap<>();
        if (!updates.isEmpty()) {
            for (Event event : events) {
                Row row = event.before() != null ? event.before() : event.after();
                if (row != null && CurrentRows.isKeyed(event.table(), row)) {
                    last.put(List.of(event.table().name(), CurrentRows.key(event.table(), row)), event.number());
                }
            }
        }
        return last.values().stream().anyMatch(updates::contains);
    }

    static List<String> transactions(Connection connection, MariaDbDatabases databases, String which) {
        List<String> open = new ArrayList<>();
        try {
            databases.each(
                    connection,
                    "SELECT t.trx_mysql_thread_id, COALESCE(t.trx_query, 'between two statements'), p.USER FROM"
                            + " information_schema.INNODB_TRX t JOIN information_schema.PROCESSLIST p"
                            + " ON p.ID = t.trx_mysql_thread_id WHERE " + which + "p.DB = DATABASE()"
                            + " AND t.trx_mysql_thread_id <> CONNECTION_ID()",
                    rows -> open.add(
                            "connection " + rows.getLong(1) + " of " + rows.getString(3) + ", " + rows.getString(2)));
        } catch (SQLException e) {
            open.add("another connection (the right PROCESS would tell which: " + e.getMessage() + ")");
        }
        if (open.isEmpty()) {
            open.add("of a connection that the server does not name");
        }
        return open;
    }
}
