package dev.zabbet.jdbc.internal.guard;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What rows are called, and what is noted beside them, in a table beside our mark, so that a later process finds it. */
public final class LabelTable {
    private static final String BETWEEN = "\u001f"; // the ASCII unit separator

    private static final String NOTE = ""; // stands for a table's name; no table is called so

    private final Dialect dialect;
    private final String table;

    /** A label's or note's place. */
    public record Name(String table, String label) {}

    /** Returns the names of all that is kept with a load. */
    public static List<Name> names(Load load) {
        List<Name> names = new ArrayList<>();
        load.labels().forEach(label -> names.add(new Name(label.table().name(), label.label())));
        load.notes().forEach(note -> names.add(new Name(NOTE, note.name())));
        return names;
    }

    public LabelTable(Dialect dialect) {
        this.dialect = dialect;
        String mark = dialect.markTable();
        this.table = mark.substring(0, mark.length() - "dedicated".length())
                + (mark.endsWith("DEDICATED") ? "LABEL" : "label");
    }

    /** Makes the table, if it is not there. */
    public void prepare(Connection connection) throws SQLException {
        if (!isThere(connection)) {
            try (Statement statement = connection.createStatement()) {
                for (String sql : dialect.createMark()) {
                    statement.execute(sql);
                }
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS " + table + " (tab VARCHAR(200) NOT NULL, label VARCHAR(200)"
                                + " NOT NULL, row_key VARCHAR(4000) NOT NULL, PRIMARY KEY (tab, label))");
            }
        }
    }

    private boolean isThere(Connection connection) throws SQLException {
        int dot = table.indexOf('.');
        String schema = dot < 0 ? null : table.substring(0, dot);
        try (ResultSet found = connection
                .getMetaData()
                .getTables(dot < 0 ? connection.getCatalog() : null, schema, table.substring(dot + 1), null)) {
            return found.next();
        }
    }

    /** Keeps labels and notes, as part of the current transaction. */
    public void keep(Connection connection, Load load) throws SQLException {
        List<Name> names = names(load);
        if (names.isEmpty()) {
            return;
        }
        forget(connection, names);
        try (PreparedStatement insert =
                connection.prepareStatement("INSERT INTO " + table + " (tab, label, row_key) VALUES (?, ?, ?)")) {
            for (Load.Label label : load.labels()) {
                List<String> key = new ArrayList<>();
                label.key().columns().forEach(c -> key.add(text(label.key().get(c))));
                add(insert, label.table().name(), label.label(), String.join(BETWEEN, key));
            }
            for (Load.Note note : load.notes()) {
                if (note.text().isPresent()) {
                    add(insert, NOTE, note.name(), note.text().get());
                }
            }
            insert.executeBatch();
        }
    }

    private static void add(PreparedStatement insert, String of, String label, String text) throws SQLException {
        insert.setString(1, of);
        insert.setString(2, label);
        insert.setString(3, text);
        insert.addBatch();
    }

    /** Forgets labels and notes, after their rows were taken back. */
    public void forget(Connection connection, List<Name> names) throws SQLException {
        try (PreparedStatement delete =
                connection.prepareStatement("DELETE FROM " + table + " WHERE tab = ? AND label = ?")) {
            for (Name name : names) {
                delete.setString(1, name.table());
                delete.setString(2, name.label());
                delete.addBatch();
            }
            delete.executeBatch();
        }
    }

    /** Forgets all notes: the rows that they tell of are gone. */
    public void forgetNotes(Connection connection) throws SQLException {
        if (isThere(connection)) {
            try (PreparedStatement delete = connection.prepareStatement("DELETE FROM " + table + " WHERE tab = ?")) {
                delete.setString(1, NOTE);
                delete.executeUpdate();
            }
        }
    }

    /** Returns a note. */
    public Optional<String> note(Connection connection, String name) throws SQLException {
        return isThere(connection) ? read(connection, NOTE, name) : Optional.empty();
    }

    private Optional<String> read(Connection connection, String of, String label) throws SQLException {
        try (PreparedStatement select =
                connection.prepareStatement("SELECT row_key FROM " + table + " WHERE tab = ? AND label = ?")) {
            select.setString(1, of);
            select.setString(2, label);
            try (ResultSet rows = select.executeQuery()) {
                return rows.next() ? Optional.of(rows.getString(1)) : Optional.empty();
            }
        }
    }

    /** Returns the condition that a row is the one with a label. */
    public Optional<Condition> find(Connection connection, Table of, String label) throws SQLException {
        return isThere(connection)
                ? read(connection, of.name(), label).map(key -> condition(of, key, label))
                : Optional.empty();
    }

    /** Returns all labels of tables that are there, each with its row's key. */
    public Map<Name, Row> all(Connection connection, Schema schema) throws SQLException {
        Map<Name, Row> all = new LinkedHashMap<>();
        if (!isThere(connection)) {
            return all;
        }
        try (PreparedStatement select =
                        connection.prepareStatement("SELECT tab, label, row_key FROM " + table + " WHERE tab <> ?");
                ResultSet rows = select(select)) {
            while (rows.next()) {
                Optional<Table> of = schema.table(rows.getString(1));
                if (of.isPresent()) {
                    List<String> columns = of.get().keyColumns();
                    String[] parts = rows.getString(3).split(BETWEEN, -1);
                    @Nullable Object[] values = new @Nullable Object[columns.size()];
                    for (int i = 0; i < values.length; i++) {
                        values[i] =
                                value(of.get(), columns.get(i), i < parts.length ? parts[i] : null, rows.getString(2));
                    }
                    all.put(new Name(of.get().name(), rows.getString(2)), Row.of(columns, values));
                }
            }
        }
        return all;
    }

    private static ResultSet select(PreparedStatement select) throws SQLException {
        select.setString(1, NOTE);
        return select.executeQuery();
    }

    private static @Nullable Object value(Table of, String column, @Nullable String part, String label) {
        try {
            return CanonicalForm.of(of.requireColumn(column).type(), part);
        } catch (InexactValueException e) {
            throw new ZabbetException("The key that is kept for '" + label + "' of " + of.name() + " is no longer one: "
                    + e.clause() + ".");
        }
    }

    private static Condition condition(Table of, String key, String label) {
        String[] parts = key.split(BETWEEN, -1);
        Condition where = Condition.all();
        for (int i = 0; i < of.keyColumns().size(); i++) {
            String column = of.keyColumns().get(i);
            where = where.and(
                    new Condition.Equal(column, value(of, column, i < parts.length ? parts[i] : null, label)));
        }
        return where;
    }

    private static String text(@Nullable Object value) {
        return value instanceof byte[] bytes ? "0x" + HexFormat.of().formatHex(bytes) : String.valueOf(value);
    }
}
