package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.Journal.Event;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.track.ShadowJournal;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The tables and triggers that the journal consists of in MariaDB. They stay in the database, and note nothing while no
 * stage is open.
 *
 * <p>A writer locks the one row of {@code zabbet_noting} for as long as its transaction lasts; whoever wants to know whether
 * somebody is still writing asks for that row alone. {@code zabbet_log} says which tables were touched.
 */
final class MariaDbNotes {
    private static final String WATCHED = "all tables are watched";

    /** So many images of a table are not deleted one by one. */
    private static final int MANY = 20_000;

    private final MariaDbJournal journal;
    private final Schema schema;
    private boolean untransacted = true; // some tables are, as far as is known
    private final Map<Integer, Table> byNumber = new HashMap<>();
    private final Map<Table, Integer> numbers = new HashMap<>();

    MariaDbNotes(MariaDbJournal journal, Schema schema) {
        this.journal = journal;
        this.schema = schema;
    }

    /** Returns the name of one of our tables, for triggers in other databases too. */
    String name(String table) {
        return journal.home() + table;
    }

    @Nullable
    Table table(int number) {
        return byNumber.get(number);
    }

    boolean areThere(Connection connection, String version) throws SQLException {
        return versions(connection).contains(version)
                && SchemaDraft.texts(connection, "SELECT COUNT(*) FROM zabbet_noting")
                        .contains("1");
    }

    private static List<String> versions(Connection connection) throws SQLException {
        return SchemaDraft.texts(
                connection,
                "SELECT TABLE_COMMENT FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME ="
                        + " 'zabbet_noting'");
    }

    /** What a copy of a database brings along says nothing of it. */
    boolean isNoting(Connection connection, String version) throws SQLException {
        List<String> versions = versions(connection);
        return !versions.isEmpty()
                && version.endsWith(versions.get(0).replaceFirst("^.*? of ", " of "))
                && SchemaDraft.texts(connection, "SELECT noting FROM zabbet_noting")
                        .contains("1");
    }

    void make(Connection connection, String version) throws SQLException {
        requireWholeBatches(connection);
        MariaDbCatalog.of(connection).altered(5);
        ShadowJournal.execute(
                connection,
                List.of(
                        "CREATE SEQUENCE " + name("zabbet_numbers") + " CACHE 1000",
                        "CREATE TABLE " + name("zabbet_log")
                                + " (number BIGINT UNSIGNED NOT NULL PRIMARY KEY, tab INT NOT NULL) ENGINE = InnoDB",
                        "CREATE TABLE " + name("zabbet_kept")
                                + " (number BIGINT UNSIGNED NOT NULL PRIMARY KEY, tab INT NOT NULL) ENGINE = MyISAM",
                        "CREATE TABLE " + name("zabbet_tables")
                                + " (tab INT NOT NULL PRIMARY KEY, place VARCHAR(200) NOT"
                                + " NULL, made INT NOT NULL, reading MEDIUMTEXT NOT NULL) ENGINE = InnoDB CHARACTER SET"
                                + " utf8mb4 COLLATE utf8mb4_bin",
                        "CREATE TABLE " + name("zabbet_noting") + " (one INT NOT NULL PRIMARY KEY, noting INT NOT NULL)"
                                + " ENGINE = InnoDB COMMENT = " + journal.dialect.literal(version),
                        "INSERT INTO " + name("zabbet_noting") + " VALUES (1, 0)"));
    }

