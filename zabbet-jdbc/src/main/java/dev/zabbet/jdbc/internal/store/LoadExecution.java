package dev.zabbet.jdbc.internal.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.OpenTransactions;
import dev.zabbet.jdbc.internal.dialect.RefusedRowException;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.guard.LabelTable;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.sql.BatchUpdateException;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Savepoint;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Stores a load in one transaction. */
final class LoadExecution {
    private static final int BATCH = 1000;
    private static final int MANY = 500;
    private static final int MOST_AGAIN = 100_000;

    private final Dialect dialect;
    private final Connection connection;
    private final Schema schema;
    private boolean finding; // the row that was refused

    LoadExecution(Dialect dialect, Connection connection, Schema schema) {
        this.dialect = dialect;
        this.connection = connection;
        this.schema = schema;
    }

    void store(Load load, LabelTable labels) throws SQLException {
        dialect.beforeLoad(connection, load);
        dialect.begin(connection);
        try {
            try {
                store(load);
            } catch (RefusedBatchException e) {
                dialect.rollBack(connection);
                finding = true;
                dialect.begin(connection);
                store(load);
            }
            labels.keep(connection, load);
            dialect.endOfLoad(connection);
            dialect.commit(connection);
        } catch (SQLException | RuntimeException e) {
            dialect.rollBack(connection);
            try {
                dialect.endOfLoad(connection); // nothing is half stored
            } catch (SQLException left) {
                e.addSuppressed(left);
            }
            throw e;
        }
    }

    private void store(Load load) throws SQLException {
        for (RowSource rows : load.inserts()) {
            if (rows.size() >= MANY && storedFast(rows)) {
                continue;
            }
            batches(
                    rows,
                    new TableSql(dialect, rows.table()).insert(rows.columns()),
                    order(rows.columns().size(), 0));
        }
        for (Load.Fill fill : load.updates()) {
            RowSource rows = fill.rows();
            List<Column> columns = rows.columns();
            String sql = new TableSql(dialect, rows.table())
                    .update(columns.subList(0, fill.keyColumns()), columns.subList(fill.keyColumns(), columns.size()));
            batches(rows, sql, order(columns.size(), fill.keyColumns()));
        }
    }

    /** A batch was refused, and the driver does not say which of its rows. */
    private static final class RefusedBatchException extends SQLException {
        private static final long serialVersionUID = 1L;

        RefusedBatchException(SQLException reason) {
            super(reason);
        }
    }

    /** Where the fast way does not tell which row was refused, the plain one does. */
    private boolean storedFast(RowSource rows) throws SQLException {
        Savepoint before = connection.setSavepoint();
        try {
            boolean stored = dialect.storeFast(connection, schema, rows);
            connection.releaseSavepoint(before);
            return stored;
        } catch (RefusedRowException e) {
            if (e.row() >= 0 || rows.size() > MOST_AGAIN) {
                throw refused(e, rows, e.row());
            }
            connection.rollback(before);
            return false;
        }
    }

    /** In an update the columns to set come before those of the key. */
    private static int[] order(int columns, int keyColumns) {
        int[] order = new int[columns];
        for (int i = 0; i < columns; i++) {
            order[i] = (i + keyColumns) % columns;
        }
        return order;
    }

