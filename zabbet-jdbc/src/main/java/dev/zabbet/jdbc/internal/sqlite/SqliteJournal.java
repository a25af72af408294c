package dev.zabbet.jdbc.internal.sqlite;

import dev.zabbet.jdbc.internal.dialect.NotedMeanwhileException;
import dev.zabbet.jdbc.internal.dialect.OpenTransactions;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.jdbc.internal.track.ShadowJournal;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Notes changes in SQLite. Positions are epochs: a number that each image takes along and that is moved on when somebody
 * wants a position after one; only one transaction writes at a time, so that an image is either before it or after it.
 */
final class SqliteJournal extends ShadowJournal {
    private long lastVersion = -1;
    private String text = "";

    private final boolean together; // all happens in one transaction
    private boolean joined; // what is asked now is

    SqliteJournal(SqliteDialect dialect, Schema schema, boolean together) {
        super(dialect, schema);
        this.together = together;
    }

    /**
     * Whatever is made or dropped moves the version; only then is the text looked at that made tables and our triggers.
     * Triggers of the application that are younger than ours would fire before them.
     */
    @Override
    public String fingerprint(Connection connection) throws SQLException {
        long version = dialect.firstOften(connection, "PRAGMA schema_version", rows -> rows.getLong(1), 0L);
        if (version != lastVersion) {
            StringBuilder all = new StringBuilder();
            SchemaDraft.each(
                    connection,
                    "SELECT sql FROM sqlite_master WHERE type <> 'trigger' AND tbl_name NOT LIKE 'zabbet\\_%' ESCAPE '\\'"
                            + " AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\'"
                            + " OR type = 'trigger' AND (name LIKE 'zabbet\\_%' ESCAPE '\\' OR rowid > (SELECT MAX(rowid) FROM"
                            + " sqlite_master WHERE type = 'trigger' AND name LIKE 'zabbet\\_i\\_%' ESCAPE '\\')) ORDER BY name",
                    rows -> all.append(rows.getString(1)).append('\n'));
            lastVersion = version;
            text = all.toString();
        }
        return text;
    }

    @Override
    public String since() {
        return "zabbet_epoch >= ?";
    }

    /** A row that a new one would have pushed out ('c') counts as gone if it is gone: INSERT OR IGNORE leaves it. */
    @Override
    public String counting(Table table) {
        return table.keyColumns().isEmpty()
                ? " AND (zabbet_side <> 'c' OR NOT EXISTS (SELECT 1 FROM " + dialect.name(table) + " t WHERE t."
                        + SqliteDialect.rowId(table) + " = zabbet_row))"
                : "";
    }

    @Override
    public void create(Connection connection) throws SQLException {
        Transactions.atomically(connection, () -> {
            dropAll(connection);
            List<String> sql = new ArrayList<>();
            sql.add("CREATE TABLE zabbet_epoch (n INTEGER NOT NULL)");
            sql.add("INSERT INTO zabbet_epoch VALUES (1)");
            sql.add("CREATE TABLE zabbet_touched (tab INTEGER PRIMARY KEY, epoch INTEGER NOT NULL)");
            sql.add("CREATE INDEX zabbet_touched_at ON zabbet_touched (epoch)");
            for (int at = 0; at < schema.tables().size(); at++) {
                sql.add("INSERT INTO zabbet_touched VALUES (" + at + ", 0)");
            }
            for (Table table : schema.tables()) {
                sql.add("CREATE TABLE " + shadow(table)
                        + " (zabbet_number INTEGER PRIMARY KEY AUTOINCREMENT, zabbet_epoch,"
                        + " zabbet_side, zabbet_row, "
                        + columns(table, "") + ")");
                sql.add("CREATE INDEX " + dialect.quote("zabbet_at_" + table.sqlName()) + " ON " + shadow(table)
                        + " (zabbet_epoch)");
                triggers(table, sql);
            }
            execute(connection, sql);
        });
    }

