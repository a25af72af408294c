package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.CurrentRows;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.NotedMeanwhileException;
import dev.zabbet.jdbc.internal.dialect.OpenTransactions;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentSkipListMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.atomic.LongAdder;
import java.util.concurrent.locks.ReadWriteLock;
import java.util.concurrent.locks.ReentrantReadWriteLock;
import org.jspecify.annotations.Nullable;

/**
 * Notes changes in H2 by a trigger in Java. The images of rows stay in this process; for each a marker is written into a
 * table, so that what is rolled back loses its marker and with it its image. UPDATE and DELETE are noted before they
 * happen, since afterwards H2 loses rows when several threads write.
 */
final class H2Journal implements Journal {
    private static final AtomicInteger IDS = new AtomicInteger();
    private static final int PATIENCE_MS = 2000;

    /** What tables look like, without what H2 counts again by itself after some thousand changes. */
    private static final String DEFINITIONS =
            "SELECT COUNT(*) || '/' || COALESCE(SUM(ORA_HASH(REGEXP_REPLACE(DB_OBJECT_SQL('TABLE', TABLE_SCHEMA, TABLE_NAME),"
                    + " ' SELECTIVITY [0-9]+', ''))), 0) FROM INFORMATION_SCHEMA.TABLES WHERE TABLE_TYPE = 'BASE TABLE'"
                    + " AND TABLE_SCHEMA" + H2Dialect.NOT_ITS_OWN;

    /** Which tables there are: one that gets other columns, or other types of them, becomes another object. */
    private static final String OBJECTS =
            "SELECT TABLE_SCHEMA, TABLE_NAME, ROW_COUNT_ESTIMATE, DB_OBJECT_ID('TABLE', TABLE_SCHEMA, TABLE_NAME) FROM"
                    + " INFORMATION_SCHEMA.TABLES WHERE TABLE_TYPE = 'BASE TABLE' AND TABLE_SCHEMA"
                    + H2Dialect.NOT_ITS_OWN;

    private static final String MARKER =
            "INSERT INTO ZABBET.JOURNAL SELECT CAST(? AS BIGINT), CAST(? AS VARCHAR), CAST(? AS CLOB), CAST(? AS CLOB)"
                    + " WHERE @ZABBET_QUIET IS NULL";

    private final H2JournalTables objectsInH2 = new H2JournalTables(this);
    final H2Dialect dialect;
    final Schema schema;
    final String prefix = "ZABBET_" + IDS.incrementAndGet() + "_";
    private final AtomicLong numbers = new AtomicLong();
    private final ReadWriteLock numbering = new ReentrantReadWriteLock(); // held until a number's marker is written
    private Map<Table, Long> counted = Map.of(); // how many rows tables had at the last look
    private List<Long> finished = List.of(); // images of transactions that had ended at the last look
    final NavigableMap<Long, Event> images = new ConcurrentSkipListMap<>();
    private final H2Truncations truncations = new H2Truncations();
    private final H2UnkeyedRows unkeyed;
    private final Map<String, Table> byName = new HashMap<>();
    private static final int MOST_LOOKS = 20; // while others go on writing, nothing can be said
    String fingerprint = "";
    String objects = "";
    private final boolean together; // all happens in one transaction
    private boolean joined; // what is asked now is
    private boolean tookOver;
    private volatile boolean lasting; // images are written into the database's file, too

    H2Journal(H2Dialect dialect, Schema schema, boolean together) {
        this.dialect = dialect;
        this.schema = schema;
        this.together = together;
        this.unkeyed = new H2UnkeyedRows(dialect, schema);
    }

    /** Looks whether tables are the same objects, which is soon done; only if they are not, at what they look like. */
    @Override
    public void install(Connection connection) throws SQLException {
        String found = look(connection);
        if (found.equals(objects)) {
            return;
        }
        installAfterAll(connection);
        objects = found;
    }

    /** Takes note of how many rows the tables have, and returns which objects they are. */
    private String look(Connection connection) throws SQLException {
        if (byName.isEmpty()) {
            schema.tables().forEach(table -> byName.put(table.sqlSchema() + "." + table.sqlName(), table));
        }
        LongAdder objects = new LongAdder();
        LongAdder versions = new LongAdder();
        Map<Table, Long> now = new LinkedHashMap<>();
        dialect.readOften(connection, OBJECTS, rows -> {
            objects.increment();
            versions.add(rows.getLong(4));
            Table table = byName.get(rows.getString(1) + "." + rows.getString(2));
            if (table != null) {
                now.put(table, rows.getLong(3));
            }
        });
        counted = now;
        truncations.look(now);
        return objects + "/" + versions;
    }

    @Override
    public Look here(Connection connection, boolean sequences) throws SQLException {
        await(connection);
        install(connection);
        long number = note(connection);
        return new Look(number, number, List.of(), Optional.empty());
    }

    @Override
    public Look changed(Connection connection, long after) throws SQLException {
        await(connection);
        install(connection);
        return new Look(after, after, events(connection, after), Optional.empty());
    }

