package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.ReferredKeys;
import dev.zabbet.jdbc.internal.dialect.RefusedRowException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RowSource;
import dev.zabbet.type.Kind;
import java.io.InputStream;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/**
 * Stores many rows by LOAD DATA from a stream; very many with references unchecked, which are then checked by the keys
 * that they name, or by a query where those are too many.
 */
final class MariaDbLoadData {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");
    private static final int VERY_MANY = 20_000;
    private static final int NOT_ALLOWED = 1148;
    private static final int NOT_ALLOWED_SINCE_10_6 = 4166;

    private final MariaDbDialect dialect;
    private final Connection connection;
    private final Schema schema;
    private final RowSource rows;
    private final Table table;
    private final List<ReferredKeys> referred;

    private MariaDbLoadData(MariaDbDialect dialect, Connection connection, Schema schema, RowSource rows) {
        this.dialect = dialect;
        this.connection = connection;
        this.schema = schema;
        this.rows = rows;
        this.table = rows.table();
        this.referred = table.references().stream()
                .map(reference -> new ReferredKeys(dialect, schema, rows, reference))
                .toList();
    }

    static boolean store(MariaDbDialect dialect, Connection connection, Schema schema, RowSource rows)
            throws SQLException {
        if (rows.columns().isEmpty() || !connection.isWrapperFor(org.mariadb.jdbc.Connection.class)) {
            return false;
        }
        return new MariaDbLoadData(dialect, connection, schema, rows).store();
    }

    private boolean store() throws SQLException {
        boolean unchecked = rows.size() >= VERY_MANY && !table.references().isEmpty();
        try (Statement statement = connection.createStatement()) {
            if (unchecked) {
                // A secondary unique key has to be checked; without one, the check only costs.
                statement.execute("SET foreign_key_checks = 0, unique_checks = "
                        + (table.uniques().isEmpty() ? "0" : "1"));
            }
            LOG.log(
                    Level.DEBUG,
                    "{0} rows of {1} by LOAD DATA{2}.",
                    rows.size(),
                    table.name(),
                    unchecked ? ", its references checked afterwards" : "");
            try {
                if (!load(statement)) {
                    return false;
                }
                for (int i = 0; unchecked && i < referred.size(); i++) {
                    if (!referred.get(i).areThere(connection)) {
                        requireIntact(statement, table.references().get(i));
                    }
                }
                return true;
            } finally {
                if (unchecked) {
                    statement.execute("SET foreign_key_checks = 1, unique_checks = 1");
                }
            }
        }
    }

    private boolean load(Statement statement) throws SQLException {
        List<String> names = new ArrayList<>();
        List<String> sets = new ArrayList<>();
        for (Column column : rows.columns()) {
            String name = dialect.quote(column.sqlName());
            Kind kind = column.type().kind();
            if (kind == Kind.BYTES || kind == Kind.OTHER) {
                names.add("@v" + names.size());
                String variable = names.get(names.size() - 1);
                sets.add(name + " = IF(LEFT(" + variable + ", 2) = '0x', UNHEX(SUBSTR(" + variable + ", 3)), "
                        + variable + ")");
            } else {
                names.add(name);
            }
        }
        String sql = "LOAD DATA LOCAL INFILE 'rows' INTO TABLE " + dialect.name(table) + " CHARACTER SET utf8mb4 ("
                + String.join(", ", names) + ")" + (sets.isEmpty() ? "" : " SET " + String.join(", ", sets));
        try {
            statement.unwrap(org.mariadb.jdbc.Statement.class).setLocalInfileInputStream(new Rows(rows, referred));
            int stored = statement.executeUpdate(sql);
            requireAll(statement, stored);
            return true;
        } catch (SQLException e) {
            boolean notAllowed = e.getErrorCode() == NOT_ALLOWED
                    || e.getErrorCode() == NOT_ALLOWED_SINCE_10_6
                    || String.valueOf(e.getMessage()).toLowerCase(Locale.ROOT).contains("infile is disabled");
            if (notAllowed) {
                LOG.log(Level.DEBUG, "LOAD DATA is not allowed here: {0}", e.getMessage());
                return false;
            }
            throw e instanceof RefusedRowException ? e : new RefusedRowException(e, -1);
        }
    }