    /**
     * MariaDB 10.11.5 keeps one row of a batch that its driver sends at once, where the table has a trigger, and says nothing: with
     * the journal the application would lose rows.
     */
    private void requireWholeBatches(Connection connection) throws SQLException {
        String tried = name("zabbet_tried");
        String noted = name("zabbet_tried_noted");
        ShadowJournal.execute(
                connection,
                List.of(
                        "CREATE OR REPLACE TABLE " + tried + " (n INT NOT NULL) ENGINE = InnoDB",
                        "CREATE OR REPLACE TABLE " + noted + " (n INT NOT NULL) ENGINE = InnoDB",
                        "CREATE TRIGGER " + tried + " AFTER INSERT ON " + tried + " FOR EACH ROW INSERT INTO " + noted
                                + " VALUES (NEW.n)"));
        List<String> stored;
        try (PreparedStatement insert = connection.prepareStatement("INSERT INTO " + tried + " VALUES (?)")) {
            for (int i = 1; i <= 3; i++) {
                insert.setInt(1, i);
                insert.addBatch();
            }
            insert.executeBatch();
            stored = SchemaDraft.texts(connection, "SELECT COUNT(*) FROM " + tried);
        } finally {
            ShadowJournal.execute(connection, List.of("DROP TABLE " + tried + ", " + noted));
        }
        if (!stored.equals(List.of("3"))) {
            throw new ZabbetException("MariaDB " + connection.getMetaData().getDatabaseProductVersion()
                    + " loses rows of a batch where a table has a trigger, as it has with Zabbet's journal: of 3 rows it stored "
                    + stored.get(0)
                    + ". That is a fault of this version; take another, or have the driver send rows one by"
                    + " one, by useBulkStmts=false in the JDBC URL.");
        }
    }

    private static String place(Table table) {
        return table.sqlSchema() + "/" + table.sqlName();
    }

    /** Learns the numbers of tables from a journal that is there. */
    void know(Connection connection) throws SQLException {
        if (byNumber.isEmpty()) {
            Map<String, Table> places = new HashMap<>();
            schema.tables().forEach(table -> places.put(place(table), table));
            SchemaDraft.each(connection, "SELECT tab, place FROM " + name("zabbet_tables"), rows -> {
                Table table = places.get(rows.getString(2));
                if (table != null) {
                    byNumber.put(rows.getInt(1), table);
                    numbers.put(table, rows.getInt(1));
                }
            });
        }
    }

    /**
     * Makes what is missing: shadows and triggers of tables that are new, or others than when theirs were made.
     *
     * @param engines the storage engines of tables that know no transactions, by place
     */
    void watch(Connection connection, Map<String, String> engines) throws SQLException {
        untransacted = !engines.isEmpty();
        byNumber.clear();
        numbers.clear();
        know(connection);
        AtomicInteger last = new AtomicInteger();
        Map<String, Integer> made = new HashMap<>();
        SchemaDraft.each(connection, "SELECT tab, place, made FROM " + name("zabbet_tables"), rows -> {
            last.accumulateAndGet(rows.getInt(1), Math::max);
            made.put(rows.getString(2), rows.getInt(3));
        });
        MariaDbCatalog catalog = MariaDbCatalog.of(connection);
        if (catalog.isSo(WATCHED)) {
            return; // since this process has looked, nobody has changed anything
        }
        Set<String> triggers = new HashSet<>();
        for (MariaDbCatalog.Trigger trigger : catalog.triggers(connection, journal.databases(connection))) {
            triggers.add(journal.dialect.quote(trigger.database()) + "." + journal.dialect.quote(trigger.name())
                    + " on " + trigger.table());
        }
        for (Table table : schema.tables()) {
            if (!numbers.containsKey(table)) {
                numbers.put(table, last.incrementAndGet());
                byNumber.put(last.get(), table);
            }
        }
        for (Table table : schema.tables()) {
            int statements =
                    watch(connection, table, engines.getOrDefault(place(table), ""), made.get(place(table)), triggers);
            if (statements > 0) {
                catalog.altered(statements);
                catalog.forget("triggers");
            }
        }
        catalog.note(WATCHED);
    }

