package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Session;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicLong;

/**
 * What this process has read from information_schema, which MariaDB works out again for each query: valid as long as the
 * server counts no further statement that changes tables or triggers, of whomever but ourselves.
 */
final class MariaDbCatalog {
    private static final int MOST = 64;
    private static final Map<String, MariaDbCatalog> BY_USER = new ConcurrentHashMap<>();
    private static final Map<String, AtomicLong> OWN = new ConcurrentHashMap<>(); // by server

    /** The server's counts start over with it; when it started is known to a few seconds. */
    private static final String COUNTED = """
            SELECT CONCAT(CURRENT_USER(), '/', DATABASE()), CONCAT(@@hostname, ':', @@port, '/', ROUND((UNIX_TIMESTAMP(SYSDATE()) -
            SUM(IF(VARIABLE_NAME = 'UPTIME', VARIABLE_VALUE, 0))) / 10)),
            SUM(IF(VARIABLE_NAME = 'UPTIME', 0, VARIABLE_VALUE)) FROM information_schema.GLOBAL_STATUS
            WHERE VARIABLE_NAME IN ('UPTIME', 'COM_CREATE_TABLE', 'COM_ALTER_TABLE', 'COM_DROP_TABLE', 'COM_RENAME_TABLE',
            'COM_DROP_DB', 'COM_CREATE_DB', 'COM_ALTER_DB', 'COM_CREATE_TRIGGER', 'COM_DROP_TRIGGER', 'COM_CREATE_INDEX',
            'COM_DROP_INDEX', 'COM_CREATE_SEQUENCE', 'COM_DROP_SEQUENCE', 'COM_GRANT', 'COM_REVOKE')""";

    private final long count;
    private final AtomicLong own;
    private final Map<String, Object> known = new ConcurrentHashMap<>();

    private MariaDbCatalog(long count, AtomicLong own) {
        this.count = count;
        this.own = own;
    }

    /** Returns what is known of the catalog as it is now. */
    static MariaDbCatalog of(Connection connection) throws SQLException {
        List<String> row = new ArrayList<>();
        SchemaDraft.each(connection, COUNTED, rows -> {
            row.add(rows.getString(1));
            row.add(rows.getString(2));
            row.add(rows.getString(3));
        });
        AtomicLong own = OWN.computeIfAbsent(row.get(1), server -> new AtomicLong());
        if (BY_USER.size() > MOST) {
            BY_USER.clear(); // of databases that are gone, perhaps
        }
        long count = (long) Double.parseDouble(row.get(2)) - own.get();
        return BY_USER.compute(
                row.get(1) + "/" + row.get(0),
                (user, before) -> before != null && before.count == count ? before : new MariaDbCatalog(count, own));
    }

    /** Says that a stage has run so many statements that the server counts, and that change no table of the application's. */
    void altered(int statements) {
        own.addAndGet(statements);
    }

    /** Tells whether {@link #note} said so. */
    boolean isSo(String what) {
        return known.containsKey(what);
    }

    void note(String what) {
        known.put(what, true);
    }

    /** Forgets what was read under a name, and under those that begin with it. */
    void forget(String name) {
        known.keySet().removeIf(key -> key.startsWith(name));
    }

    /** Returns what was read under a name, or reads it. */
    <V> V get(String name, Class<V> type, Session.Call<V> reading, Connection connection) throws SQLException {
        Object there = known.get(name);
        if (there == null) {
            there = reading.on(connection);
            known.put(name, there);
        }
        return type.cast(there);
    }

    /**
     * A trigger.
     *
     * @param when its timing and event, as in {@code BEFORE INSERT}
     */
    record Trigger(String database, String name, String when, String table, String body, String mode, String definer) {
        boolean isOurs() {
            return name.startsWith("zabbet_");
        }
    }

    /** The triggers of some databases, in the order in which they fire. */
    private record Triggers(List<Trigger> all) {}

    /** Returns all triggers whose bodies the user may see, our own too. */
    List<Trigger> triggers(Connection connection, MariaDbDatabases databases) throws SQLException {
        return get(
                        "triggers of " + databases.names(),
                        Triggers.class,
                        c -> {
                            List<Trigger> all = new ArrayList<>();
                            databases.each(
                                    c,
                                    "SELECT TRIGGER_SCHEMA, TRIGGER_NAME, CONCAT(ACTION_TIMING, ' ', EVENT_MANIPULATION),"
                                            + " EVENT_OBJECT_TABLE, COALESCE(ACTION_STATEMENT, ''), SQL_MODE, DEFINER FROM"
                                            + " information_schema.TRIGGERS WHERE TRIGGER_SCHEMA = DATABASE() ORDER BY"
                                            + " EVENT_OBJECT_TABLE, ACTION_TIMING, EVENT_MANIPULATION, ACTION_ORDER",
                                    rows -> all.add(new Trigger(
                                            rows.getString(1),
                                            rows.getString(2),
                                            rows.getString(3),
                                            rows.getString(4),
                                            rows.getString(5),
                                            rows.getString(6),
                                            rows.getString(7))));
                            return new Triggers(all);
                        },
                        connection)
                .all();
    }
}
