package dev.zabbet.jdbc.internal.guard;

import dev.zabbet.error.UndedicatedException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.Arrays;
import java.util.List;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * The mark that says that a database is meant for tests. It holds which database it was made for, so that a copy of the
 * database elsewhere, or under another name, is not taken for it.
 */
public final class Dedication {
    /** Lists URLs of databases that are meant for tests although they carry no mark, separated by blanks. */
    private static final String PROPERTY = "zabbet.dedicated";

    /** Words in names of databases that are rarely meant for tests. */
    private static final Pattern PRODUCTION = Pattern.compile("(?i)(^|[^a-z])(prod|prd|production|live)([^a-z]|$)");

    private enum Mark {
        NONE,
        OF_THIS,
        OF_ANOTHER
    }

    private Dedication() {}

    /** Refuses a database that is not meant for tests. */
    public static void require(Connection connection, Dialect dialect, DatabaseIdentity place, Schema schema)
            throws SQLException {
        if (place.inThisProcess()) {
            return;
        }
        String readOnly = dialect.readOnly(connection).orElse(null);
        if (readOnly != null) {
            throw new ZabbetException(
                    "Nothing can be stored in the " + place.describe() + ": " + readOnly + ". Nothing was written.");
        }
        for (DatabaseIdentity one : dialect.places(connection, place, schema)) {
            requireMark(connection, dialect, one, schema, place);
        }
    }

    private static void requireMark(
            Connection connection, Dialect dialect, DatabaseIdentity place, Schema schema, DatabaseIdentity home)
            throws SQLException {
        Mark mark = isListed(place) ? Mark.OF_THIS : mark(connection, dialect, place);
        if (mark == Mark.OF_THIS) {
            return;
        }
        List<Table> tables = tablesIn(place, dialect, schema);
        String found = tables.isEmpty()
                ? "no table yet"
                : Words.count(tables.size(), "table") + " and " + rows(connection, dialect, tables);
        String reached =
                place.equals(home) ? "" : "; a reference or a trigger leads there from a table of " + home.database();
        String why = mark == Mark.NONE
                ? "It is not dedicated to tests"
                : "It carries the mark of another database, so it is a copy, and not dedicated to tests itself";
        throw new UndedicatedException(
                "Nothing was written to the " + place.describe() + ", which holds " + found + ". " + why + reached
                        + ".\nIf it is meant for tests, and all that it holds may be lost, dedicate it once:\n"
                        + howToDedicate(connection, dialect, place, tables),
                place.lastPart());
    }

    /** Returns the command and the call; of a database that holds rows, or is named like one in use, with its name. */
    private static String howToDedicate(
            Connection connection, Dialect dialect, DatabaseIdentity place, List<Table> tables) throws SQLException {
        if (!holdsRows(connection, dialect, tables)
                && !PRODUCTION.matcher(place.lastPart()).find()) {
            return command(place) + "\nor in code: Jdbc.dedicate(dataSource).";
        }
        return command(place) + mayLose(place) + "\nor in code: Jdbc.dedicate(dataSource, \"" + place.lastPart()
                + "\").";
    }

    private static boolean holdsRows(Connection connection, Dialect dialect, List<Table> tables) throws SQLException {
        for (Table table : tables) {
            if (!new TableSql(dialect, table).isEmpty(connection)) {
                return true;
            }
        }
        return false;
    }

    /**
     * Puts the mark into a database.
     *
     * @param mayLose its name, if it may be marked although it holds rows; null otherwise
     */
    public static DatabaseIdentity dedicate(Connection connection, Dialect dialect, @Nullable String mayLose)
            throws SQLException {
        DatabaseIdentity allowed = requireMayDedicate(connection, dialect, mayLose);
        if (putMarkBesideOthers(connection, dialect)) {
            long rows = 0;
            for (Table table : dialect.readSchema(connection).tables()) {
                rows += mayLose == null ? 0 : new TableSql(dialect, table).count(connection);
            }
            if (rows > 0) {
                new StageRecord(dialect, dialect.place(connection)).rowsLeft(connection, rows);
            }
        }
        return allowed;
    }

    /**
     * Puts the mark although other programs may be about to do the same. Any of its statements can fail because another
     * program's came first, and finds that program's work at the next attempt: one attempt more than there are
     * statements is enough.
     *
     * @return whether the mark was not there before
     */
    private static boolean putMarkBesideOthers(Connection connection, Dialect dialect) throws SQLException {
        int left = dialect.createMark().size() + 2; // and its DELETE and INSERT
        while (true) {
            try {
                return putMark(connection, dialect);
            } catch (SQLException e) {
                if (left-- == 0) {
                    throw e;
                }
            }
        }
    }