    /** Returns how many statements it took. */
    private int watch(Connection connection, Table table, String engine, @Nullable Integer made, Set<String> triggers)
            throws SQLException {
        List<Trigger> wanted = triggers(table, engine.isEmpty());
        List<String> sql = new ArrayList<>();
        String shadow = "CREATE OR REPLACE TABLE " + journal.shadow(table) + " (PRIMARY KEY (zabbet_number)) ENGINE = "
                + (engine.isEmpty() ? "InnoDB" : engine) + " AS SELECT CAST(0 AS UNSIGNED) AS zabbet_number, 'b' AS"
                + " zabbet_side, " + journal.columns(table, "") + " FROM " + journal.dialect.name(table)
                + " WHERE FALSE";
        int now = (shadow + types(table) + wanted).hashCode();
        boolean there = wanted.stream().allMatch(t -> triggers.contains(t.name() + " on " + table.sqlName()));
        if (there && made != null && made == now) {
            return 0;
        }
        for (Trigger trigger : wanted) {
            if (triggers.contains(trigger.name() + " on " + table.sqlName())) {
                sql.add("DROP TRIGGER " + trigger.name());
            }
        }
        sql.add(shadow);
        wanted.forEach(trigger -> sql.add(trigger.text()));
        ShadowJournal.execute(connection, sql);
        try (PreparedStatement statement = connection.prepareStatement(
                "REPLACE INTO " + name("zabbet_tables") + " (tab, place, made, reading) VALUES (?, ?, ?, ?)")) {
            statement.setInt(1, numbers.getOrDefault(table, 0));
            statement.setString(2, place(table));
            statement.setInt(3, now);
            statement.setString(
                    4,
                    "SELECT " + numbers.get(table) + ", zabbet_number, zabbet_side, " + journal.columns(table, "")
                            + " FROM " + journal.shadow(table) + " WHERE zabbet_number > ");
            statement.executeUpdate();
        }
        return sql.size();
    }

    private static String types(Table table) {
        return table.columns().stream()
                .map(c -> c.type().sqlName() + c.nullable() + c.isComputed())
                .collect(Collectors.joining(","));
    }

    /** A trigger: its name, and the statement that makes it. */
    private record Trigger(String name, String text) {}

    /**
     * An upsert that changes nothing calls the trigger before the update and not the one after it (seen on MariaDB 11.4, not on
     * 10.11): the image before has a side of its own, 'u', and where it is the last word on a row, whoever reads it looks at the row.
     * Of a table without a key both images are noted afterwards.
     *
     * <p>Where a row can be found by its key, its image is read from the table, and not from OLD and NEW: a column that was
     * dropped since makes that statement fail, which the trigger takes no notice of, and not the application's.
     */
    private List<Trigger> triggers(Table table, boolean transacted) {
        MariaDbFollowers followers = new MariaDbFollowers(schema, journal);
        boolean byKey = transacted && !table.keyColumns().isEmpty();
        String logged = transacted ? logged(table) : logged(table).replace("zabbet_log", "zabbet_kept");
        String before = byKey ? logged + image(table, 'u', "OLD", true) : "DO 0; ";
        String after = byKey ? "" : logged + image(table, 'b', "OLD", false);
        String follow = followers.of(table, true);
        return List.of(
                trigger(table, "i", "AFTER INSERT", logged + image(table, 'a', "NEW", byKey)),
                trigger(table, "u", "BEFORE UPDATE", before + follow),
                trigger(table, "v", "AFTER UPDATE", after + image(table, 'a', "NEW", byKey)),
                trigger(
                        table,
                        "d",
                        "BEFORE DELETE",
                        logged + image(table, 'b', "OLD", byKey) + followers.of(table, false)));
    }

    /** Returns the statement that says that a table was touched. */
    String logged(Table table) {
        return "INSERT INTO " + name("zabbet_log") + " VALUES (" + journal.next() + ", " + numbers.get(table) + "); ";
    }

    private String image(Table table, char side, String row, boolean byKey) {
        String into = "INSERT INTO " + journal.shadow(table) + " (zabbet_number, zabbet_side, "
                + journal.columns(table, "") + ") ";
        if (!byKey) {
            return into + "VALUES (" + journal.next() + ", '" + side + "', " + journal.columns(table, row + ".") + ");";
        }
        String key = table.keyColumns().stream()
                .map(c -> journal.dialect.quote(table.requireColumn(c).sqlName()))
                .map(c -> "zabbet_row." + c + " = " + row + "." + c)
                .collect(Collectors.joining(" AND "));
        return into + "SELECT " + journal.next() + ", '" + side + "', " + journal.columns(table, "zabbet_row.")
                + " FROM " + journal.dialect.name(table) + " zabbet_row WHERE " + key + ";";
    }

