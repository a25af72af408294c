package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RowAtHand;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.List;
import java.util.Objects;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/** The row that a result is at. Values are taken from the driver when they are asked for, and never kept here. */
final class RowOfResult implements RowAtHand {
    private final Dialect dialect;
    private final ResultSet rows;
    private final List<String> names;
    private final Column[] columns;
    private final boolean[] whole;

    /** What the driver says while somebody looks at a row who knows nothing of databases. */
    private static final class UnreadException extends RuntimeException {
        private static final long serialVersionUID = 1;
        private final SQLException trouble;

        UnreadException(SQLException trouble) {
            super(trouble);
            this.trouble = trouble;
        }
    }

    private RowOfResult(Dialect dialect, Table table, ResultSet rows) {
        this.dialect = dialect;
        this.rows = rows;
        this.names = table.columnNames();
        this.columns = table.columns().toArray(Column[]::new);
        this.whole = new boolean[columns.length];
        for (int i = 0; i < columns.length; i++) {
            whole[i] = dialect.readsAsLong(columns[i]);
        }
    }

    /** Gives each row of a result of all the table's columns to a reader. */
    static void each(Dialect dialect, Table table, ResultSet rows, Consumer<RowAtHand> reader) throws SQLException {
        RowOfResult row = new RowOfResult(dialect, table, rows);
        try {
            while (rows.next()) {
                reader.accept(row);
            }
        } catch (UnreadException e) {
            throw e.trouble;
        }
    }

    @Override
    public @Nullable Object at(int position) {
        try {
            return dialect.read(rows, position + 1, columns[position]);
        } catch (SQLException e) {
            throw new UnreadException(e);
        }
    }

    /** A whole number is compared without an object made for it. */
    @Override
    public boolean holds(int position, @Nullable Object value) {
        if (value instanceof Long number && whole[position]) {
            try {
                return rows.getLong(position + 1) == number && (number != 0 || !rows.wasNull()); // null reads as 0
            } catch (SQLException e) {
                throw new UnreadException(e);
            }
        }
        return Objects.equals(value, at(position));
    }

    @Override
    public Row row() {
        @Nullable Object[] values = new @Nullable Object[columns.length];
        for (int i = 0; i < values.length; i++) {
            values[i] = at(i);
        }
        return Row.of(names, values);
    }
}