    /**
     * An update of a row with a key is noted before it happens: SQLite does what references ask (a key that moves on in
     * the rows that refer to it, in the row itself too) before it fires what comes after, so that an image written then
     * could show a row half-way. Of rows without a key images are only counted, which may come in any order.
     */
    private void triggers(Table table, List<String> sql) {
        List<String> key = table.keyColumns().stream()
                .map(c -> dialect.quote(table.requireColumn(c).sqlName()))
                .toList();
        boolean keyed = !key.isEmpty();
        String into = "INSERT INTO " + shadow(table) + " (zabbet_epoch, zabbet_side, " + columns(table, "")
                + ") SELECT zabbet_epoch.n, ";
        String after = into + "'a', " + columns(table, "NEW.") + " FROM zabbet_epoch";
        String before = into + "'b', " + columns(table, "OLD.") + " FROM zabbet_epoch";
        String pushedOut = pushedOut(table, keyed);
        sql.add(trigger(table, "i", "AFTER INSERT", after));
        sql.add(trigger(table, "d", "AFTER DELETE", before));
        if (!pushedOut.isEmpty()) {
            sql.add(trigger(table, "r", "BEFORE INSERT", pushedOut));
        }
        String rowId = SqliteDialect.rowId(table);
        String others = key.stream().map(c -> "t." + c + " IS OLD." + c).collect(Collectors.joining(" AND "));
        String pushedOutByOther = pushedOut.isEmpty()
                ? ""
                : pushedOut + (keyed ? " AND NOT (" + others + ")" : " AND t." + rowId + " <> OLD." + rowId);
        if (keyed) {
            String moved = key.stream()
                    .map(c -> "NEW." + c + " IS NOT NULL AND OLD." + c + " COLLATE BINARY IS NOT NEW." + c)
                    .collect(Collectors.joining(" OR "));
            sql.add(trigger(table, "u", "BEFORE UPDATE", pushedOutByOther, before, after + " WHERE " + moved));
            if (table.numberedColumn().isEmpty()) { // a key may be null, and does not find the row then
                String nulls = key.stream().map(c -> "NEW." + c + " IS NULL").collect(Collectors.joining(" OR "));
                sql.add(trigger(table, "v", "AFTER UPDATE", after + " WHERE " + nulls));
            }
        } else {
            if (!pushedOutByOther.isEmpty()) {
                sql.add(trigger(table, "s", "BEFORE UPDATE", pushedOutByOther));
            }
            sql.add(trigger(table, "u", "AFTER UPDATE", before, after));
        }
    }

    /** REPLACE takes rows away without a word: what copies those that the new row would push out, or nothing. */
    private String pushedOut(Table table, boolean keyed) {
        String conflicts = Stream.concat(table.primaryKey().stream(), table.uniques().stream())
                .map(unique -> conflict(table, unique))
                .collect(Collectors.joining(" OR "));
        return conflicts.isEmpty()
                ? ""
                : "INSERT INTO " + shadow(table) + " (zabbet_epoch, zabbet_side, zabbet_row, " + columns(table, "")
                        + ") SELECT (SELECT n FROM zabbet_epoch), 'c', "
                        + (keyed ? "NULL" : "t." + SqliteDialect.rowId(table)) + ", " + columns(table, "t.") + " FROM "
                        + dialect.name(table) + " t WHERE (" + conflicts + ")";
    }

    /** Returns the condition that a row t has the unique key that the new one gets; rows that it spares may meet it too. */
    private String conflict(Table table, UniqueKey unique) {
        String asNew = table.columns().stream()
                .map(c -> dialect.quote(c.sqlName()))
                .map(c -> "NEW." + c + " AS " + c)
                .collect(Collectors.joining(", "));
        Stream<String> columns = unique.columns().stream()
                .map(c -> dialect.quote(table.requireColumn(c).sqlName()))
                .map(c -> "t." + c + " = NEW." + c);
        Stream<String> expressions =
                unique.expressions().stream().map(e -> "(" + e + ") = (SELECT " + e + " FROM (SELECT " + asNew + "))");
        Stream<String> where = unique.condition().stream().map(condition -> "(" + condition + ")");
        return Stream.of(columns, expressions, where)
                .flatMap(parts -> parts)
                .collect(Collectors.joining(" AND ", "(", ")"));
    }

    @Override
    public void takeAway(Connection connection, Table table, Collection<Event> events) throws SQLException {
        String alike = table.columns().stream()
                .map(c -> dialect.quote(c.sqlName()))
                .map(c -> " AND t." + c + " IS s." + c)
                .collect(Collectors.joining());
        String rowId = SqliteDialect.rowId(table);
        String sql = "DELETE FROM " + dialect.name(table) + " WHERE " + rowId + " = (SELECT t." + rowId + " FROM "
                + dialect.name(table) + " t, " + shadow(table) + " s WHERE s.zabbet_number = ?" + alike + " LIMIT 1)";
        dialect.often(connection, sql, delete -> {
            for (Event event : events) {
                delete.setLong(1, event.number());
                delete.executeUpdate();
            }
        });
    }

    /** Says that the table has images of this epoch. */
    private String touching(Table table) {
        return "UPDATE zabbet_touched SET epoch = (SELECT n FROM zabbet_epoch) WHERE tab = "
                + schema.tables().indexOf(table) + " AND epoch < (SELECT n FROM zabbet_epoch)";
    }

    @Override
    public List<Table> touched(Connection connection, long after) throws SQLException {
        List<Table> touched = new ArrayList<>();
        dialect.readOften(
                connection,
                "SELECT tab FROM zabbet_touched WHERE epoch >= ? ORDER BY tab",
                rows -> touched.add(schema.tables().get(rows.getInt(1))),
                after);
        return touched;
    }

