package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.Journal.Event;
import dev.zabbet.jdbc.internal.dialect.Journal.Stretch;
import dev.zabbet.jdbc.internal.dialect.NetEffect;
import dev.zabbet.jdbc.internal.dialect.NotedMeanwhileException;
import dev.zabbet.jdbc.internal.dialect.WrittenKeys;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;

/** Undoes changes in MariaDB: rows set aside, stored again, or all in one statement. */
final class MariaDbUndo {
    private static final int NULL_REFUSED = 1048;
    private static final int NOTED_MEANWHILE = 45_026; // ours: a number that the server has no error for

    private final MariaDbJournal journal;

    MariaDbUndo(MariaDbJournal journal) {
        this.journal = journal;
    }

    void takeAway(Connection connection, Table table, Collection<Event> events) throws SQLException {
        String alike = table.columns().stream()
                .map(c -> journal.dialect.quote(c.sqlName()))
                .map(c -> "t." + c + " <=> s." + c)
                .collect(Collectors.joining(" AND "));
        for (Event event : events) {
            // Rows that are alike in every column cannot be told apart; all but one of them come back.
            try (Statement statement = connection.createStatement()) {
                aside(statement, table, List.of(event));
                String all = journal.columns(table, "");
                statement.execute(
                        "CREATE OR REPLACE TEMPORARY TABLE zabbet_alike AS SELECT " + journal.columns(table, "t.")
                                + " FROM " + journal.dialect.name(table) + " t JOIN zabbet_aside s ON " + alike);
                statement.execute(
                        "DELETE t FROM " + journal.dialect.name(table) + " t JOIN zabbet_aside s ON " + alike);
                int copies = count(statement);
                String written = table.columns().stream()
                        .filter(c -> !c.isComputed())
                        .map(c -> journal.dialect.quote(c.sqlName()))
                        .collect(Collectors.joining(", "));
                if (copies > 1) {
                    statement.execute(
                            "INSERT INTO " + journal.dialect.name(table) + " (" + written + ") SELECT " + written
                                    + " FROM (SELECT " + all + " FROM zabbet_alike LIMIT " + (copies - 1) + ") again");
                }
                statement.execute("DROP TEMPORARY TABLE zabbet_aside, zabbet_alike");
            }
        }
    }

    private static int count(Statement statement) throws SQLException {
        try (ResultSet row = statement.executeQuery("SELECT COUNT(*) FROM zabbet_alike")) {
            row.next();
            return row.getInt(1);
        }
    }

    /** The table's triggers write to its shadow, so that images are put aside before a statement uses them. */
    private void aside(Statement statement, Table table, Collection<Event> events) throws SQLException {
        String numbers = events.stream().map(e -> String.valueOf(e.number())).collect(Collectors.joining(", "));
        statement.execute("CREATE OR REPLACE TEMPORARY TABLE zabbet_aside AS SELECT " + journal.columns(table, "")
                + " FROM " + journal.shadow(table) + " WHERE zabbet_number IN (" + numbers + ")");
    }

    void restore(Connection connection, Table table, Collection<Event> events) throws SQLException {
        List<String> columns = table.columns().stream()
                .filter(c -> !c.isComputed())
                .map(c -> journal.dialect.quote(c.sqlName()))
                .toList();
        try (Statement statement = connection.createStatement()) {
            aside(statement, table, events);
            insertAside(statement, table, columns);
            statement.execute("DROP TEMPORARY TABLE zabbet_aside");
        }
    }

    /**
     * MariaDB 11.4.5, and others of its time, take the second row of such a statement to be null where the table has a trigger
     * before inserts; rows that are inserted one by one they take as they are.
     */
    private void insertAside(Statement statement, Table table, List<String> columns) throws SQLException {
        String names = String.join(", ", columns);
        String insert = "INSERT INTO " + journal.dialect.name(table) + " (" + names + ") ";
        try {
            statement.execute(insert + "SELECT " + names + " FROM zabbet_aside");
        } catch (SQLException e) {
            if (e.getErrorCode() != NULL_REFUSED) {
                throw e;
            }
            statement.execute("BEGIN NOT ATOMIC FOR image IN (SELECT " + names + " FROM zabbet_aside) DO " + insert
                    + "VALUES (" + columns.stream().map(name -> "image." + name).collect(Collectors.joining(", "))
                    + "); END FOR; END");
        }
    }

    /** In one statement, where keys can be written into it as they are. */
    boolean undoAtOnce(Connection connection, Map<Table, NetEffect.Undo> undo, Stretch stretch) throws SQLException {
        List<String> sql = new ArrayList<>();
        for (Map.Entry<Table, NetEffect.Undo> one : undo.entrySet()) {
            List<String> deleting = WrittenKeys.delete(journal.dialect, one.getKey(), one.getValue().toDelete);
            if (deleting.isEmpty() || !one.getValue().toTakeAway.isEmpty()) {
                return false;
            }
            sql.addAll(deleting);
        }
        undo.forEach((table, rows) -> {
            if (!rows.toRestore.isEmpty()) {
                sql.add(journal.notes.restoring(table, rows.toRestore));
            }
        });
        if (stretch.seen().isPresent()) {
            sql.add("IF EXISTS (SELECT 1 FROM "
                    + journal.notes.logged(stretch.seen().getAsLong())
                    + ") THEN SIGNAL SQLSTATE '45000' SET MYSQL_ERRNO = "
                    + NOTED_MEANWHILE + "; END IF");
        }
        undo.keySet()
                .forEach(table -> sql.add("DELETE FROM " + journal.shadow(table) + " WHERE zabbet_number > "
                        + stretch.after() + MariaDbJournal.upTo(stretch, "zabbet_number")));
        sql.addAll(journal.notes.forgetting(stretch));
        String undone = MariaDbDialect.UNCHECKED.replace("{quiet}", "1") + "; " + MariaDbDialect.SEEING
                + "; START TRANSACTION; SELECT noting INTO @zabbet_on FROM " + journal.notes.name("zabbet_noting")
                + " WHERE one = 1 LOCK IN SHARE MODE; " // so that whoever looks waits for it, should this process die
                + String.join("; ", sql) + "; COMMIT; " + MariaDbDialect.CHECKED + "; ";
        try (Statement statement = connection.createStatement()) {
            try {
                statement.execute("BEGIN NOT ATOMIC " + undone + "END");
            } catch (SQLException e) {
                statement.execute("ROLLBACK");
                statement.execute(MariaDbDialect.CHECKED);
                throw e.getErrorCode() == NOTED_MEANWHILE ? new NotedMeanwhileException() : e;
            }
        }
        journal.truncations.forget(stretch.after());
        return true;
    }
}
