package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RowAtHand;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/**
 * Reads rows in the order of a key of one column, some thousands of them at a time: each query goes on behind the last key
 * of the one before, for databases whose driver holds the result of a query whole. The next query runs on a thread of its
 * own while rows are looked at; it has no work any more when {@link #run} returns.
 */
final class PagedRows {
    private static final int ROWS = 10_000;

    private final Connection connection;
    private final Dialect dialect;
    private final Table table;
    private final String select;
    private final ConditionSql where;
    private final Column key;

    /**
     * @param select what to select and from where, without conditions
     */
    PagedRows(Connection connection, Dialect dialect, Table table, String select, ConditionSql where) {
        this.connection = connection;
        this.dialect = dialect;
        this.table = table;
        this.select = select;
        this.where = where;
        this.key = table.requireColumn(table.keyColumns().get(0));
    }

    /** A query's rows, and the key of the last of them if there may be more behind it. */
    private record Page(
            PreparedStatement statement,
            ResultSet rows,
            @Nullable Object last) implements AutoCloseable {
        @Override
        public void close() throws SQLException {
            statement.close();
        }
    }

    void run(Consumer<RowAtHand> reader) throws SQLException {
        ExecutorService ahead = Executors.newSingleThreadExecutor(work -> {
            Thread thread = new Thread(work, "zabbet-next-rows");
            thread.setDaemon(true);
            return thread;
        });
        Future<Page> next = ahead.submit(() -> query(null));
        boolean interrupted = false;
        try {
            while (next != null) {
                Page page = taken(next);
                next = page.last() == null ? null : ahead.submit(() -> query(page.last()));
                try (page) {
                    RowOfResult.each(dialect, table, page.rows(), reader);
                }
            }
        } catch (InterruptedException e) {
            interrupted = true;
        } finally {
            interrupted |= next != null && givenUp(next);
            ahead.shutdown();
        }
        if (interrupted) {
            Thread.currentThread().interrupt();
            throw new ZabbetException("Reading was interrupted.");
        }
    }

    private Page query(@Nullable Object behind) throws SQLException {
        String name = dialect.quote(key.sqlName());
        StringBuilder sql = new StringBuilder(select);
        sql.append(where.isEmpty() ? "" : " WHERE (" + where.text() + ")");
        if (behind != null) {
            sql.append(where.isEmpty() ? " WHERE " : " AND ")
                    .append(name)
                    .append(" > ")
                    .append(dialect.placeholder(key));
        }
        sql.append(" ORDER BY ")
                .append(name)
                .append(" FETCH FIRST ")
                .append(ROWS)
                .append(" ROWS ONLY");
        PreparedStatement statement = connection.prepareStatement(
                sql.toString(), ResultSet.TYPE_SCROLL_INSENSITIVE, ResultSet.CONCUR_READ_ONLY);
        try {
            int index = where.bind(statement);
            if (behind != null) {
                dialect.bind(statement, index, key, behind);
            }
            ResultSet rows = statement.executeQuery();
            Object last = null;
            if (rows.absolute(ROWS)) {
                last = dialect.read(rows, table.requirePosition(key.name()) + 1, key);
            }
            rows.beforeFirst();
            return new Page(statement, rows, last);
        } catch (SQLException | RuntimeException e) {
            statement.close();
            throw e;
        }
    }

    private static Page taken(Future<Page> task) throws SQLException, InterruptedException {
        try {
            return task.get();
        } catch (ExecutionException e) {
            if (e.getCause() instanceof SQLException refused) {
                throw refused;
            }
            if (e.getCause() instanceof RuntimeException trouble) {
                throw trouble;
            }
            throw new IllegalStateException(e.getCause());
        }
    }

    /** Waits, as the connection is in use until the query has ended; tells whether it was interrupted meanwhile. */
    private static boolean givenUp(Future<Page> task) {
        boolean interrupted = false;
        while (true) {
            try {
                task.get().close();
                return interrupted;
            } catch (InterruptedException e) {
                interrupted = true;
            } catch (ExecutionException | SQLException e) {
                return interrupted; // nobody wants these rows
            }
        }
    }
}