    private String trigger(Table table, String kind, String when, String... statements) {
        return Stream.concat(Stream.of(statements), Stream.of(touching(table)))
                .filter(statement -> !statement.isEmpty())
                .collect(Collectors.joining(
                        "; ",
                        "CREATE TRIGGER " + dialect.quote("zabbet_" + kind + "_" + table.sqlName()) + " " + when
                                + " ON " + dialect.name(table) + " BEGIN ",
                        "; END"));
    }

    /** An epoch in which nothing was noted serves again, so that nothing is written. */
    @Override
    public long settle(Connection connection) throws SQLException {
        AtomicLong epoch = new AtomicLong();
        await(connection, () -> {
            epoch.set(dialect.firstOften(connection, "SELECT n FROM zabbet_epoch", row -> row.getLong(1), 0L));
            if (!touched(connection, epoch.get()).isEmpty()) {
                dialect.often(connection, "UPDATE zabbet_epoch SET n = n + 1", PreparedStatement::executeUpdate);
                epoch.incrementAndGet();
            }
        });
        return epoch.get();
    }

    @Override
    public void await(Connection connection) throws SQLException {
        await(connection, () -> {});
    }

    /** The version of the file moves on when another connection commits; no other can, while this one writes. */
    private long version(Connection connection) throws SQLException {
        return dialect.firstOften(connection, "PRAGMA data_version", row -> row.getLong(1), 0L);
    }

    @Override
    public Look toUndo(Connection connection, long after) throws SQLException {
        installAfterAll(connection);
        AtomicLong seen = new AtomicLong();
        await(connection, () -> seen.set(version(connection)));
        return new Look(after, seen.get(), noted(connection, after), Optional.empty());
    }

    @Override
    public void forget(Connection connection, Stretch stretch) throws SQLException {
        long after = stretch.after();
        if (stretch.seen().isPresent() && stretch.seen().getAsLong() != version(connection)) {
            throw new NotedMeanwhileException();
        }
        forget(connection, after, "");
        dialect.often(connection, "UPDATE zabbet_touched SET epoch = ? WHERE epoch >= ?", update -> {
            update.setLong(1, after - 1);
            update.setLong(2, after);
            update.executeUpdate();
        });
    }

    @Override
    public void joins(boolean transaction) {
        joined = transaction;
    }

    private void await(Connection connection, Transactions.SqlWork work) throws SQLException {
        if (together || joined) {
            work.run();
            return;
        }
        try {
            dialect.often(connection, "BEGIN IMMEDIATE", PreparedStatement::execute);
        } catch (SQLException e) {
            if (String.valueOf(e.getMessage()).contains("BUSY")) {
                throw OpenTransactions.of(List.of("another connection to this database (SQLite does not say which)"));
            }
            throw e;
        }
        try {
            work.run();
            dialect.often(connection, "COMMIT", PreparedStatement::execute);
        } catch (SQLException | RuntimeException e) {
            dialect.often(connection, "ROLLBACK", PreparedStatement::execute);
            throw e;
        }
    }

    /** Each shadow numbers its own images; the epoch cannot be moved on while another transaction writes. */
    @Override
    public String end(Connection connection) throws SQLException {
        List<String> numbers = new ArrayList<>();
        for (Table table : schema.tables()) {
            numbers.addAll(
                    SchemaDraft.texts(connection, "SELECT COALESCE(MAX(zabbet_number), 0) FROM " + shadow(table)));
        }
        return String.join(",", numbers);
    }

    @Override
    public List<Event> noted(Connection connection, String end) throws SQLException {
        String[] numbers = end.split(",");
        return noted(connection, 0).stream()
                .filter(event ->
                        event.number() > Long.parseLong(numbers[schema.tables().indexOf(event.table())]))
                .toList();
    }

    @Override
    public void forget(Connection connection, String end) throws SQLException {
        String[] numbers = end.split(",");
        List<String> sql = new ArrayList<>();
        for (int i = 0; i < numbers.length; i++) {
            sql.add("DELETE FROM " + shadow(schema.tables().get(i)) + " WHERE zabbet_number > " + numbers[i]);
        }
        execute(connection, sql);
    }

    @Override
    public boolean isNoting(Connection connection) throws SQLException {
        return SchemaDraft.exists(connection, "SELECT 1 FROM sqlite_master WHERE name = 'zabbet_epoch'");
    }

    @Override
    public void remove(Connection connection) throws SQLException {
        dropAll(connection);
        fingerprint = "";
    }

    private void dropAll(Connection connection) throws SQLException {
        List<String> sql = new ArrayList<>();
        SchemaDraft.each(
                connection,
                "SELECT type, name FROM sqlite_master WHERE name IN ('zabbet_epoch', 'zabbet_touched') OR name LIKE 'zabbet\\_of\\_%' ESCAPE '\\'"
                        + " AND type = 'table' OR name LIKE 'zabbet\\__\\_%' ESCAPE '\\' AND type = 'trigger'"
                        + " ORDER BY type DESC",
                rows -> sql.add("DROP " + rows.getString(1) + " " + dialect.quote(rows.getString(2))));
        execute(connection, sql);
    }
}
