package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.RowAtHand;
import dev.zabbet.type.Kind;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Consumer;
import java.util.stream.Collectors;

/** The statements that read and write one table. */
public final class TableSql {
    private static final int KEYS_AT_ONCE = 256;
    private static final int ROWS_AT_ONCE = 2_000;

    private final Dialect dialect;
    private final Table table;

    public TableSql(Dialect dialect, Table table) {
        this.dialect = dialect;
        this.table = table;
    }

    public String insert(List<Column> columns) {
        return insert(columns, 1);
    }

    /** Returns the statement that stores so many rows at once. */
    public String insert(List<Column> columns, int rows) {
        if (columns.isEmpty()) {
            return "INSERT INTO " + dialect.name(table) + dialect.allDefaults();
        }
        String one = columns.stream().map(dialect::placeholder).collect(Collectors.joining(", ", "(", ")"));
        return "INSERT INTO " + dialect.name(table) + " (" + names(columns) + ")" + dialect.overriding(table)
                + " VALUES " + String.join(", ", Collections.nCopies(rows, one));
    }

    public String update(List<Column> key, List<Column> set) {
        return "UPDATE " + dialect.name(table) + " SET "
                + set.stream()
                        .map(c -> dialect.quote(c.sqlName()) + " = " + dialect.placeholder(c))
                        .collect(Collectors.joining(", "))
                + where(key);
    }

