package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.schema.Column;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.sql.Types;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/** How values travel between their form in memory and a driver. A role of a {@link Dialect}. */
public interface ColumnValues extends SqlSyntax {
    /** Tells whether decimals are kept and reckoned with exactly. */
    default boolean isExact() {
        return true;
    }

    /** Sets a parameter to a value in its form in memory. */
    default void bind(PreparedStatement statement, int index, Column column, @Nullable Object value)
            throws SQLException {
        if (value == null) {
            statement.setNull(index, Types.NULL);
        } else if (value instanceof Instant instant) {
            statement.setObject(index, instant.atOffset(ZoneOffset.UTC));
        } else {
            statement.setObject(index, value);
        }
    }

    /** Tells whether the driver holds the result of a query whole, whatever is asked of it. */
    default boolean holdsResults() {
        return false;
    }

    /** Tells whether the values of a column are whole numbers that {@link ResultSet#getLong} gives. */
    default boolean readsAsLong(Column column) {
        return column.type().kind() == Kind.INTEGER;
    }

    /** Reads a value into its form in memory. */
    default @Nullable Object read(ResultSet rows, int index, Column column) throws SQLException {
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
                double real = rows.getDouble(index);
                if (rows.wasNull()) {
                    return null;
                }
                // the shortest number that is meant: 0.1 in a column of single precision is no 0.10000000149
                return Double.isFinite(real) ? rows.getBigDecimal(index).doubleValue() : real;
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
            default:
                return rows.getObject(index);
        }
    }

    /** Returns the elements of an array in their form in memory; what does not fit its type stays as the driver gives it. */
    static @Nullable List<@Nullable Object> list(java.sql.@Nullable Array array, Column column) throws SQLException {
        return array == null
                ? null
                : list((Object[]) array.getArray(), column.type().element());
    }

    /** Returns the elements of an array in their form in memory. */
    static List<@Nullable Object> list(Object[] elements, Optional<DataType> type) {
        List<@Nullable Object> list = new ArrayList<>();
        for (Object element : elements) {
            list.add(element instanceof Object[] inner ? list(inner, type) : element(element, type));
        }
        return Collections.unmodifiableList(list);
    }

    private static @Nullable Object element(@Nullable Object element, Optional<DataType> type) {
        if (element == null || type.isEmpty() || type.get().kind() == Kind.OTHER) {
            return element;
        }
        boolean instant = type.get().kind() == Kind.INSTANT;
        Object modern;
        if (element instanceof Timestamp point) {
            if (instant) {
                modern = point.toInstant();
            } else {
                modern = point.toLocalDateTime();
            }
        } else if (element instanceof java.sql.Date day) {
            modern = day.toLocalDate();
        } else if (element instanceof java.sql.Time time) {
            modern = time.toLocalTime();
        } else {
            modern = element;
        }
        try {
            return CanonicalForm.of(type.get(), modern);
        } catch (InexactValueException e) {
            return modern;
        }
    }
}
