package dev.zabbet.internal.mapping;

import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.schema.Column;
import dev.zabbet.type.DataType;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.temporal.ChronoField;
import java.time.temporal.ChronoUnit;
import java.time.temporal.Temporal;
import org.jspecify.annotations.Nullable;

/**
 * Brings a value into a column as a database does: decimals are rounded to the scale and times to the precision, half up,
 * and what is too great, too long or of another type is refused.
 */
public final class ColumnFit {
    private static final int USUAL_TIME_DIGITS = 6; // of PostgreSQL and H2 where the type says nothing

    private ColumnFit() {}

    /** A value does not fit: the SQLState (ISO 9075, class 22), and what is wrong in a clause. */
    public static final class MisfitException extends Exception {
        private static final long serialVersionUID = 1L;
        /** The SQLState that a database gives. */
        public final String sqlState;

        MisfitException(String sqlState, String clause) {
            super(clause);
            this.sqlState = sqlState;
        }

        /** Returns what is wrong, as a clause. */
        public String clause() {
            return String.valueOf(getMessage());
        }
    }

    /**
     * Returns the value as the column keeps it; null stays null.
     *
     * @throws MisfitException if it does not fit
     */
    public static @Nullable Object of(Column column, @Nullable Object value) throws MisfitException {
        if (value == null) {
            return null;
        }
        DataType type = column.type();
        Object fitted;
        try {
            fitted = CanonicalForm.of(type, rounded(type, value));
        } catch (InexactValueException e) {
            boolean outside = e.clause().contains("outside the range");
            throw new MisfitException(
                    outside ? "22003" : "22018", column.name() + " is " + type.sqlName() + ", and " + e.clause());
        }
        if (type.length() != DataType.UNLIMITED) {
            requireLength(column, type, fitted);
        }
        if (!type.labels().isEmpty() && !type.labels().contains(String.valueOf(fitted))) {
            throw new MisfitException(
                    "22030",
                    column.name() + " is '" + fitted + "', and " + type.sqlName() + " allows "
                            + String.join(", ", type.labels()));
        }
        return fitted;
    }

    private static void requireLength(Column column, DataType type, @Nullable Object value) throws MisfitException {
        int length;
        if (value instanceof String text) {
            length = text.codePointCount(0, text.length());
        } else if (value instanceof byte[] bytes) {
            length = bytes.length;
        } else {
            length = 0;
        }
        if (length > type.length()) {
            throw new MisfitException(
                    "22001",
                    column.name() + " has " + length + (value instanceof String ? " characters, " : " bytes, ")
                            + type.sqlName() + " keeps " + type.length());
        }
    }

    /** Returns the value with as many digits as the type keeps. */
    public static @Nullable Object rounded(DataType type, @Nullable Object value) {
        return switch (type.kind()) {
            case DECIMAL ->
                type.precision() != DataType.UNLIMITED
                                && value instanceof BigDecimal number
                                && number.scale() > type.scale()
                        ? number.setScale(type.scale(), RoundingMode.HALF_UP)
                        : value;
            case INTEGER ->
                value instanceof BigDecimal number && number.scale() > 0
                        ? number.setScale(0, RoundingMode.HALF_UP)
                        : value;
            case TIMESTAMP, INSTANT, TIME -> toDigits(value, type.precision());
            default -> value;
        };
    }

    private static @Nullable Object toDigits(@Nullable Object value, int precision) {
        int digits = precision == DataType.UNLIMITED ? USUAL_TIME_DIGITS : precision;
        boolean timed = value instanceof LocalDateTime || value instanceof Instant || value instanceof LocalTime;
        if (!timed || digits >= 9 || !(value instanceof Temporal time)) {
            return value;
        }
        long unit = (long) Math.pow(10, 9 - digits);
        long nanos = time.getLong(ChronoField.NANO_OF_SECOND);
        long over = nanos % unit;
        return over == 0 ? value : time.plus(over * 2 >= unit ? unit - over : -over, ChronoUnit.NANOS);
    }
}
