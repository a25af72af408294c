package dev.zabbet.jdbc.internal.sqlite;

import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.JsonPaths;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Types;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** How SQLite writes SQL, and takes and gives values. */
abstract class SqliteSql implements Dialect {
    private static final DateTimeFormatter TIME = new DateTimeFormatterBuilder()
            .appendPattern("HH:mm:ss")
            .appendFraction(java.time.temporal.ChronoField.NANO_OF_SECOND, 0, 9, true)
            .toFormatter(java.util.Locale.ROOT);

    @Override
    public String overriding(Table table) {
        return "";
    }

    /** LIKE ignores the case of ASCII letters here; GLOB does not. */
    @Override
    public String like(String column, boolean ignoreCase) {
        return ignoreCase ? Dialect.super.like(column, true) : column + " GLOB ?";
    }

    @Override
    public String likePattern(String pattern, boolean ignoreCase) {
        return ignoreCase ? pattern : SqliteGlob.of(pattern);
    }

    /** Decimals are kept as binary floating point. */
    @Override
    public boolean isExact() {
        return false;
    }

    @Override
    public String typed(Column column) {
        boolean number = List.of(Kind.DECIMAL, Kind.FLOAT, Kind.INTEGER)
                .contains(column.type().kind());
        return number ? Dialect.super.typed(column) : placeholder(column); // other values keep their own types
    }

    @Override
    public String same(Column column) {
        return quote(column.sqlName()) + " IS " + placeholder(column);
    }

    @Override
    public String deleteOne(Table table, String where) {
        String rowId = rowId(table);
        return "DELETE FROM " + name(table) + " WHERE " + rowId + " = (SELECT " + rowId + " FROM " + name(table) + where
                + " LIMIT 1)";
    }

    /** Returns a name of the number that SQLite gives each row; a column may have one of the three to itself. */
    static String rowId(Table table) {
        return Stream.of("rowid", "_rowid_", "oid")
                .filter(name ->
                        table.columns().stream().noneMatch(c -> c.sqlName().equalsIgnoreCase(name)))
                .findFirst()
                .orElse("rowid");
    }

    @Override
    public void bind(PreparedStatement statement, int index, Column column, @Nullable Object value)
            throws SQLException {
        if (value == null) {
            statement.setNull(index, Types.NULL);
        } else if (value instanceof Instant instant) {
            statement.setString(index, text(LocalDateTime.ofInstant(instant, ZoneOffset.UTC)));
        } else if (value instanceof LocalDateTime dateTime) {
            statement.setString(index, text(dateTime));
        } else if (value instanceof LocalTime time) {
            statement.setString(index, TIME.format(time));
        } else if (value instanceof BigDecimal number) {
            bindNumber(statement, index, number);
        } else if (value instanceof Boolean truth) {
            statement.setInt(index, truth ? 1 : 0);
        } else if (value instanceof byte[] bytes) {
            statement.setBytes(index, bytes);
        } else if (value instanceof Long || value instanceof Double || value instanceof Integer) {
            statement.setObject(index, value);
        } else {
            statement.setString(index, value.toString());
        }
    }

    /** A number with a column of numeric affinity becomes an integer or a real, as an application's own would. */
    private static void bindNumber(PreparedStatement statement, int index, BigDecimal number) throws SQLException {
        statement.setString(index, number.toPlainString());
    }

    private static String text(LocalDateTime dateTime) {
        return dateTime.toLocalDate() + " " + TIME.format(dateTime.toLocalTime());
    }

    @Override
    public boolean readsAsLong(Column column) {
        return false; // a column takes any value
    }

    @Override
    public @Nullable Object read(ResultSet rows, int index, Column column) throws SQLException {
        Object raw = rows.getObject(index);
        if (raw == null || column.type().kind() == Kind.OTHER) {
            return raw;
        }
        Kind kind = column.type().kind();
        boolean temporal = kind == Kind.TIMESTAMP || kind == Kind.DATE || kind == Kind.TIME || kind == Kind.INSTANT;
        if (temporal && raw instanceof Number millis) {
            LocalDateTime at = LocalDateTime.ofInstant(Instant.ofEpochMilli(millis.longValue()), ZoneOffset.UTC);
            if (kind == Kind.DATE) {
                return at.toLocalDate();
            }
            if (kind == Kind.TIME) {
                return at.toLocalTime();
            }
            return at;
        }
        if (kind == Kind.DECIMAL && raw instanceof Number) {
            return new BigDecimal(raw.toString());
        }
        if (kind == Kind.UUID && raw instanceof String text && text.length() == 36) {
            return UUID.fromString(text);
        }
        if (kind == Kind.UUID && raw instanceof byte[]) {
            return raw; // found again, and put back, as it is
        }
        if (kind == Kind.TEXT || kind == Kind.JSON) {
            return raw instanceof byte[] ? raw : raw.toString();
        }
        try {
            return CanonicalForm.of(column.type(), raw);
        } catch (InexactValueException e) {
            return raw; // SQLite keeps what does not fit, and so do we
        }
    }

    @Override
    public String encoded(String text) {
        return "CAST(X'" + HexFormat.of().formatHex(text.getBytes(StandardCharsets.UTF_8)) + "' AS TEXT)";
    }

    @Override
    public Optional<String> inside(Column column, List<Object> steps, Object wanted) {
        String name = quote(column.sqlName());
        String sought =
                wanted instanceof String ? literal(wanted) : wanted.toString(); // true is 1, and TRUE a word for it
        return JsonPaths.toValue(steps, wanted)
                .map(path -> "CASE WHEN json_valid(" + name + ") THEN json_extract(" + name + ", " + literal(path)
                        + ") = " + sought + " END");
    }
}