    private void batches(RowSource rows, String sql, int[] order) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            int begun = 0;
            for (int row = 0; row < rows.size(); row++) {
                for (int i = 0; i < order.length; i++) {
                    dialect.bind(statement, i + 1, rows.columns().get(order[i]), rows.value(row, order[i]));
                }
                statement.addBatch();
                if (row + 1 - begun == BATCH || row + 1 == rows.size()) {
                    if (dialect.tellsRefusedRow() || row == begun) {
                        execute(statement, rows, begun);
                    } else {
                        executeOrFind(statement, rows, order, begun, row + 1);
                    }
                    begun = row + 1;
                }
            }
        }
    }

    /** Where a refused batch does not tell which row it was, the rows are tried one by one, when all is done again. */
    private void executeOrFind(PreparedStatement statement, RowSource rows, int[] order, int begun, int end)
            throws SQLException {
        if (!finding) {
            try {
                statement.executeBatch();
                return;
            } catch (SQLException e) {
                throw new RefusedBatchException(e);
            }
        }
        Savepoint before = connection.setSavepoint();
        try {
            statement.executeBatch();
        } catch (SQLException e) {
            connection.rollback(before);
            statement.clearBatch();
            for (int row = begun; row < end; row++) {
                for (int i = 0; i < order.length; i++) {
                    dialect.bind(statement, i + 1, rows.columns().get(order[i]), rows.value(row, order[i]));
                }
                try {
                    statement.executeUpdate();
                } catch (SQLException refusal) {
                    throw refused(refusal, rows, row);
                }
            }
            throw refused(e, rows, -1); // none by itself
        }
        connection.releaseSavepoint(before);
    }

    private void execute(PreparedStatement statement, RowSource rows, int begun) throws SQLException {
        try {
            statement.executeBatch();
        } catch (BatchUpdateException e) {
            int failed = begun;
            int[] counts = e.getUpdateCounts();
            for (int i = 0; i < counts.length; i++) {
                if (counts[i] == Statement.EXECUTE_FAILED) {
                    failed = begun + i;
                    break;
                }
                failed = begun + i + 1;
            }
            SQLException reason = e.getNextException() == null ? e : e.getNextException();
            throw refused(reason, rows, Math.min(failed, rows.size() - 1));
        } catch (SQLException e) {
            // Some drivers do not say which row of a batch it was.
            throw refused(e, rows, rows.size() == 1 ? 0 : -1);
        }
    }

    /** What the application's own triggers do is refused in the name of a row that may be valid itself. */
    private static String byTrigger(Table table, @Nullable String constraint, SQLException reason) {
        List<String> triggers = table.nature().triggers();
        String state = String.valueOf(reason.getSQLState());
        boolean own = constraint == null
                ? state.startsWith("23") || state.startsWith("22") || state.equals("null")
                : table.hasConstraint(constraint);
        if (triggers.isEmpty() || own) {
            return "";
        }
        return "\nThat is no constraint of " + table.name() + ": "
                + (triggers.size() == 1
                        ? "its trigger " + triggers.get(0)
                        : "one of its triggers, " + String.join(" or ", triggers) + ",")
                + " did this. What a trigger needs to find in its session is prepared by stage.onEachConnection(…).";
    }

    /** Tells which row was refused, and why; -1 where that is not known. */
    private ZabbetException refused(SQLException reason, RowSource rows, int failed) {
        List<String> names = rows.columns().stream().map(Column::name).toList();
        List<@Nullable Object> values = new ArrayList<>();
        for (int c = 0; failed >= 0 && c < names.size(); c++) {
            values.add(rows.value(failed, c));
        }
        Row row = failed < 0 ? null : Row.of(names, values.toArray());
        String words = Arrays.stream(String.valueOf(reason.getMessage()).split("; SQL statement:"))
                .findFirst()
                .orElse("");
        if (dialect.isLocked(reason) || (reason.getCause() instanceof SQLException cause && dialect.isLocked(cause))) {
            return new ZabbetException(
                    "Rows of " + rows.table().name() + " cannot be stored, and nothing was: " + OpenTransactions.LOCKED
                            + words,
                    reason);
        }
        if (dialect.isFull(reason)) {
            return new ZabbetException(
                    "Rows of " + rows.table().name()
                            + " cannot be stored, and nothing was: the disk is full. The database" + " says: " + words,
                    reason);
        }
        String constraint = dialect.constraint(reason).orElse(null);
        return new ConstraintException(
                "A row of " + rows.table().name() + " was refused"
                        + (constraint == null ? "" : " by " + constraint) + ", and nothing was stored.\n"
                        + "The row: "
                        + (row == null
                                ? "one of " + Words.count(rows.size(), "row") + "; the database does not say which"
                                : Words.cut(row.toString(), 1000))
                        + "\n"
                        + "The database says: " + Words.cut(words, 1000)
                        + byTrigger(rows.table(), constraint, reason),
                rows.table().name(),
                constraint,
                String.valueOf(reason.getSQLState()),
                row,
                reason);
    }
}