    @Override
    public Look toUndo(Connection connection, long after) throws SQLException {
        List<Long> begun = List.copyOf(images.tailMap(after, false).keySet());
        await(connection);
        finished = begun;
        look(connection);
        installAfterAll(connection);
        List<Event> events = noted(connection, after);
        if (events.isEmpty()) {
            images.keySet().removeAll(finished); // of transactions that were rolled back
        }
        long markers =
                events.stream().filter(e -> !e.table().keyColumns().isEmpty()).count();
        return new Look(after, markers, events, Optional.empty());
    }

    /** Tables are told by H2's own text of them: of the columns' view it makes a row for each column of its own, too. */
    @Override
    public String fingerprint(Connection connection) throws SQLException {
        return text(connection, DEFINITIONS);
    }

    private String text(Connection connection, String sql) throws SQLException {
        return dialect.firstOften(connection, sql, rows -> rows.getString(1), "");
    }

    void note(Connection connection, String trigger, @Nullable ResultSet before, @Nullable ResultSet after)
            throws SQLException {
        String rest = trigger.substring(prefix.length());
        Table table = schema.tables().get(Integer.parseInt(rest.substring(0, rest.indexOf('_'))));
        Row then = row(table, before);
        Row now = row(table, after);
        numbering.readLock().lock();
        try (PreparedStatement marker = connection.prepareStatement(MARKER)) {
            long number = numbers.incrementAndGet();
            marker.setLong(1, number);
            marker.setString(2, lasting ? H2Images.name(table) : null);
            marker.setString(3, lasting && then != null ? H2Images.text(then) : null);
            marker.setString(4, lasting && now != null ? H2Images.text(now) : null);
            if (marker.executeUpdate() > 0) {
                images.put(number, new Event(number, table, then, now));
            }
        } finally {
            numbering.readLock().unlock();
        }
    }

    private @Nullable Row row(Table table, @Nullable ResultSet image) throws SQLException {
        if (image == null) {
            return null;
        }
        @Nullable Object[] values = new @Nullable Object[table.columns().size()];
        for (int i = 0; i < values.length; i++) {
            values[i] = dialect.read(image, i + 1, table.columns().get(i));
        }
        return Row.of(table.columnNames(), values);
    }

    /** Waits until each session that has a transaction open has ended it; others may have begun meanwhile. */
    @Override
    public void await(Connection connection) throws SQLException {
        if (together || joined) {
            return;
        }
        long deadline = System.nanoTime() + PATIENCE_MS * 1_000_000L;
        Map<Long, String> open = open(connection);
        while (!open.isEmpty()) {
            if (System.nanoTime() > deadline) {
                throw OpenTransactions.of(List.copyOf(open.values()));
            }
            sleep();
            Map<Long, String> now = open(connection);
            open.keySet().retainAll(now.keySet());
            open.replaceAll((session, statement) -> now.getOrDefault(session, statement));
        }
    }

    /** Begins to note; what a file holds is written down, so that another process can tell what became of it. */
    void begin(Connection connection) throws SQLException {
        lasting = !together && H2Images.isInFile(connection);
        for (int look = 0; lasting && look < MOST_LOOKS; look++) {
            long begun = position();
            await(connection);
            look(connection);
            Map<Table, List<Row>> rows = unkeyed.read(connection);
            boolean quiet = isQuietSince(connection, begun);
            if (quiet || look == MOST_LOOKS - 1) {
                H2Images.begin(
                        connection,
                        quiet ? counted : Map.of(),
                        rows); // counts of a moment when others write say nothing
                return;
            }
        }
    }

    /** Takes over what a process that died has noted in the file. */
    private void takeOver(Connection connection) throws SQLException {
        if (tookOver) {
            return;
        }
        tookOver = true;
        Map<Table, Long> now = new LinkedHashMap<>();
        for (Table table : schema.tables()) {
            now.put(table, new TableSql(dialect, table).count(connection));
        }
        H2Images.Left left = H2Images.read(connection, schema, now);
        for (Event event : left.events()) {
            images.put(event.number(), event);
            numbers.accumulateAndGet(event.number(), Math::max);
        }
        unkeyed.keep(0, left.unkeyed());
    }

    private Map<Long, String> open(Connection connection) throws SQLException {
        Map<Long, String> open = new TreeMap<>();
        dialect.readOften(
                connection,
                "SELECT SESSION_ID, COALESCE(EXECUTING_STATEMENT, 'between two statements')"
                        + " FROM INFORMATION_SCHEMA.SESSIONS WHERE CONTAINS_UNCOMMITTED AND SESSION_ID <> SESSION_ID()",
                rows -> open.put(rows.getLong(1), "session " + rows.getLong(1) + ", " + rows.getString(2)));
        return open;
    }

    @Override
    public long settle(Connection connection) throws SQLException {
        return note(connection);
    }

    /**
     * Takes a number and waits for whoever has noted something before it. What H2 calls an estimate is the number of rows
     * that it keeps: exact while no transaction is open, and so of use if nobody has noted anything since the number was taken.
     */
    long note(Connection connection) throws SQLException {
        for (int look = 0; ; look++) {
            long last = position();
            await(connection);
            Map<Table, List<Row>> contents = unkeyed.read(connection);
            look(connection);
            boolean quiet = isQuietSince(connection, last);
            if (!quiet && look < MOST_LOOKS) {
                continue;
            }
            unkeyed.keep(last, contents);
            if (quiet && !together && !joined) { // where TRUNCATE would commit, and so be noticed
                truncations.keep(last);
            }
            return last;
        }
    }

