package dev.zabbet.jdbc.internal.track;

import dev.zabbet.jdbc.internal.dialect.CurrentRows;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.SchemaChangedException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Notes changes by triggers that copy rows into a shadow of each table, with the same columns: exact for every type,
 * since no value is converted. Each image has a number of its own and stands for the row before ('b') or after ('a').
 */
public abstract class ShadowJournal implements Journal {
    public final Dialect dialect;
    public final Schema schema;

    /** What the tables looked like when the triggers were made; empty before that. */
    public String fingerprint = "";

    public ShadowJournal(Dialect dialect, Schema schema) {
        this.dialect = dialect;
        this.schema = schema;
    }

    /** Makes shadows and triggers. */
    public abstract void create(Connection connection) throws SQLException;

    /** Returns the condition on a shadow's rows that came after a position, with a parameter for that. */
    public abstract String since();

    /** Returns a further condition on the images of a table that count, beginning with AND; empty if all do. */
    public String counting(Table table) {
        return "";
    }

    @Override
    public final void install(Connection connection) throws SQLException {
        if (fingerprint(connection).equals(fingerprint)) {
            return;
        }
        if (!fingerprint.isEmpty()) {
            throw new SchemaChangedException();
        }
        create(connection);
        fingerprint = fingerprint(connection);
    }

    public String shadow(Table table) {
        return dialect.quote("zabbet_of_" + table.sqlName());
    }

    public String columns(Table table, String prefix) {
        return table.columns().stream()
                .map(c -> prefix + dialect.quote(c.sqlName()))
                .collect(Collectors.joining(", "));
    }

    @Override
    public List<Event> noted(Connection connection, long after) throws SQLException {
        List<Event> events = new ArrayList<>();
        for (Table table : touched(connection, after)) {
            dialect.readOften(
                    connection,
                    "SELECT zabbet_number, zabbet_side, " + columns(table, "") + " FROM " + shadow(table) + " WHERE "
                            + since() + counting(table) + " ORDER BY zabbet_number",
                    rows -> {
                        boolean before = !rows.getString(2).equalsIgnoreCase("a");
                        Row row = row(table, rows);
                        events.add(new Event(rows.getLong(1), table, before ? row : null, before ? null : row));
                    },
                    after);
        }
        return events;
    }

    @Override
    public List<Event> events(Connection connection, long after) throws SQLException {
        return new CurrentRows(dialect, connection).complete(noted(connection, after));
    }

    /** Returns the tables that have images after a position, in the schema's order; others may be among them. */
    public abstract List<Table> touched(Connection connection, long after) throws SQLException;

    private Row row(Table table, ResultSet rows) throws SQLException {
        @Nullable Object[] values = new @Nullable Object[table.columns().size()];
        for (int i = 0; i < values.length; i++) {
            values[i] = dialect.read(rows, i + 3, table.columns().get(i));
        }
        return Row.of(table.columnNames(), values);
    }

    @Override
    public void restore(Connection connection, Table table, Collection<Event> events) throws SQLException {
        List<Column> columns =
                table.columns().stream().filter(c -> !c.isComputed()).toList();
        String names = columns.stream().map(c -> dialect.quote(c.sqlName())).collect(Collectors.joining(", "));
        String sql = "INSERT INTO " + dialect.name(table) + " (" + names + ") SELECT " + names + " FROM "
                + shadow(table) + " WHERE zabbet_number = ?";
        dialect.often(connection, sql, insert -> {
            for (Event event : events) {
                insert.setLong(1, event.number());
                insert.addBatch();
            }
            insert.executeBatch();
        });
    }

    /** Deletes the images after a position. */
    protected final void forget(Connection connection, long after, String further) throws SQLException {
        for (Table table : touched(connection, after)) {
            dialect.often(connection, "DELETE FROM " + shadow(table) + " WHERE " + since() + further, delete -> {
                delete.setLong(1, after);
                delete.executeUpdate();
            });
        }
    }

    public static void execute(Connection connection, List<String> statements) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            for (String sql : statements) {
                statement.execute(sql);
            }
        }
    }
}
