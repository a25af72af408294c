package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.jdbc.internal.dialect.Journal.Event;
import dev.zabbet.jdbc.internal.dialect.Journal.Stretch;
import dev.zabbet.jdbc.internal.dialect.NetEffect;
import dev.zabbet.jdbc.internal.dialect.NotedMeanwhileException;
import dev.zabbet.jdbc.internal.dialect.WrittenKeys;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference.Action;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature.Form;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Undoes changes in PostgreSQL: rows taken away and stored again, at once where the references allow it. */
final class PostgresUndo {
    /** The row type of the table that an image is of, with its schema: a table may be called like a type (path, box). */
    static final String ROW_TYPE = "(SELECT format('%I.%I', n.nspname, c.relname) FROM pg_class c"
            + " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.oid = j.tab)";

    /** With a lock that whoever looks at the journal waits for: the server goes on although this process may be dead. */
    private static final String BEGIN = "BEGIN; LOCK TABLE zabbet.journal IN ROW EXCLUSIVE MODE; ";

    private final PostgresJournal journal;

    PostgresUndo(PostgresJournal journal) {
        this.journal = journal;
    }

    void takeAway(Connection connection, Table table, Collection<Event> events) throws SQLException {
        String sql =
                "DELETE FROM " + journal.dialect.name(table) + " WHERE (tableoid, ctid) = (SELECT tableoid, ctid FROM "
                        + journal.dialect.nameToRead(table)
                        + " zabbet_row WHERE zabbet_row::text = (SELECT after FROM zabbet.journal WHERE number = ?) LIMIT 1)";
        try (Statement settings = connection.createStatement();
                PreparedStatement delete = connection.prepareStatement(sql)) {
            settings.execute("SET LOCAL datestyle = 'ISO, MDY'; SET LOCAL intervalstyle = 'postgres';"
                    + " SET LOCAL timezone = 'UTC'; SET LOCAL extra_float_digits = 1; SET LOCAL bytea_output = 'hex'");
            for (Event event : events) {
                delete.setLong(1, event.number());
                delete.addBatch();
            }
            delete.executeBatch();
        }
    }

    void restore(Connection connection, Table table, Collection<Event> events) throws SQLException {
        // Parts of a table have row types of their own, so that each image is read as the type of its own part.
        Map<String, List<Long>> byType = new HashMap<>();
        if (table.nature().form() != Form.PARTITIONED) {
            byType.put(
                    journal.dialect.name(table),
                    events.stream().map(Event::number).toList());
        } else {
            byType.putAll(typesOf(connection, events));
        }
        for (Map.Entry<String, List<Long>> type : byType.entrySet()) {
            try (PreparedStatement insert = connection.prepareStatement(restoring(table, type.getKey(), "?"))) {
                insert.setArray(
                        1, connection.createArrayOf("bigint", type.getValue().toArray()));
                insert.executeUpdate();
            }
        }
    }

    /** In one round trip, where keys can be written into the statements as they are. */
    boolean undoAtOnce(Connection connection, Map<Table, NetEffect.Undo> undo, Stretch stretch) throws SQLException {
        List<String> deleting = new ArrayList<>();
        List<String> storing = new ArrayList<>();
        for (Map.Entry<Table, NetEffect.Undo> one : undo.entrySet()) {
            Table table = one.getKey();
            List<Event> events = one.getValue().toRestore;
            List<String> statements = WrittenKeys.delete(journal.dialect, table, one.getValue().toDelete);
            if (statements.isEmpty()
                    || !one.getValue().toTakeAway.isEmpty()
                    || (!events.isEmpty() && table.nature().form() == Form.PARTITIONED)) {
                return false;
            }
            deleting.addAll(statements);
            if (!events.isEmpty()) {
                String numbers =
                        events.stream().map(e -> String.valueOf(e.number())).collect(Collectors.joining(","));
                storing.add(restoring(table, journal.dialect.name(table), "'{" + numbers + "}'"));
            }
        }
        String forgetting = "; " + forgetting(stretch) + "; COMMIT";
        boolean quiet =
                undo.keySet().stream().allMatch(t -> t.nature().triggers().isEmpty() && !isFollowed(t));
        return (quiet && storing.isEmpty() && !deleting.isEmpty() && deletedTogether(connection, deleting, forgetting))
                || doneUnchecked(connection, deleting, storing, forgetting);
    }

