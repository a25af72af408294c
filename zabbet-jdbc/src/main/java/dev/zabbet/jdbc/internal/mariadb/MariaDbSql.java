package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.JsonPaths;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLDataException;
import java.sql.SQLException;
import java.sql.Types;
import java.time.DateTimeException;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/** How MariaDB writes SQL, and takes and gives values. */
public abstract class MariaDbSql implements Dialect {
    @Override
    public String quote(String name) {
        return '`' + name.replace("`", "``") + '`';
    }

    @Override
    public String overriding(Table table) {
        return "";
    }

    @Override
    public String allDefaults() {
        return " () VALUES ()";
    }

    /** Case counts only in binary comparison. */
    @Override
    public String like(String column, boolean ignoreCase) {
        return ignoreCase ? "LOWER(" + column + ") LIKE LOWER(?)" : column + " LIKE BINARY ?";
    }

    @Override
    public String typed(Column column) {
        return placeholder(column); // values have types of their own here
    }

    @Override
    public String same(Column column) {
        return quote(column.sqlName()) + " <=> " + placeholder(column);
    }

    /** A float is compared with a float: as a double it would differ from the nearest double of the same text. */
    @Override
    public String placeholder(Column column) {
        return column.type().sqlName().startsWith("float") ? "CAST(? AS FLOAT)" : "?";
    }

    @Override
    public void bind(PreparedStatement statement, int index, Column column, @Nullable Object value)
            throws SQLException {
        if (value == null) {
            statement.setNull(index, Types.NULL);
        } else if (value instanceof UUID || value instanceof BigInteger) {
            statement.setString(index, value.toString());
        } else if (value instanceof byte[] bits && column.type().sqlName().startsWith("bit")) {
            statement.setBigDecimal(index, new BigDecimal(new BigInteger(1, bits))); // bytes would be compared as text
        } else if (column.type().kind() == Kind.OTHER && value instanceof String text) {
            bindOther(statement, index, column, text);
        } else {
            Dialect.super.bind(statement, index, column, value);
        }
    }

    @Override
    public String literal(Object bound) {
        if (bound instanceof OffsetDateTime point) {
            return Dialect.super.literal(LocalDateTime.ofInstant(point.toInstant(), ZoneOffset.UTC));
        }
        if (bound instanceof String text && text.indexOf('\\') >= 0) {
            return encoded(text); // a client may take the backslash for an escape, whatever the server has been told
        }
        return Dialect.super.literal(bound);
    }

    @Override
    public String encoded(String text) {
        return "CONVERT(X'" + HexFormat.of().formatHex(text.getBytes(StandardCharsets.UTF_8)) + "' USING utf8mb4)";
    }

    @Override
    public List<String> scriptSettings() {
        return List.of(
                "SET NAMES utf8mb4",
                "SET time_zone = '+00:00'",
                "SET sql_mode = CONCAT(@@sql_mode, ',NO_BACKSLASH_ESCAPES,NO_AUTO_VALUE_ON_ZERO')");
    }

    private static void bindOther(PreparedStatement statement, int index, Column column, String text)
            throws SQLException {
        String type = column.type().sqlName();
        if (type.startsWith("bit") && text.chars().allMatch(c -> c == '0' || c == '1')) {
            byte[] bits = new BigInteger(text.isEmpty() ? "0" : text, 2).toByteArray();
            statement.setBytes(
                    index, bits[0] == 0 && bits.length > 1 ? Arrays.copyOfRange(bits, 1, bits.length) : bits);
        } else if (MariaDbGeometry.isShape(type)) {
            statement.setBytes(index, MariaDbGeometry.of(type, text));
        } else {
            statement.setString(index, text);
        }
    }

    @Override
    public boolean readsAsLong(Column column) {
        return Dialect.super.readsAsLong(column) && fitsLong(column.type().sqlName());
    }

    @Override
    public @Nullable Object read(ResultSet rows, int index, Column column) throws SQLException {
        switch (column.type().kind()) {
            case INTEGER:
                if (fitsLong(column.type().sqlName())) {
                    return Dialect.super.read(rows, index, column);
                }
                String number = rows.getString(index);
                if (number == null) {
                    return null;
                }
                if (column.type().sqlName().startsWith("year")) {
                    return Long.valueOf(number.substring(0, 4));
                }
                BigInteger whole = new BigInteger(number);
                return whole.bitLength() < 64 ? (Object) whole.longValue() : whole;
            case FLOAT:
                // The shortest text of a float, however it comes: as a double it would show digits that it does not
                // have.
                String real = rows.getString(index);
                return real == null ? null : (Object) Double.valueOf(real);
            case UUID:
                String uuid = rows.getString(index);
                return uuid == null ? null : UUID.fromString(uuid);
            case TIME:
                String time = rows.getString(index);
                try {
                    return time == null ? null : LocalTime.parse(time);
                } catch (DateTimeException e) {
                    return time; // a duration: MariaDB's TIME goes from -838 to 838 hours
                }
            case DATE, TIMESTAMP:
                return point(rows, index, column);
            case OTHER:
                return column.type().sqlName().startsWith("bit") || isBinary(column)
                        ? rows.getBytes(index)
                        : rows.getString(index);
            default:
                return Dialect.super.read(rows, index, column);
        }
    }

    /** Outside strict modes there are days that no calendar has, 0000-00-00 and 2026-02-00: they stay text. */
    private @Nullable Object point(ResultSet rows, int index, Column column) throws SQLException {
        try {
            Object point = Dialect.super.read(rows, index, column);
            return point == null ? rows.getString(index) : point;
        } catch (SQLDataException e) {
            return rows.getString(index);
        }
    }

    private static boolean fitsLong(String type) {
        return !type.startsWith("year") && !(type.startsWith("bigint") && type.endsWith("unsigned"));
    }

    private static boolean isBinary(Column column) {
        return List.of("geometry", "point", "linestring", "polygon", "multipoint", "multilinestring", "multipolygon")
                .contains(column.type().sqlName());
    }

    static boolean isText(Column column) {
        Kind kind = column.type().kind();
        return kind == Kind.TEXT || kind == Kind.FIXED_TEXT || kind == Kind.ENUM || kind == Kind.JSON;
    }

    @Override
    public Optional<String> inside(Column column, List<Object> steps, Object wanted) {
        return JsonPaths.toValue(steps, wanted).map(path -> {
            String held = "JSON_VALUE(" + quote(column.sqlName()) + ", " + literal(path) + ")";
            if (wanted instanceof Boolean truth) {
                return held + (truth ? " IN ('true', '1')" : " IN ('false', '0')");
            }
            return wanted instanceof BigDecimal number
                    ? held + " + 0e0 = " + number.toPlainString() + "e0"
                    : held + " = " + literal(wanted);
        });
    }
}