    private static boolean putMark(Connection connection, Dialect dialect) throws SQLException {
        for (String sql : dialect.createMark()) {
            try (var statement = connection.createStatement()) {
                statement.execute(sql);
            }
        }
        DatabaseIdentity place =
                dialect.place(connection); // a file may have been made by that; the mark's table is as old as it is
        if (mark(connection, dialect, place) == Mark.OF_THIS) {
            return false;
        }
        try (var clear = connection.createStatement();
                PreparedStatement insert =
                        connection.prepareStatement("INSERT INTO " + dialect.markTable() + " VALUES (?)")) {
            clear.executeUpdate("DELETE FROM " + dialect.markTable());
            insert.setString(1, place.identity());
            insert.executeUpdate();
        }
        return true;
    }

    /** Refuses a database that must not be marked; writes nothing. */
    public static DatabaseIdentity requireMayDedicate(Connection connection, Dialect dialect, @Nullable String mayLose)
            throws SQLException {
        DatabaseIdentity place = dialect.place(connection);
        Schema schema = dialect.readSchema(connection);
        String readOnly = dialect.readOnly(connection).orElse(null);
        if (readOnly != null) {
            throw new ZabbetException(
                    "The " + place.describe() + " cannot be dedicated: " + readOnly + ". Nothing was written.");
        }
        if (mayLose != null && !mayLose.equals(place.lastPart())) {
            throw new ZabbetException("The database is named " + place.lastPart() + ", not " + mayLose
                    + ". It was not dedicated to tests.");
        }
        if (mayLose == null && PRODUCTION.matcher(place.lastPart()).find()) {
            throw new ZabbetException("The " + place.describe()
                    + " is named like one that is in use, so that it was not dedicated to tests. If all that it holds may"
                    + " be lost, say so by its name:\n" + command(place) + mayLose(place));
        }
        List<Table> tables = tablesIn(place, dialect, schema);
        if (mayLose == null && holdsRows(connection, dialect, tables)) {
            throw new ZabbetException("The " + place.describe() + " holds "
                    + Words.count(tables.size(), "table") + " and " + rows(connection, dialect, tables)
                    + ", so that it was not dedicated to tests. If all of it may be lost, say so by its name:\n"
                    + command(place) + mayLose(place));
        }
        return place;
    }

    private static List<Table> tablesIn(DatabaseIdentity place, Dialect dialect, Schema schema) {
        return schema.tables().stream().filter(t -> dialect.isIn(t, place)).toList();
    }

    private static String command(DatabaseIdentity place) {
        return "  zabbet dedicate --db " + argument(place.url());
    }

    private static String mayLose(DatabaseIdentity place) {
        return " --may-lose " + argument(place.lastPart());
    }

    /** Returns an argument as a shell takes it. */
    private static String argument(String text) {
        return text.matches("[\\w:/.@%+=,-]+") ? text : "'" + text.replace("'", "'\\''") + "'";
    }

    private static Mark mark(Connection connection, Dialect dialect, DatabaseIdentity place) throws SQLException {
        boolean found = false;
        boolean own = false;
        boolean autoCommit = connection.getAutoCommit();
        try (PreparedStatement read = connection.prepareStatement("SELECT identity FROM " + dialect.markTable(place));
                ResultSet rows = read.executeQuery()) {
            while (rows.next()) {
                found = true;
                own |= place.identity().equals(rows.getString(1));
            }
        } catch (SQLException e) {
            if (!autoCommit) {
                connection.rollback();
            }
            return Mark.NONE; // no table, or no right to read it: no mark either way
        }
        if (own) {
            return Mark.OF_THIS;
        }
        if (found) {
            return Mark.OF_ANOTHER;
        }
        return Mark.NONE;
    }

    private static boolean isListed(DatabaseIdentity place) {
        return Arrays.asList(System.getProperty(PROPERTY, "").strip().split("\\s+"))
                .contains(place.url());
    }

    /** Counts rows, but not for ever: a table that holds many is not counted to its end. */
    private static String rows(Connection connection, Dialect dialect, List<Table> tables) throws SQLException {
        long rows = 0;
        for (Table table : tables) {
            rows += new TableSql(dialect, table).countUpTo(connection, 100_000);
            if (rows >= 100_000) {
                return "more than 100000 rows";
            }
        }
        return Words.count(rows, "row");
    }
}
