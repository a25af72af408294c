package dev.zabbet.jdbc.internal.script;

import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.lang.reflect.InvocationHandler;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/**
 * Writes rows as the SQL statements that would store them: the statements of {@link TableSql}, with what the dialect would
 * bind in the place of the question marks.
 */
public final class SqlInserts {
    private static final int ROWS_AT_ONCE = 100;

    private final Dialect dialect;
    private final Connection connection;
    private final Appendable to;
    private final Map<Table, Long> last = new LinkedHashMap<>();

    public SqlInserts(Dialect dialect, Connection connection, Appendable to) {
        this.dialect = dialect;
        this.connection = connection;
        this.to = to;
    }

    /** What can write its rows as SQL. */
    public interface Writable {
        void writeInserts(Load load, Appendable to);
    }

    /** Writes all rows, what comes before them and what after. */
    public void write(Load load) throws SQLException {
        try {
            begin();
            for (RowSource rows : load.inserts()) {
                insert(rows);
            }
            for (Load.Fill fill : load.updates()) {
                update(fill);
            }
            end();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Writes what has to stand before the rows. */
    public void begin() throws IOException {
        for (String setting : dialect.scriptSettings()) {
            to.append(setting).append(";\n");
        }
    }

    /** Writes what moves counters past the keys of the rows that were written. */
    public void end() throws IOException {
        for (Map.Entry<Table, Long> numbered : last.entrySet()) {
            Column column = numbered.getKey().numberedColumn().orElseThrow();
            String statement = dialect.scriptCounter(numbered.getKey(), column, numbered.getValue() + 1);
            if (!statement.isEmpty()) {
                to.append(statement).append(";\n");
            }
        }
    }

    /** Writes the statements that store rows. */
    public void insert(RowSource rows) throws SQLException, IOException {
        Table table = rows.table();
        List<Column> columns = rows.columns();
        int number = table.numberedColumn().map(columns::indexOf).orElse(-1);
        if (columns.isEmpty()) {
            for (int r = 0; r < rows.size(); r++) {
                to.append(bare(new TableSql(dialect, table).insert(columns))).append(";\n");
            }
            return;
        }
        String one = bare(new TableSql(dialect, table).insert(columns));
        String head = one.substring(0, one.lastIndexOf(" VALUES ") + " VALUES".length());
        String placeholders = one.substring(head.length() + 1);
        for (int r = 0; r < rows.size(); r++) {
            boolean begins = r % ROWS_AT_ONCE == 0;
            to.append(begins ? head + "\n  " : ",\n  ").append(filled(placeholders, columns, 0, rows, r));
            if (r == rows.size() - 1 || (r + 1) % ROWS_AT_ONCE == 0) {
                to.append(";\n");
            }
            if (number >= 0 && rows.value(r, number) instanceof Long value) {
                last.merge(table, value, Math::max);
            }
        }
    }

    /** The name of the table, which comes first, without that of the database. */
    private String bare(String sql) throws SQLException {
        String before = dialect.leftOutOfScripts(connection);
        int at = before.isEmpty() ? -1 : sql.indexOf(before);
        return at < 0 ? sql : sql.substring(0, at) + sql.substring(at + before.length());
    }

    /** Writes the statements that fill in columns of rows that were written before. */
    public void update(Load.Fill fill) throws SQLException, IOException {
        RowSource rows = fill.rows();
        List<Column> columns = rows.columns();
        String sql = bare(new TableSql(dialect, rows.table())
                .update(columns.subList(0, fill.keyColumns()), columns.subList(fill.keyColumns(), columns.size())));
        for (int r = 0; r < rows.size(); r++) {
            to.append(filled(sql, columns, fill.keyColumns(), rows, r)).append(";\n");
        }
    }

    /** Puts a row's values in the place of the question marks; in an update those of the key come last. */
    private String filled(String sql, List<Column> columns, int keyColumns, RowSource rows, int row)
            throws SQLException {
        List<String> literals = new ArrayList<>();
        for (int i = 0; i < columns.size(); i++) {
            int at = (i + keyColumns) % columns.size();
            literals.add(literal(columns.get(at), rows.value(row, at)));
        }
        StringBuilder text = new StringBuilder();
        int next = 0;
        boolean quoted = false;
        for (int i = 0; i < sql.length(); i++) {
            char c = sql.charAt(i);
            quoted ^= c == '"' || c == '`' || c == '\'';
            if (c == '?' && !quoted) {
                text.append(literals.get(next++));
            } else {
                text.append(c);
            }
        }
        return text.toString();
    }

    private String literal(Column column, @Nullable Object value) throws SQLException {
        Recorder recorder = new Recorder();
        dialect.bind(recorder.statement(), 1, column, value);
        Object bound = recorder.bound;
        return bound == null ? "NULL" : dialect.literal(bound);
    }

    /** A statement that only remembers what it was given. */
    private final class Recorder implements InvocationHandler {
        private @Nullable Object bound;

        PreparedStatement statement() {
            return (PreparedStatement) Proxy.newProxyInstance(
                    PreparedStatement.class.getClassLoader(), new Class<?>[] {PreparedStatement.class}, this);
        }

        @Override
        public @Nullable Object invoke(Object proxy, Method method, @Nullable Object @Nullable [] arguments)
                throws Throwable {
            if (method.getName().equals("getConnection")) {
                return connection;
            }
            if (method.getName().startsWith("set") && arguments != null && arguments.length >= 2) {
                bound = method.getName().equals("setNull") ? null : arguments[1];
                return null;
            }
            try {
                return method.invoke(this, arguments); // what every object can
            } catch (InvocationTargetException e) {
                throw Objects.requireNonNullElse(e.getCause(), e);
            }
        }
    }
}
