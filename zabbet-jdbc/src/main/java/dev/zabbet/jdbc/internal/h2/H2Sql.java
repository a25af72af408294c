package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.jdbc.internal.dialect.ColumnValues;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.schema.Column;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** How H2 writes SQL, and takes and gives values. */
abstract class H2Sql implements Dialect {
    @Override
    public String placeholder(Column column) {
        if (column.type().kind() == Kind.JSON) {
            return "? FORMAT JSON";
        }
        if (column.type().sqlName().equals("REAL")) {
            return "CAST(? AS REAL)";
        }
        return "?"; // compared as a double it would differ
    }

    @Override
    public void bind(PreparedStatement statement, int index, Column column, @Nullable Object value)
            throws SQLException {
        if (value instanceof List<?> list) {
            statement.setObject(index, list.toArray());
        } else if (value instanceof String text && column.type().sqlName().startsWith("INTERVAL ")) {
            statement.setString(index, interval(column.type().sqlName(), text));
        } else {
            Dialect.super.bind(statement, index, column, value);
        }
    }

    @Override
    public String literal(Object bound) {
        if (bound instanceof Object[] elements) {
            return Arrays.stream(elements)
                    .map(element -> element == null ? "NULL" : literal(element))
                    .collect(Collectors.joining(", ", "ARRAY[", "]"));
        }
        if (bound instanceof OffsetDateTime point) {
            return "TIMESTAMP WITH TIME ZONE '" + point + "'";
        }
        return Dialect.super.literal(bound);
    }

    /** H2 takes an interval only with the fields that the type has. */
    private static String interval(String type, String text) {
        if (text.startsWith("INTERVAL")) {
            return text;
        }
        String fields = type.substring("INTERVAL ".length()).replaceAll("\\(.*?\\)", "");
        String number = text.replaceAll("\\D.*$", "");
        String literal =
                switch (fields) {
                    case "YEAR TO MONTH" -> number + "-1";
                    case "DAY TO HOUR" -> number + " 1";
                    case "DAY TO MINUTE" -> number + " 1:02";
                    case "DAY TO SECOND" -> number + " 1:02:03";
                    case "HOUR TO MINUTE" -> number + ":02";
                    case "HOUR TO SECOND" -> number + ":02:03";
                    case "MINUTE TO SECOND" -> number + ":03";
                    default -> number;
                };
        return "INTERVAL '" + literal + "' " + fields;
    }

    @Override
    public boolean holdsResults() {
        return true;
    }

    @Override
    public @Nullable Object read(ResultSet rows, int index, Column column) throws SQLException {
        if (column.type().sqlName().startsWith("INTERVAL ")) {
            return rows.getString(index);
        }
        if (column.type().kind() != Kind.ARRAY) {
            return Dialect.super.read(rows, index, column);
        }
        Class<? extends Object[]> form = arrayOf(column);
        if (form == Object[].class) {
            return ColumnValues.list(rows.getArray(index), column);
        }
        Object[] elements = rows.getObject(index, form);
        return elements == null
                ? null
                : ColumnValues.list(elements, column.type().element());
    }

    /** The driver's own dates and times are those of the JVM's time zone, which need not be the connection's. */
    private static Class<? extends Object[]> arrayOf(Column column) {
        return switch (column.type().element().map(DataType::kind).orElse(Kind.OTHER)) {
            case DATE -> LocalDate[].class;
            case TIME -> LocalTime[].class;
            case TIMESTAMP -> LocalDateTime[].class;
            case INSTANT -> OffsetDateTime[].class;
            default -> Object[].class;
        };
    }

    /** Some of its compatibility modes know no LIMIT. */
    @Override
    public String limit(long rows) {
        return " FETCH FIRST " + rows + " ROWS ONLY";
    }
}
