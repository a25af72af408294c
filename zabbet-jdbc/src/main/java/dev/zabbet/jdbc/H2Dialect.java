package dev.zabbet.jdbc;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Kind;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.sql.Array;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.sql.Types;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/** H2. */
final class H2Dialect implements Dialect {
    @Override
    public String product() {
        return "H2";
    }

    @Override
    public boolean isInThisProcess(Connection connection) throws SQLException {
        return connection.getMetaData().getURL().startsWith("jdbc:h2:mem:");
    }

    @Override
    public Schema readSchema(Connection connection) throws SQLException {
        return new H2SchemaReader(connection).read();
    }

    @Override
    public String overriding(Table table) {
        return table.columns().stream().anyMatch(Column::isIdentity) ? " OVERRIDING SYSTEM VALUE" : "";
    }

    @Override
    public String placeholder(Column column) {
        return column.type().kind() == Kind.JSON ? "? FORMAT JSON" : "?";
    }

    @Override
    public void bind(PreparedStatement statement, int index, Column column, @Nullable Object value)
            throws SQLException {
        if (value == null) {
            statement.setNull(index, Types.NULL);
        } else if (value instanceof Instant instant) {
            statement.setObject(index, instant.atOffset(ZoneOffset.UTC));
        } else if (value instanceof List<?> list) {
            statement.setObject(index, list.toArray());
        } else {
            statement.setObject(index, value);
        }
    }

    @Override
    public @Nullable Object read(ResultSet rows, int index, Column column) throws SQLException {
        switch (column.type().kind()) {
            case BOOLEAN:
                boolean truth = rows.getBoolean(index);
                return rows.wasNull() ? null : truth;
            case INTEGER:
                long number = rows.getLong(index);
                return rows.wasNull() ? null : number;
            case DECIMAL:
                return rows.getBigDecimal(index);
            case FLOAT:
                BigDecimal real = rows.getBigDecimal(index);
                return real == null ? null : (Object) real.doubleValue();
            case FIXED_TEXT:
                String padded = rows.getString(index);
                return padded == null ? null : padded.stripTrailing();
            case TEXT, ENUM, JSON:
                return rows.getString(index);
            case BYTES:
                return rows.getBytes(index);
            case DATE:
                return rows.getObject(index, LocalDate.class);
            case TIME:
                return rows.getObject(index, LocalTime.class);
            case TIMESTAMP:
                return rows.getObject(index, LocalDateTime.class);
            case INSTANT:
                OffsetDateTime point = rows.getObject(index, OffsetDateTime.class);
                return point == null ? null : point.toInstant();
            case UUID:
                return rows.getObject(index, UUID.class);
            case ARRAY:
                Array array = rows.getArray(index);
                return array == null ? null : List.of((Object[]) array.getArray());
            default:
                return rows.getObject(index);
        }
    }

    @Override
    public Map<Table, Long> counters(Connection connection, List<Table> tables) throws SQLException {
        Map<String, Long> bases = new HashMap<>();
        try (Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("SELECT TABLE_SCHEMA, TABLE_NAME, IDENTITY_BASE"
                        + " FROM INFORMATION_SCHEMA.COLUMNS WHERE IDENTITY_BASE IS NOT NULL")) {
            while (rows.next()) {
                bases.put(rows.getString(1) + "." + rows.getString(2), rows.getLong(3));
            }
        }
        Map<Table, Long> counters = new HashMap<>();
        for (Table table : tables) {
            Long base = bases.get(table.sqlSchema() + "." + table.sqlName());
            if (base != null) {
                counters.put(table, base);
            }
        }
        return counters;
    }

    @Override
    public void setCounter(Connection connection, Table table, Column identity, long next) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("ALTER TABLE " + name(table) + " ALTER COLUMN " + quote(identity.sqlName())
                    + " RESTART WITH " + next);
        }
    }

    @Override
    public void withoutReferences(Connection connection, SqlWork work) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SET REFERENTIAL_INTEGRITY FALSE");
            try {
                work.run();
            } finally {
                statement.execute("SET REFERENTIAL_INTEGRITY TRUE");
            }
        }
    }

    @Override
    public String oneRow() {
        return " LIMIT 1";
    }

    @Override
    public void end(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SHUTDOWN");
        }
    }
}
