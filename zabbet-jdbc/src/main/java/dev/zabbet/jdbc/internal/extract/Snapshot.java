package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.ConditionSql;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.SQLTimeoutException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Consumer;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Queries that all see the database as it was when the first of them ran, on a connection that is only read: a transaction of
 * repeatable reads (ISO 9075-2), which on SQLite every transaction is.
 */
final class Snapshot implements AutoCloseable {
    private static final int ROWS_AT_ONCE = 2_000;

    private final Connection connection;
    private final Dialect dialect;
    private final int seconds;
    private final boolean autoCommit;
    private final int isolation;
    private final int usualSeconds;

    Snapshot(Connection connection, Dialect dialect, int seconds) throws SQLException {
        this.connection = connection;
        this.dialect = dialect;
        this.seconds = seconds;
        this.autoCommit = connection.getAutoCommit();
        this.isolation = connection.getTransactionIsolation();
        this.usualSeconds = timeLimit(connection);
        if (!autoCommit) {
            connection.rollback(); // reading the schema may have begun one
        }
        int wanted = Connection.TRANSACTION_REPEATABLE_READ;
        if (connection.getMetaData().supportsTransactionIsolationLevel(wanted)) {
            connection.setTransactionIsolation(wanted);
        }
        connection.setAutoCommit(false);
    }

    private static int timeLimit(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            return statement.getQueryTimeout();
        }
    }

    Connection connection() {
        return connection;
    }

    Dialect dialect() {
        return dialect;
    }

    /**
     * In which order rows are read, and how many.
     *
     * @param order what stands at the end of the query
     * @param most how many rows at most of each condition; 0 for all
     */
    record End(String order, int most) {
        static final End ALL = new End("", 0);
    }

    /**
     * Reads rows of a table.
     *
     * @param columns the columns that each row gets
     * @param where which rows
     * @param further conditions in SQL, all of which have to hold as well
     */
    void read(Table table, List<Column> columns, Condition where, List<String> further, End end, Consumer<Row> reader)
            throws SQLException {
        readAll(table, columns, List.of(where), further, end, reader);
    }

    /** Reads rows of a table by several queries in one, each with its condition and the same end. */
    void readAll(
            Table table,
            List<Column> columns,
            List<Condition> wheres,
            List<String> further,
            End end,
            Consumer<Row> reader)
            throws SQLException {
        List<ConditionSql> conditions = wheres.stream()
                .map(where -> new ConditionSql(dialect, table, where))
                .toList();
        if (conditions.stream().anyMatch(ConditionSql::isCoarse)) {
            for (ConditionSql condition : conditions) {
                readLooking(table, columns, condition, further, end, reader);
            }
            return;
        }
        String last = end.order() + (end.most() == 0 ? "" : dialect.limit(end.most()));
        List<String> parts = conditions.stream()
                .map(where -> select(table, columns, where, further) + last)
                .toList();
        String sql = parts.size() == 1
                ? parts.get(0)
                : parts.stream()
                        .map(part -> "SELECT * FROM (" + part + ") part")
                        .collect(Collectors.joining(" UNION ALL "));
        query(table, columns, sql, conditions, row -> {
            reader.accept(row);
            return true;
        });
    }

    /** Where the database finds too many rows, each is looked at, and the limit counts those that are meant. */
    private void readLooking(
            Table table,
            List<Column> columns,
            ConditionSql condition,
            List<String> further,
            End end,
            Consumer<Row> reader)
            throws SQLException {
        Set<Column> all = new LinkedHashSet<>(columns);
        all.addAll(condition.lookedAt());
        List<Column> read = List.copyOf(all);
        List<String> names = columns.stream().map(Column::name).toList();
        AtomicInteger taken = new AtomicInteger();
        query(table, read, select(table, read, condition, further) + end.order(), List.of(condition), row -> {
            if (condition.isMeant(row)) {
                reader.accept(Row.of(names, names.stream().map(row::get).toArray()));
                return taken.incrementAndGet() != end.most();
            }
            return true;
        });
    }

    private void query(
            Table table, List<Column> columns, String sql, List<ConditionSql> conditions, Predicate<Row> reader)
            throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            statement.setFetchSize(ROWS_AT_ONCE);
            statement.setQueryTimeout(seconds);
            int next = 1;
            for (ConditionSql condition : conditions) {
                next = condition.bind(statement, next);
            }
            List<String> names = columns.stream().map(Column::name).toList();
            try (ResultSet rows = statement.executeQuery()) {
                boolean more = true;
                while (more && rows.next()) {
                    @Nullable Object[] values = new @Nullable Object[columns.size()];
                    for (int i = 0; i < values.length; i++) {
                        values[i] = dialect.read(rows, i + 1, columns.get(i));
                    }
                    more = reader.test(Row.of(names, values));
                }
            }
        } catch (SQLException e) {
            throw isGivenUp(e) ? tooLong(table, e) : e;
        }
    }

    /** PostgreSQL and H2 say that a query was cancelled (SQLSTATE 57014), MariaDB that its time was over. */
    private static boolean isGivenUp(SQLException e) {
        return e instanceof SQLTimeoutException || "57014".equals(e.getSQLState());
    }

    private SQLException tooLong(Table table, SQLException e) {
        return new SQLException(
                "Table " + table.name() + " was not read within " + seconds
                        + " seconds. Narrow the extract, give the columns that it is looked for by an index, or allow more by"
                        + " --timeout (" + e.getMessage() + ")",
                e.getSQLState(),
                e);
    }

    private String select(Table table, List<Column> columns, ConditionSql where, List<String> further) {
        List<String> conditions = new ArrayList<>();
        if (!where.isEmpty()) {
            conditions.add("(" + where.text() + ")");
        }
        further.forEach(sql -> conditions.add("(" + sql + ")"));
        String names = columns.stream()
                .map(column -> dialect.selected(column, dialect.quote(column.sqlName())))
                .collect(Collectors.joining(", "));
        return "SELECT " + names + " FROM " + dialect.nameToRead(table)
                + (conditions.isEmpty() ? "" : " WHERE " + String.join(" AND ", conditions));
    }

    @Override
    public void close() {
        try {
            connection.rollback(); // nothing was written
            try (Statement statement = connection.createStatement()) {
                statement.setQueryTimeout(usualSeconds); // in H2 it belongs to the connection
            }
            connection.setAutoCommit(autoCommit);
            connection.setTransactionIsolation(isolation);
        } catch (SQLException e) {
            throw new ZabbetException("The connection was lost: " + e.getMessage(), e);
        }
    }
}