    private Trigger trigger(Table table, String kind, String when, String body) {
        String name = journal.beside(table, "zabbet_" + kind + "_");
        return new Trigger(
                name,
                "CREATE TRIGGER " + name + " " + when + " ON " + journal.dialect.name(table)
                        + " FOR EACH ROW BEGIN DECLARE CONTINUE HANDLER FOR 1054, 1146 SET @zabbet_on = 0;"
                        + " IF @zabbet_quiet IS NULL THEN SELECT noting INTO @zabbet_on FROM " + name("zabbet_noting")
                        + " WHERE one = 1 LOCK IN SHARE MODE; IF @zabbet_on > 0 THEN " + body + " END IF; END IF; END");
    }

    /** Waits for whoever has written and not yet committed. */
    void begin(Connection connection, boolean together) throws SQLException {
        ShadowJournal.execute(connection, List.of("SET innodb_lock_wait_timeout = 2"));
        try {
            ShadowJournal.execute(
                    connection, List.of("UPDATE " + name("zabbet_noting") + " SET noting = " + (together ? 2 : 1)));
        } finally {
            ShadowJournal.execute(connection, List.of("SET innodb_lock_wait_timeout = 5"));
        }
        forgetAll(connection);
    }

    void rest(Connection connection) throws SQLException {
        if (!SchemaDraft.texts(
                        connection,
                        "SELECT 1 FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME ="
                                + " 'zabbet_noting'")
                .isEmpty()) {
            ShadowJournal.execute(connection, List.of("UPDATE " + name("zabbet_noting") + " SET noting = 0"));
            forgetAll(connection);
        }
    }

    private void forgetAll(Connection connection) throws SQLException {
        know(connection);
        List<String> sql = new ArrayList<>();
        SchemaDraft.each(connection, "SELECT l.tab, COUNT(*) FROM " + logged(0) + " GROUP BY l.tab", rows -> {
            Table table = byNumber.get(rows.getInt(1));
            if (table != null) {
                sql.add((rows.getLong(2) > MANY ? "TRUNCATE TABLE " : "DELETE FROM ") + journal.shadow(table));
            }
        });
        if (!sql.isEmpty()) {
            sql.addAll(forgetting(Journal.Stretch.all(0)));
            ShadowJournal.execute(connection, sql);
        }
    }

    /** Returns what stands in the log after a number, as a table l: of tables that know no transactions it is kept apart. */
    String logged(long after) {
        String where = " WHERE number > " + after;
        return untransacted
                ? "(SELECT number, tab FROM " + name("zabbet_log") + where + " UNION ALL SELECT number, tab FROM "
                        + name("zabbet_kept") + where + ") l"
                : "(SELECT number, tab FROM " + name("zabbet_log") + where + ") l";
    }

    /** Returns the statements that delete what stands in the log of events. */
    List<String> forgetting(Journal.Stretch stretch) {
        String where = " WHERE number > " + stretch.after() + MariaDbJournal.upTo(stretch, "number");
        return List.of("DELETE FROM " + name("zabbet_log") + where, "DELETE FROM " + name("zabbet_kept") + where);
    }

    /** Returns statements that give the images after a number, a result for each table that was touched. */
    String reading(long after) {
        return "FOR touched IN (SELECT DISTINCT l.tab FROM " + logged(after)
                + ") DO SELECT reading INTO @zabbet_reading FROM "
                + name("zabbet_tables") + " WHERE tab = touched.tab; EXECUTE IMMEDIATE CONCAT(@zabbet_reading, " + after
                + "); END FOR; ";
    }

    /** Returns the statement that stores rows again: read to their end first, since the table's triggers use the shadow. */
    String restoring(Table table, List<Event> events) {
        List<String> columns = table.columns().stream()
                .filter(c -> !c.isComputed())
                .map(Column::sqlName)
                .map(journal.dialect::quote)
                .toList();
        return "FOR image IN (SELECT " + String.join(", ", columns) + " FROM " + journal.shadow(table)
                + " WHERE zabbet_number IN ("
                + events.stream().map(e -> String.valueOf(e.number())).collect(Collectors.joining(", "))
                + ")) DO INSERT INTO "
                + journal.dialect.name(table) + " (" + String.join(", ", columns) + ") VALUES ("
                + columns.stream().map(c -> "image." + c).collect(Collectors.joining(", ")) + "); END FOR";
    }
}