    /** Tells whether nobody has changed a row since: whoever stores one has it before he takes a number. */
    private boolean isQuietSince(Connection connection, long position) throws SQLException {
        return together || joined || (open(connection).isEmpty() && numbers.get() == position);
    }

    private long position() {
        numbering.writeLock().lock();
        try {
            return numbers.incrementAndGet();
        } finally {
            numbering.writeLock().unlock();
        }
    }

    private static void sleep() {
        try {
            Thread.sleep(5);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new ZabbetException("Interrupted while waiting for open transactions.", e);
        }
    }

    @Override
    public List<Event> noted(Connection connection, long after) throws SQLException {
        if (fingerprint.isEmpty()) {
            if (!H2JournalTables.hasTable(connection, "JOURNAL")) {
                return new ArrayList<>(); // it was dropped, as is advised where not all can be told
            }
            takeOver(connection);
        }
        List<Event> events = read(connection, after);
        Optional<Table> truncated = truncations.suspected(after, events);
        for (int look = 0; truncated.isPresent() && look < MOST_LOOKS; look++) {
            // Rows are counted and events are read at two moments: what others change in between is no truncation.
            long begun = position();
            await(connection);
            look(connection);
            events = read(connection, after);
            truncated = truncations.suspected(after, events);
            if (truncated.isPresent()
                    && truncations.isTruncated(
                            truncated.get(), after, events, unkeyed.read(connection, truncated.get()))
                    && isQuietSince(connection, begun)) {
                throw new ZabbetException("Table " + truncated.get().name()
                        + " was truncated, and H2 tells nobody which rows it held. Use DELETE in the code under test, or"
                        + " open a new stage after it.");
            }
        }
        unkeyed.addChanges(connection, after, numbers::incrementAndGet, events);
        return events;
    }

    private List<Event> read(Connection connection, long after) throws SQLException {
        List<Event> events = new ArrayList<>();
        dialect.readOften(
                connection,
                "SELECT NUMBER FROM ZABBET.JOURNAL WHERE NUMBER > ? ORDER BY NUMBER",
                rows -> {
                    Event event = images.get(rows.getLong(1));
                    if (event == null) { // somebody has written into the journal
                        throw new ZabbetException(
                                "The journal of this H2 database tells of a change that nobody has noted.");
                    }
                    events.add(event);
                },
                after);
        return events;
    }

    @Override
    public List<Event> events(Connection connection, long after) throws SQLException {
        return new CurrentRows(dialect, connection).complete(noted(connection, after));
    }

    @Override
    public void takeAway(Connection connection, Table table, Collection<Event> events) throws SQLException {
        List<Row> rows = new ArrayList<>();
        for (Event event : events) {
            if (event.after() != null) {
                rows.add(event.after());
            }
        }
        new TableSql(dialect, table).delete(connection, rows);
    }

    @Override
    public void restore(Connection connection, Table table, Collection<Event> events) throws SQLException {
        List<Row> rows = new ArrayList<>();
        for (Event event : events) {
            if (event.before() != null) {
                rows.add(event.before());
            }
        }
        new TableSql(dialect, table).restoreAll(connection, rows);
    }

    @Override
    public void forget(Connection connection, Stretch stretch) throws SQLException {
        long after = stretch.after();
        AtomicLong deleted = new AtomicLong();
        dialect.often(connection, "DELETE FROM ZABBET.JOURNAL WHERE NUMBER > ?", delete -> {
            delete.setLong(1, after);
            deleted.set(delete.executeUpdate());
        });
        if (stretch.seen().isPresent() && stretch.seen().getAsLong() != deleted.get()) {
            throw new NotedMeanwhileException();
        }
        images.keySet().removeAll(finished);
        truncations.forget(after);
        unkeyed.forgetAfter(after);
    }

    @Override
    public void joins(boolean transaction) {
        joined = transaction;
    }

    /** What is asked for from now on is noted from now on. */
    @Override
    public void undone() {
        if (joined) {
            return; // what happened before the transaction is still to be told
        }
        images.clear();
        truncations.forgetAll();
        unkeyed.forgetAll();
    }

    @Override
    public boolean isNoting(Connection connection) throws SQLException {
        return H2JournalTables.hasTable(connection, "JOURNAL")
                || H2JournalTables.hasTable(connection, "RESTING")
                || H2JournalTables.found(connection, "TRIGGERS WHERE TRIGGER_NAME LIKE 'ZABBET\\_%'");
    }

    @Override
    public String end(Connection connection) {
        return String.valueOf(numbers.get());
    }

    @Override
    public void remove(Connection connection) throws SQLException {
        objectsInH2.remove(connection);
    }

    @Override
    public void installAfterAll(Connection connection) throws SQLException {
        objectsInH2.installAfterAll(connection);
    }
}