    /** With LOCAL, MariaDB turns errors into warnings and leaves rows out: none may be left out or changed. */
    private void requireAll(Statement statement, int stored) throws SQLException {
        String warning = "";
        try (ResultSet warnings = statement.executeQuery("SHOW WARNINGS LIMIT 1")) {
            if (warnings.next()) {
                warning = warnings.getString(3);
            }
        }
        if (stored != rows.size() || !warning.isEmpty()) {
            String missing = (rows.size() - stored) + " of " + rows.size() + " rows were left out";
            throw new RefusedRowException(new SQLException(warning.isEmpty() ? missing : warning, "23000"), -1);
        }
    }

    /** Looks at each different reference once: the index behind it gives those without a look at every row. */
    private void requireIntact(Statement statement, Reference reference) throws SQLException {
        List<String> own = reference.columns().stream()
                .map(c -> dialect.quote(table.requireColumn(c).sqlName()))
                .toList();
        List<String> on = new ArrayList<>();
        List<String> where = new ArrayList<>();
        Table parents = schema.require(reference.target());
        List<String> target = reference.targetColumns().stream()
                .map(c -> dialect.quote(parents.requireColumn(c).sqlName()))
                .toList();
        for (int i = 0; i < own.size(); i++) {
            on.add("p." + target.get(i) + " = c." + own.get(i));
            where.add("c." + own.get(i) + " IS NOT NULL");
        }
        String sql = "SELECT 1 FROM (SELECT DISTINCT " + String.join(", ", own) + " FROM " + dialect.name(table)
                + ") c LEFT JOIN " + dialect.name(parents) + " p ON " + String.join(" AND ", on)
                + " WHERE p." + target.get(0) + " IS NULL AND "
                + String.join(" AND ", where) + " LIMIT 1";
        try (ResultSet orphan = statement.executeQuery(sql)) {
            if (orphan.next()) {
                throw new RefusedRowException(
                        new SQLException(
                                "a row refers to a " + reference.target() + " that is not there (CONSTRAINT `"
                                        + reference.name() + "`)",
                                "23000"),
                        -1);
            }
        }
    }

    /** The rows as the stream of text that LOAD DATA reads, made while it is read. */
    private static final class Rows extends InputStream {
        private static final int CHUNK = 1 << 16;

        private final RowSource rows;
        private final List<ReferredKeys> referred;
        private final @Nullable Object[] values;
        private final StringBuilder text = new StringBuilder(CHUNK + 4096);
        private byte[] chunk = new byte[0];
        private int at;
        private int row;

        Rows(RowSource rows, List<ReferredKeys> referred) {
            this.rows = rows;
            this.referred = referred;
            this.values = new @Nullable Object[rows.columns().size()];
        }

        @Override
        public int read() {
            return fill() ? chunk[at++] & 0xFF : -1;
        }

        @Override
        public int read(byte[] into, int offset, int length) {
            if (length == 0) {
                return 0;
            }
            if (!fill()) {
                return -1;
            }
            int n = Math.min(length, chunk.length - at);
            System.arraycopy(chunk, at, into, offset, n);
            at += n;
            return n;
        }

        private boolean fill() {
            if (at < chunk.length) {
                return true;
            }
            text.setLength(0);
            while (row < rows.size() && text.length() < CHUNK) {
                for (int c = 0; c < values.length; c++) {
                    values[c] = rows.value(row, c);
                    append(text, values[c]);
                    text.append(c == values.length - 1 ? '\n' : '\t');
                }
                for (ReferredKeys keys : referred) {
                    keys.note(values);
                }
                row++;
            }
            chunk = text.toString().getBytes(StandardCharsets.UTF_8);
            at = 0;
            return chunk.length > 0;
        }

        private static void append(StringBuilder text, @Nullable Object value) {
            if (value == null) {
                text.append("\\N");
            } else if (value instanceof BigDecimal number) {
                text.append(number.toPlainString());
            } else if (value instanceof Boolean truth) {
                text.append(truth ? '1' : '0');
            } else if (value instanceof byte[] bytes) {
                text.append("0x").append(HexFormat.of().formatHex(bytes));
            } else if (value instanceof String string) {
                escape(text, string);
            } else {
                text.append(value);
            }
        }

        private static void escape(StringBuilder text, String string) {
            for (int i = 0; i < string.length(); i++) {
                char c = string.charAt(i);
                switch (c) {
                    case '\\' -> text.append("\\\\");
                    case '\n' -> text.append("\\n");
                    case '\t' -> text.append("\\t");
                    case '\0' -> text.append("\\0");
                    default -> text.append(c);
                }
            }
        }
    }
}
