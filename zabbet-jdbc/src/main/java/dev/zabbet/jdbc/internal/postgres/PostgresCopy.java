package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.jdbc.internal.dialect.RefusedRowException;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RowSource;
import dev.zabbet.type.Kind;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Savepoint;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.postgresql.PGConnection;
import org.postgresql.copy.CopyIn;
import org.postgresql.util.PSQLException;
import org.postgresql.util.ServerErrorMessage;

/** Stores many rows by COPY in text format; very many without their references, which are added again and so checked. */
final class PostgresCopy {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");
    private static final int CHUNK = 1 << 16;
    private static final int VERY_MANY = 20_000;
    private static final Pattern LINE = Pattern.compile(", line (\\d+)");

    private final PostgresDialect dialect;
    private final Connection connection;
    private final RowSource rows;

    private PostgresCopy(PostgresDialect dialect, Connection connection, RowSource rows) {
        this.dialect = dialect;
        this.connection = connection;
        this.rows = rows;
    }

    static boolean store(PostgresDialect dialect, Connection connection, RowSource rows) throws SQLException {
        boolean fits = rows.columns().stream().noneMatch(c -> c.type().kind() == Kind.ARRAY);
        if (!fits || rows.columns().isEmpty() || !connection.isWrapperFor(PGConnection.class)) {
            return false;
        }
        PostgresCopy copy = new PostgresCopy(dialect, connection, rows);
        List<String[]> dropped = rows.size() >= VERY_MANY ? copy.dropReferences() : List.of();
        LOG.log(
                Level.DEBUG,
                "{0} rows of {1} by COPY{2}.",
                rows.size(),
                rows.table().name(),
                dropped.isEmpty() ? "" : ", its references dropped and added again");
        copy.copy();
        copy.addReferences(dropped);
        return true;
    }

    /** Drops the table's references if the user owns it; returns their names and definitions. */
    private List<String[]> dropReferences() throws SQLException {
        List<String[]> references = new ArrayList<>();
        Table table = rows.table();
        SchemaDraft.each(
                connection,
                "SELECT conname, pg_get_constraintdef(oid) FROM pg_constraint WHERE contype = 'f' AND conparentid = 0"
                        + " AND conrelid = '" + dialect.name(table).replace("'", "''") + "'::regclass",
                row -> references.add(new String[] {row.getString(1), row.getString(2)}));
        Savepoint before = connection.setSavepoint();
        try (Statement statement = connection.createStatement()) {
            for (String[] reference : references) {
                statement.execute(
                        "ALTER TABLE " + dialect.name(table) + " DROP CONSTRAINT " + dialect.quote(reference[0]));
            }
            connection.releaseSavepoint(before);
            return references;
        } catch (SQLException e) {
            connection.rollback(before);
            LOG.log(Level.DEBUG, "The references of {0} stay while it is loaded: {1}", table.name(), e.getMessage());
            return List.of();
        }
    }

    private void addReferences(List<String[]> references) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            for (String[] reference : references) {
                statement.execute("ALTER TABLE " + dialect.name(rows.table()) + " ADD CONSTRAINT "
                        + dialect.quote(reference[0]) + " " + reference[1]);
            }
        } catch (SQLException e) {
            throw new RefusedRowException(e, -1);
        }
    }

    private void copy() throws SQLException {
        String columns =
                rows.columns().stream().map(Column::sqlName).map(dialect::quote).collect(Collectors.joining(", "));
        CopyIn copy = connection
                .unwrap(PGConnection.class)
                .getCopyAPI()
                .copyIn("COPY " + dialect.name(rows.table()) + " (" + columns + ") FROM STDIN");
        try {
            StringBuilder text = new StringBuilder(CHUNK + 4096);
            int width = rows.columns().size();
            for (int row = 0; row < rows.size(); row++) {
                for (int c = 0; c < width; c++) {
                    append(text, rows.value(row, c));
                    text.append(c == width - 1 ? '\n' : '\t');
                }
                if (text.length() >= CHUNK || row == rows.size() - 1) {
                    byte[] bytes = text.toString().getBytes(StandardCharsets.UTF_8);
                    copy.writeToCopy(bytes, 0, bytes.length);
                    text.setLength(0);
                }
            }
            copy.endCopy();
        } catch (PSQLException e) {
            throw new RefusedRowException(e, line(e) - 1);
        } finally {
            if (copy.isActive()) {
                copy.cancelCopy();
            }
        }
    }

    private static int line(PSQLException e) {
        ServerErrorMessage server = e.getServerErrorMessage();
        Matcher line = LINE.matcher(String.valueOf(server == null ? null : server.getWhere()));
        return line.find() ? Integer.parseInt(line.group(1)) : 0;
    }

    private static void append(StringBuilder text, @Nullable Object value) {
        if (value == null) {
            text.append("\\N");
        } else if (value instanceof Long || value instanceof Integer) {
            text.append(((Number) value).longValue());
        } else if (value instanceof BigDecimal number) {
            text.append(number.toPlainString());
        } else if (value instanceof Boolean truth) {
            text.append(truth ? 't' : 'f');
        } else if (value instanceof byte[] bytes) {
            text.append("\\\\x").append(HexFormat.of().formatHex(bytes));
        } else if (value instanceof String string) {
            escape(text, string);
        } else {
            escape(text, value.toString());
        }
    }

    private static void escape(StringBuilder text, String string) {
        for (int i = 0; i < string.length(); i++) {
            char c = string.charAt(i);
            switch (c) {
                case '\\' -> text.append("\\\\");
                case '\n' -> text.append("\\n");
                case '\r' -> text.append("\\r");
                case '\t' -> text.append("\\t");
                default -> text.append(c);
            }
        }
    }
}
