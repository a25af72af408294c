package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.Canon;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.schema.Column;
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
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What rows are called, in a table beside our mark, so that a later process finds them. */
final class Labels {
    private static final String BETWEEN = "\u001f"; // the ASCII unit separator

    private final Dialect dialect;
    private final String table;

    Labels(Dialect dialect) {
        this.dialect = dialect;
        String mark = dialect.markTable();
        this.table = mark.substring(0, mark.length() - "dedicated".length())
                + (mark.endsWith("DEDICATED") ? "LABEL" : "label");
    }

    /** Makes the table, if it is not there. */
    void prepare(Connection connection) throws SQLException {
        if (!isThere(connection)) {
            try (Statement statement = connection.createStatement()) {
                for (String sql : dialect.createMark()) {
                    statement.execute(sql);
                }
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS " + table + " (tab VARCHAR(200) NOT NULL, label VARCHAR(200)"
                                + " NOT NULL, row_key VARCHAR(1000) NOT NULL, PRIMARY KEY (tab, label))");
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

    /** Keeps labels, as a part of the transaction at hand. */
    void keep(Connection connection, List<Load.Label> labels) throws SQLException {
        if (labels.isEmpty()) {
            return;
        }
        try (PreparedStatement delete =
                        connection.prepareStatement("DELETE FROM " + table + " WHERE tab = ? AND label = ?");
                PreparedStatement insert = connection.prepareStatement(
                        "INSERT INTO " + table + " (tab, label, row_key) VALUES (?, ?, ?)")) {
            for (Load.Label label : labels) {
                List<String> key = new ArrayList<>();
                label.key().columns().forEach(c -> key.add(text(label.key().get(c))));
                for (PreparedStatement statement : List.of(delete, insert)) {
                    statement.setString(1, label.table().name());
                    statement.setString(2, label.label());
                }
                insert.setString(3, String.join(BETWEEN, key));
                delete.addBatch();
                insert.addBatch();
            }
            delete.executeBatch();
            insert.executeBatch();
        }
    }

    /** Forgets labels, after their rows were taken back. */
    void forget(Connection connection, List<Load.Label> labels) throws SQLException {
        try (PreparedStatement delete =
                connection.prepareStatement("DELETE FROM " + table + " WHERE tab = ? AND label = ?")) {
            for (Load.Label label : labels) {
                delete.setString(1, label.table().name());
                delete.setString(2, label.label());
                delete.addBatch();
            }
            delete.executeBatch();
        }
    }

    /** Returns the condition that a row is the one with a label. */
    Optional<Condition> find(Connection connection, Table of, String label) throws SQLException {
        if (!isThere(connection)) {
            return Optional.empty();
        }
        try (PreparedStatement select =
                connection.prepareStatement("SELECT row_key FROM " + table + " WHERE tab = ? AND label = ?")) {
            select.setString(1, of.name());
            select.setString(2, label);
            try (ResultSet rows = select.executeQuery()) {
                return rows.next() ? Optional.of(condition(of, rows.getString(1), label)) : Optional.empty();
            }
        }
    }

    private static Condition condition(Table of, String key, String label) {
        String[] parts = key.split(BETWEEN, -1);
        Condition where = Condition.ALL;
        for (int i = 0; i < of.keyColumns().size(); i++) {
            Column column = of.requireColumn(of.keyColumns().get(i));
            try {
                where = where.and(new Condition.Equal(
                        column.name(), i < parts.length ? Canon.of(column.type(), parts[i]) : null));
            } catch (Inexact e) {
                throw new ZabbetException("The key that is kept for '" + label + "' of " + of.name()
                        + " is no longer one: " + e.clause() + ".");
            }
        }
        return where;
    }

    private static String text(@Nullable Object value) {
        return value instanceof byte[] bytes ? "0x" + HexFormat.of().formatHex(bytes) : String.valueOf(value);
    }
}