    /**
     * Rows that were not there before can be deleted with references checked: those that refer to them were not there
     * either. In one statement, so that no order has to be found. The server plans all statements of the session again when
     * references are left unchecked in it.
     */
    private static boolean deletedTogether(Connection connection, List<String> deleting, String forgetting)
            throws SQLException {
        StringBuilder sql = new StringBuilder(BEGIN);
        for (int i = 0; i < deleting.size() - 1; i++) {
            sql.append(i == 0 ? "WITH " : ", ").append("deleted_" + i + " AS (" + deleting.get(i) + ")");
        }
        try {
            PostgresJournal.inTransaction(connection, sql + " " + deleting.get(deleting.size() - 1) + forgetting);
            return true;
        } catch (SQLException e) {
            if (isNotedMeanwhile(e)) {
                throw new NotedMeanwhileException();
            }
            return false; // a rule or a constraint of the application's own, perhaps
        }
    }

    /** A row that was stored with references unchecked, and leads nowhere, would go with one that takes the place. */
    private boolean isFollowed(Table table) {
        return journal.schema.tables().stream()
                .flatMap(child -> child.references().stream())
                .anyMatch(r -> r.target().equals(table.name()) && r.onDelete() != Action.REFUSE);
    }

    private static boolean doneUnchecked(
            Connection connection, List<String> deleting, List<String> storing, String forgetting) throws SQLException {
        try {
            PostgresJournal.inTransaction(
                    connection,
                    BEGIN + "SET LOCAL session_replication_role = replica; "
                            + Stream.of(deleting, storing).flatMap(List::stream).collect(Collectors.joining("; "))
                            + forgetting);
            return true;
        } catch (SQLException e) {
            if (PostgresDialect.PERMISSION_DENIED.equals(e.getSQLState())) {
                return false;
            }
            throw isNotedMeanwhile(e) ? new NotedMeanwhileException() : e;
        }
    }

    /** Returns the statement that forgets what was undone, and fails if others have been noted. */
    static String forgetting(Stretch stretch) {
        return stretch.seen().isPresent()
                ? "SELECT zabbet.forget(" + stretch.after() + ", "
                        + stretch.seen().getAsLong() + ")"
                : "DELETE FROM zabbet.journal WHERE number > " + stretch.after();
    }

    static boolean isNotedMeanwhile(SQLException e) {
        return PostgresJournalSql.NOTED_MEANWHILE.equals(e.getSQLState());
    }

    /** Returns the statement that stores rows of one row type again, of events with these numbers. */
    private String restoring(Table table, String type, String numbers) {
        List<String> columns = table.columns().stream()
                .filter(c -> !c.isComputed())
                .map(Column::sqlName)
                .map(journal.dialect::quote)
                .toList();
        return "INSERT INTO " + journal.dialect.name(table) + " (" + String.join(", ", columns) + ")"
                + journal.dialect.overriding(table) + " SELECT "
                + columns.stream().map(c -> "(b)." + c).collect(Collectors.joining(", ")) + " FROM (SELECT before::"
                + type + " AS b FROM zabbet.journal WHERE number = ANY(" + numbers + ") OFFSET 0) images";
    }

    boolean undoChecked(Connection connection, Map<Table, NetEffect.Undo> undo, Stretch stretch) throws SQLException {
        new PostgresCheckedUndo(journal.dialect, journal, connection).run(undo, stretch);
        return true;
    }

    static Map<String, List<Long>> typesOf(Connection connection, Collection<Event> events) throws SQLException {
        Map<String, List<Long>> byType = new HashMap<>();
        Object[] numbers = events.stream().map(Event::number).toArray();
        try (PreparedStatement find = connection.prepareStatement(
                "SELECT number, " + ROW_TYPE + " FROM zabbet.journal j WHERE number = ANY(?)")) {
            find.setArray(1, connection.createArrayOf("bigint", numbers));
            try (ResultSet rows = find.executeQuery()) {
                while (rows.next()) {
                    byType.computeIfAbsent(rows.getString(2), t -> new ArrayList<>())
                            .add(rows.getLong(1));
                }
            }
        }
        return byType;
    }
}