    /** Deletes the rows with these keys; where there is no key, one row with just these contents for each. */
    public void delete(Connection connection, Collection<Row> rows) throws SQLException {
        List<Column> key = table.keyColumns().stream().map(table::requireColumn).toList();
        if (key.size() == 1) {
            deleteKeys(connection, key.get(0), List.copyOf(rows));
            return;
        }
        String sql = key.isEmpty()
                ? dialect.deleteOne(table, whereSame(table.columns()))
                : "DELETE FROM " + dialect.name(table) + where(key);
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            for (Row row : rows) {
                int index = 1;
                for (Column column : key.isEmpty() ? table.columns() : key) {
                    dialect.bind(statement, index++, column, row.get(column.name()));
                }
                statement.addBatch();
            }
            statement.executeBatch();
        }
    }

    private void deleteKeys(Connection connection, Column key, List<Row> rows) throws SQLException {
        for (int from = 0; from < rows.size(); from += KEYS_AT_ONCE) {
            List<Row> some = filledUp(rows.subList(from, Math.min(rows.size(), from + KEYS_AT_ONCE)));
            String sql = "DELETE FROM " + dialect.name(table) + " WHERE " + oneOf(List.of(key), some.size());
            dialect.often(connection, sql, statement -> {
                int index = 1;
                for (Row row : some) {
                    dialect.bind(statement, index++, key, row.get(key.name()));
                }
                statement.executeUpdate();
            });
        }
    }

    /** Stores a row as it was, key and all; what the database computes is left to it. */
    public void restore(Connection connection, Row row) throws SQLException {
        List<Column> columns =
                table.columns().stream().filter(c -> !c.isComputed()).toList();
        try (PreparedStatement statement = connection.prepareStatement(insert(columns))) {
            int index = 1;
            for (Column column : columns) {
                dialect.bind(statement, index++, column, row.get(column.name()));
            }
            statement.executeUpdate();
        }
    }

    /** Stores rows as they were, key and all. */
    public void restoreAll(Connection connection, List<Row> rows) throws SQLException {
        List<Column> columns =
                table.columns().stream().filter(c -> !c.isComputed()).toList();
        dialect.often(connection, insert(columns), statement -> {
            for (int i = 0; i < rows.size(); i++) {
                int index = 1;
                for (Column column : columns) {
                    dialect.bind(statement, index++, column, rows.get(i).get(column.name()));
                }
                statement.addBatch();
                if (i % 1000 == 999 || i == rows.size() - 1) {
                    statement.executeBatch();
                }
            }
        });
    }

    /** Deletes all rows; returns how many there were. */
    public long clear(Connection connection) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("DELETE FROM " + dialect.name(table))) {
            return statement.executeLargeUpdate();
        }
    }

    /** Gives the row with this row's key this row's values; numbers that the database insists on giving stay. */
    public void reset(Connection connection, Row row) throws SQLException {
        List<Column> key = table.keyColumns().stream().map(table::requireColumn).toList();
        List<Column> set = table.columns().stream()
                .filter(c -> !c.isComputed() && c.generation() != Generation.IDENTITY_ALWAYS && !key.contains(c))
                .toList();
        if (set.isEmpty()) {
            return;
        }
        try (PreparedStatement statement = connection.prepareStatement(update(key, set))) {
            int index = 1;
            for (Column column : set) {
                dialect.bind(statement, index++, column, row.get(column.name()));
            }
            for (Column column : key) {
                dialect.bind(statement, index++, column, row.get(column.name()));
            }
            statement.executeUpdate();
        }
    }

    /**
     * Reads rows in key order, a part of them at a time: PostgreSQL's driver does so in a transaction only (its
     * documentation, "Getting results based on a cursor"), others by several queries that see the same rows.
     */
    public void readStreaming(Connection connection, Condition where, Consumer<RowAtHand> reader) throws SQLException {
        if (!connection.getAutoCommit()) {
            read(connection, where, reader, ROWS_AT_ONCE);
            return;
        }
        boolean byPages = dialect.holdsResults() && hasNumberAsKey();
        int isolation = connection.getTransactionIsolation();
        if (byPages) {
            connection.setTransactionIsolation(Connection.TRANSACTION_REPEATABLE_READ);
        }
        connection.setAutoCommit(false);
        try {
            if (byPages) {
                String all = "SELECT " + selected() + " FROM " + dialect.nameToRead(table);
                ConditionSql condition = new ConditionSql(dialect, table, where);
                new PagedRows(connection, dialect, table, all, condition).run(condition.looking(reader));
            } else {
                read(connection, where, reader, ROWS_AT_ONCE);
            }
        } finally {
            connection.rollback(); // nothing was written
            connection.setAutoCommit(true);
            if (byPages) {
                connection.setTransactionIsolation(isolation);
            }
        }
    }

    private boolean hasNumberAsKey() {
        return table.keyColumns().size() == 1
                && table.requireColumn(table.keyColumns().get(0)).type().kind() == Kind.INTEGER;
    }

    /** Reads rows, in key order where there is a key. */
    public void read(Connection connection, Condition where, Consumer<Row> reader) throws SQLException {
        read(connection, where, row -> reader.accept(row.row()), 0);
    }

    private void read(Connection connection, Condition where, Consumer<RowAtHand> reader, int atOnce)
            throws SQLException {
        ConditionSql condition = new ConditionSql(dialect, table, where);
        StringBuilder sql = new StringBuilder("SELECT " + selected() + " FROM " + dialect.nameToRead(table));
        sql.append(condition.isEmpty() ? "" : " WHERE " + condition.text());
        if (!table.keyColumns().isEmpty()) {
            sql.append(" ORDER BY ")
                    .append(names(table.keyColumns().stream()
                            .map(table::requireColumn)
                            .toList()));
        }
        try (PreparedStatement statement = connection.prepareStatement(sql.toString())) {
            condition.bind(statement);
            statement.setFetchSize(atOnce);
            give(statement, condition.looking(reader));
        }
    }

    /** Tells whether there is a row for which the condition holds. */
    public boolean any(Connection connection, Condition where) throws SQLException {
        ConditionSql condition = new ConditionSql(dialect, table, where);
        if (condition.isCoarse()) {
            AtomicBoolean found = new AtomicBoolean();
            read(connection, where, row -> found.set(true));
            return found.get();
        }
        String sql = "SELECT 1 FROM " + dialect.nameToRead(table)
                + (condition.isEmpty() ? "" : " WHERE " + condition.text()) + dialect.limit(1);
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            condition.bind(statement);
            try (ResultSet rows = statement.executeQuery()) {
                return rows.next();
            }
        }
    }

    /** Evaluates a check for a row that is not stored; empty if the database cannot do so outside its table. */
    public Optional<Boolean> keeps(Connection connection, Check check, Row row) {
        List<Column> columns = row.columns().stream().map(table::requireColumn).toList();
        String values = columns.stream()
                .map(c -> dialect.typed(c) + " AS " + dialect.quote(c.sqlName()))
                .collect(Collectors.joining(", "));
        String sql = "SELECT CASE WHEN (" + check.text() + ") THEN 1 WHEN NOT (" + check.text()
                + ") THEN 0 ELSE 1 END FROM (SELECT " + values + ") " + dialect.quote(table.sqlName());
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            int index = 1;
            for (Column column : columns) {
                dialect.bind(statement, index++, column, row.get(column.name()));
            }
            try (ResultSet result = statement.executeQuery()) {
                return result.next() ? Optional.of(result.getInt(1) == 1) : Optional.empty();
            }
        } catch (SQLException e) {
            return Optional.empty(); // the database says what is wrong when the row is stored
        }
    }

    /** Reads the rows with these keys, in no particular order. */
    void readKeys(Connection connection, List<Row> keys, Consumer<Row> reader) throws SQLException {
        List<Column> key = table.keyColumns().stream().map(table::requireColumn).toList();
        for (int from = 0; from < keys.size(); from += KEYS_AT_ONCE) {
            List<Row> some = filledUp(keys.subList(from, Math.min(keys.size(), from + KEYS_AT_ONCE)));
            String sql =
                    "SELECT " + selected() + " FROM " + dialect.nameToRead(table) + " WHERE " + oneOf(key, some.size());
            dialect.often(connection, sql, statement -> {
                int index = 1;
                for (Row row : some) {
                    for (Column column : key) {
                        dialect.bind(statement, index++, column, row.get(column.name()));
                    }
                }
                give(statement, row -> reader.accept(row.row()));
            });
        }
    }

    /** The last key stands as often as makes one of a few lengths, so that statements come again. */
    private static List<Row> filledUp(List<Row> keys) {
        int length = 1;
        while (length < keys.size()) {
            length *= 2;
        }
        List<Row> all = new ArrayList<>(keys);
        all.addAll(Collections.nCopies(length - keys.size(), keys.get(keys.size() - 1)));
        return all;
    }

    /** Databases look a list of single keys up in the index; alternatives of several columns they take as well. */
    private String oneOf(List<Column> key, int count) {
        if (key.size() == 1) {
            return dialect.quote(key.get(0).sqlName()) + " IN ("
                    + String.join(", ", Collections.nCopies(count, dialect.placeholder(key.get(0)))) + ")";
        }
        String one = key.stream()
                .map(c -> dialect.quote(c.sqlName()) + " = " + dialect.placeholder(c))
                .collect(Collectors.joining(" AND ", "(", ")"));
        return String.join(" OR ", Collections.nCopies(count, one));
    }

    private void give(PreparedStatement statement, Consumer<RowAtHand> reader) throws SQLException {
        try (ResultSet rows = statement.executeQuery()) {
            RowOfResult.each(dialect, table, rows, reader);
        }
    }

    public long max(Connection connection, Column column) throws SQLException {
        return number(connection, "SELECT MAX(" + dialect.quote(column.sqlName()) + ") FROM " + dialect.name(table));
    }

    public long count(Connection connection) throws SQLException {
        return number(connection, "SELECT COUNT(*) FROM " + dialect.name(table));
    }

    /** Counts the rows, at most to {@code most}. */
    public long countUpTo(Connection connection, int most) throws SQLException {
        return number(
                connection,
                "SELECT COUNT(*) FROM (SELECT 1 AS one FROM " + dialect.nameToRead(table) + dialect.limit(most)
                        + ") counted");
    }

    public boolean isEmpty(Connection connection) throws SQLException {
        return countUpTo(connection, 1) == 0;
    }

    private static long number(Connection connection, String sql) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql);
                ResultSet rows = statement.executeQuery()) {
            rows.next();
            return rows.getLong(1);
        }
    }

    /** All columns, as they are selected. */
    private String selected() {
        return table.columns().stream()
                .map(c -> dialect.selected(c, dialect.quote(c.sqlName())))
                .collect(Collectors.joining(", "));
    }

    private String names(List<Column> columns) {
        return columns.stream().map(c -> dialect.quote(c.sqlName())).collect(Collectors.joining(", "));
    }

    private String where(List<Column> key) {
        return " WHERE "
                + key.stream()
                        .map(c -> dialect.quote(c.sqlName()) + " = " + dialect.placeholder(c))
                        .collect(Collectors.joining(" AND "));
    }

    private String whereSame(List<Column> columns) {
        return " WHERE " + columns.stream().map(dialect::same).collect(Collectors.joining(" AND "));
    }
}
