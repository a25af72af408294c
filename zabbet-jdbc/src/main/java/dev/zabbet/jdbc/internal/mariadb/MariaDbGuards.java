package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.Dialect;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;

/**
 * The application's triggers in MariaDB, which knows no way to switch them off: while the journal is installed there is
 * a condition around what they do, so that they rest on a connection that says so. Each is replaced in one statement and
 * keeps its place among those of the same event.
 */
final class MariaDbGuards {
    private static final String BEFORE = "BEGIN IF @zabbet_rest IS NULL THEN ";
    private static final String AFTER = "\n; END IF; END";

    private MariaDbGuards() {}

    private record Trigger(
            String database, String name, String when, String table, String body, String mode, String definer) {
        boolean isGuarded() {
            return body.startsWith(BEFORE) && body.endsWith(AFTER);
        }

        boolean isOurs() {
            return name.startsWith("zabbet_");
        }

        boolean isBeside(Trigger other) {
            return database.equals(other.database) && table.equals(other.table) && when.equals(other.when);
        }
    }

    /** Guards all triggers that are not; the journal's own are not there yet. */
    static void put(Connection connection, MariaDbDatabases databases, Dialect dialect) throws SQLException {
        replace(connection, databases, dialect, false);
    }

    /** Makes all triggers again as the application made them; the journal's own are gone. */
    static void take(Connection connection, MariaDbDatabases databases, Dialect dialect) throws SQLException {
        replace(connection, databases, dialect, true);
    }

    /** Counts the triggers that are not guarded. */
    static int missing(Connection connection, MariaDbDatabases databases) throws SQLException {
        return (int) all(connection, databases).stream()
                .filter(t -> !t.isOurs() && !t.isGuarded())
                .count();
    }

    private static void replace(Connection connection, MariaDbDatabases databases, Dialect dialect, boolean guarded)
            throws SQLException {
        List<Trigger> all = all(connection, databases);
        if (all.stream().noneMatch(trigger -> !trigger.isOurs() && trigger.isGuarded() == guarded)) {
            return;
        }
        MariaDbCatalog catalog = MariaDbCatalog.of(connection);
        try (Statement statement = connection.createStatement()) {
            String mode;
            try (ResultSet row = statement.executeQuery("SELECT @@sql_mode")) {
                row.next();
                mode = row.getString(1);
            }
            try {
                for (int i = 0; i < all.size(); i++) {
                    if (!all.get(i).isOurs() && all.get(i).isGuarded() == guarded) {
                        statement.execute(
                                "SET sql_mode = " + dialect.literal(all.get(i).mode()));
                        statement.execute(replacement(all, i, dialect));
                        catalog.altered(1);
                    }
                }
            } finally {
                catalog.forget("triggers");
                statement.execute("SET sql_mode = " + dialect.literal(mode));
            }
        }
    }

    private static String replacement(List<Trigger> all, int at, Dialect dialect) {
        Trigger trigger = all.get(at);
        String body = trigger.isGuarded()
                ? trigger.body().substring(BEFORE.length(), trigger.body().length() - AFTER.length())
                : BEFORE + trigger.body() + AFTER;
        String place = "";
        if (at > 0 && trigger.isBeside(all.get(at - 1))) {
            place = "FOLLOWS " + dialect.quote(all.get(at - 1).name()) + " ";
        } else if (at + 1 < all.size() && trigger.isBeside(all.get(at + 1))) {
            place = "PRECEDES " + dialect.quote(all.get(at + 1).name()) + " ";
        }
        int host = trigger.definer().lastIndexOf('@');
        return "CREATE OR REPLACE DEFINER = "
                + dialect.quote(trigger.definer().substring(0, host)) + "@"
                + dialect.quote(trigger.definer().substring(host + 1)) + " TRIGGER " + dialect.quote(trigger.database())
                + "." + dialect.quote(trigger.name())
                + " " + trigger.when() + " ON " + dialect.quote(trigger.database()) + "."
                + dialect.quote(trigger.table()) + " FOR EACH ROW " + place + body;
    }

    /** Returns the triggers; what others do is hidden from a user without the right to triggers, who gets no journal. */
    private static List<Trigger> all(Connection connection, MariaDbDatabases databases) throws SQLException {
        return MariaDbCatalog.of(connection).triggers(connection, databases).stream()
                .filter(t -> !t.body().isEmpty())
                .map(t -> new Trigger(t.database(), t.name(), t.when(), t.table(), t.body(), t.mode(), t.definer()))
                .toList();
    }
}
