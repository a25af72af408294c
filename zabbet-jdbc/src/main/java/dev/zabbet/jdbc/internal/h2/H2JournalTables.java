package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.jdbc.internal.dialect.SchemaChangedException;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;

/** The triggers and tables of H2's journal: made, found again, and taken away. */
final class H2JournalTables {
    private final H2Journal journal;

    H2JournalTables(H2Journal journal) {
        this.journal = journal;
    }

    void installAfterAll(Connection connection) throws SQLException {
        if (journal.fingerprint(connection).equals(journal.fingerprint)) {
            return;
        }
        if (!journal.fingerprint.isEmpty()) {
            throw new SchemaChangedException();
        }
        try {
            create(connection);
        } catch (SQLException e) {
            if (journal.dialect.isMissingRight(e)) {
                dropWhatThereIs(connection);
            }
            throw e;
        }
        H2Triggers.rest(journal.dialect, connection);
        H2Triggers.work(connection); // after ours
        journal.fingerprint = journal.fingerprint(connection);
    }

    private void create(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            removeTriggers(connection);
            statement.execute("CREATE SCHEMA IF NOT EXISTS ZABBET");
            statement.execute("DROP TABLE IF EXISTS ZABBET.JOURNAL");
            statement.execute(
                    "CREATE TABLE ZABBET.JOURNAL (NUMBER BIGINT PRIMARY KEY, NAME VARCHAR, BEFORE CLOB, NOW CLOB)");
            statement.execute("GRANT INSERT ON ZABBET.JOURNAL TO PUBLIC"); // triggers run as whoever changes a row
            H2ChangeTrigger.listen(journal.prefix, journal::note);
            int at = 0;
            for (Table table : journal.schema.tables()) {
                String place = journal.dialect.quote(table.sqlSchema()) + ".\"" + journal.prefix + at + "_";
                String call = " ON " + journal.dialect.name(table) + " FOR EACH ROW CALL '"
                        + H2ChangeTrigger.class.getName() + "'";
                if (!table.keyColumns().isEmpty()) {
                    statement.execute("CREATE TRIGGER " + place + "A\" AFTER INSERT" + call);
                    statement.execute("CREATE TRIGGER " + place + "B\" BEFORE UPDATE, DELETE" + call);
                }
                at++;
            }
        }
        journal.begin(connection);
    }

    /** A user who may not make triggers may well make tables. */
    private void dropWhatThereIs(Connection connection) {
        H2ChangeTrigger.silence(journal.prefix);
        try (Statement statement = connection.createStatement()) {
            statement.execute("DROP TABLE IF EXISTS ZABBET.JOURNAL");
        } catch (SQLException e) {
            System.getLogger("dev.zabbet.jdbc").log(System.Logger.Level.DEBUG, "No journal to drop.", e);
        }
    }

    static boolean hasTable(Connection connection, String name) throws SQLException {
        return found(connection, "TABLES WHERE " + H2Dialect.isOurs(name));
    }

    static boolean found(Connection connection, String view) throws SQLException {
        return SchemaDraft.exists(connection, "SELECT 1 FROM INFORMATION_SCHEMA." + view);
    }

    void remove(Connection connection) throws SQLException {
        H2Triggers.work(connection); // if a process died while they rested
        removeTriggers(connection);
        try (Statement statement = connection.createStatement()) {
            statement.execute("DROP TABLE IF EXISTS ZABBET.JOURNAL");
        }
        H2Images.remove(connection);
        H2ChangeTrigger.silence(journal.prefix);
        journal.fingerprint = "";
        journal.objects = "";
        journal.images.clear();
    }

    private void removeTriggers(Connection connection) throws SQLException {
        List<String> names = new ArrayList<>();
        SchemaDraft.each(
                connection,
                "SELECT DISTINCT TRIGGER_SCHEMA, TRIGGER_NAME FROM INFORMATION_SCHEMA.TRIGGERS WHERE TRIGGER_NAME LIKE 'ZABBET\\_%'",
                rows -> names.add(
                        journal.dialect.quote(rows.getString(1)) + "." + journal.dialect.quote(rows.getString(2))));
        try (Statement statement = connection.createStatement()) {
            for (String name : names) {
                statement.execute("DROP TRIGGER " + name);
            }
        }
    }
}
