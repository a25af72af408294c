package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Json;
import dev.zabbet.jdbc.internal.dialect.ColumnValues;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature.Form;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Types;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** How PostgreSQL writes SQL, and takes and gives values. */
abstract class PostgresSql implements Dialect {
    @Override
    public Optional<String> blankSql(Column column) {
        return column.type().sqlName().equals("oid") ? Optional.of("SELECT lo_create(0)") : Optional.empty();
    }

    @Override
    public String nameToRead(Table table) {
        return table.nature().form() == Form.PARTITIONED ? name(table) : "ONLY " + name(table);
    }

    /** As text where the driver, which turns to binary when asked often, would write it in another way then. */
    @Override
    public String selected(Column column, String name) {
        return column.type().kind() == Kind.OTHER ? name + "::text" : name;
    }

    /** A real is compared with a real: as a double it would differ from the nearest double of the same text. */
    @Override
    public String placeholder(Column column) {
        return column.type().sqlName().equals("real") ? "?::real" : "?";
    }

    @Override
    public void bind(PreparedStatement statement, int index, Column column, @Nullable Object value)
            throws SQLException {
        if (value == null) {
            statement.setNull(index, Types.NULL);
            return;
        }
        switch (column.type().kind()) {
            case JSON, ENUM, OTHER -> statement.setObject(index, value.toString(), Types.OTHER);
            case TEXT, FIXED_TEXT -> statement.setString(index, value.toString());
            case FLOAT -> statement.setDouble(index, ((Number) value).doubleValue());
            case ARRAY -> bindArray(statement, index, column, (List<?>) value);
            default -> {
                if (value instanceof String text && column.type().kind() == Kind.DECIMAL) {
                    statement.setObject(index, text, Types.OTHER); // NaN and the infinities
                } else if (value instanceof Instant instant && isInfinite(instant)) {
                    statement.setObject(
                            index, instant.isAfter(Instant.EPOCH) ? OffsetDateTime.MAX : OffsetDateTime.MIN);
                } else {
                    Dialect.super.bind(statement, index, column, value);
                }
            }
        }
    }

    private static void bindArray(PreparedStatement statement, int index, Column column, List<?> value)
            throws SQLException {
        if (value.stream().anyMatch(element -> element instanceof List || element instanceof byte[])) {
            // The driver wants arrays of arrays typed to the last dimension.
            statement.setObject(index, arrayText(value), Types.OTHER);
            return;
        }
        String element = column.type()
                .element()
                .map(DataType::sqlName)
                .map(n -> n.replaceAll("\\(.*\\)", ""))
                .orElse("text");
        statement.setArray(index, statement.getConnection().createArrayOf(element, value.toArray()));
    }

    /** Writes an array of arrays as the server reads it (its documentation, "Array Value Input"). */
    private static String arrayText(List<?> value) {
        return value.stream()
                .map(element -> {
                    if (element instanceof List<?> inner) {
                        return arrayText(inner);
                    }
                    if (element == null) {
                        return "NULL";
                    }
                    return '"' + shown(element).replace("\\", "\\\\").replace("\"", "\\\"") + '"';
                })
                .collect(Collectors.joining(",", "{", "}"));
    }

    private static String shown(Object element) {
        return element instanceof byte[] bytes ? "\\x" + HexFormat.of().formatHex(bytes) : element.toString();
    }

    /** The driver gives and takes the two infinities as the last and the first moment of all, which have no UTC time. */
    private static boolean isInfinite(Instant instant) {
        return instant.equals(OffsetDateTime.MAX.toInstant()) || instant.equals(OffsetDateTime.MIN.toInstant());
    }

    @Override
    public String literal(Object bound) {
        return bound instanceof byte[] bytes
                ? "'\\x" + HexFormat.of().formatHex(bytes) + "'"
                : Dialect.super.literal(bound);
    }

    @Override
    public List<String> scriptSettings() {
        return List.of("SET standard_conforming_strings = on");
    }

    @Override
    public @Nullable Object read(ResultSet rows, int index, Column column) throws SQLException {
        switch (column.type().kind()) {
            case OTHER:
                return rows.getString(index);
            case DECIMAL:
                String number = rows.getString(index);
                // NaN and infinities are numerics here, and stay text.
                if (number == null) {
                    return null;
                }
                if (Character.isLetter(number.charAt(number.length() - 1))) {
                    return (Object) number;
                }
                return new BigDecimal(number);
            case FLOAT:
                // The shortest text of a real, however it comes: as a double it would show digits that it does not
                // have.
                String real = rows.getString(index);
                return real == null ? null : (Object) Double.valueOf(real);
            case ARRAY:
                return ColumnValues.list(rows.getArray(index), column);
            default:
                return Dialect.super.read(rows, index, column);
        }
    }

    @Override
    public String deleteOne(Table table, String where) {
        return "DELETE FROM " + name(table) + " WHERE ctid = (SELECT ctid FROM " + nameToRead(table) + where
                + " LIMIT 1)";
    }

    @Override
    public String same(Column column) {
        String shown = column.type().sqlName();
        if (column.type().kind() == Kind.ARRAY) { // whatever number its elements begin with
            return "to_jsonb(" + quote(column.sqlName()) + ")::text IS NOT DISTINCT FROM to_jsonb(?::" + shown
                    + ")::text";
        }
        return quote(column.sqlName()) + "::text IS NOT DISTINCT FROM ?::" + shown + "::text";
    }

    /** The type json keeps text as it came, and compares nothing: of it only texts are looked for. */
    @Override
    public Optional<String> inside(Column column, List<Object> steps, Object wanted) {
        String path = steps.stream().map(step -> literal(step.toString())).collect(Collectors.joining(", "));
        String name = quote(column.sqlName());
        try {
            String written = Json.write(wanted);
            if (written.contains("\\u0000") || path.indexOf(0) >= 0) {
                return Optional.empty();
            }
            if (column.type().sqlName().equalsIgnoreCase("jsonb")) {
                return Optional.of(name + " #> ARRAY[" + path + "]::text[] = " + literal(written) + "::jsonb");
            }
            return wanted instanceof String
                    ? Optional.of(name + " #>> ARRAY[" + path + "]::text[] = " + literal(wanted))
                    : Optional.empty();
        } catch (InexactValueException e) {
            return Optional.empty();
        }
    }
}
