package dev.zabbet.internal.value;

import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.lang.reflect.Array;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Brings a value into the one form that its column's {@link Kind} has in memory, if that is possible without losing
 * anything. A date and time without a zone and an instant are taken for one another at UTC.
 */
public final class CanonicalForm {
    private static final Pattern DURATION = Pattern.compile("(-)?(\\d{2,3}):\\d{2}:\\d{2}(\\.\\d{1,6})?");
    private static final int HOURS_OF_A_DAY = 24;

    /** PostgreSQL's numeric has 131,072 digits before the point and 16,383 after it; nothing has more. */
    private static final int MOST_DIGITS = 150_000;

    private CanonicalForm() {}

    /**
     * Returns the value as {@link Kind} says that it is kept in memory; null stays null.
     *
     * @throws InexactValueException if the value is no such value, or would lose something
     */
    public static @Nullable Object of(DataType type, @Nullable Object value) throws InexactValueException {
        if (value == null) {
            return null;
        }
        if (value instanceof Optional<?> optional) {
            return of(type, optional.orElse(null));
        }
        try {
            return switch (type.kind()) {
                case BOOLEAN -> toBoolean(value);
                case INTEGER -> toInteger(type, value);
                case DECIMAL -> toDecimal(type, value);
                case FLOAT -> toFloat(value);
                case JSON -> value instanceof CharSequence text ? document(text.toString()) : Json.write(value);
                case TEXT, ENUM -> toText(value);
                case FIXED_TEXT -> toText(value).stripTrailing();
                case BYTES -> padded(type, toBytes(value));
                case DATE -> toDate(value);
                case TIME -> toTime(value);
                case TIMESTAMP -> toDateTime(value);
                case INSTANT -> toInstant(value);
                case UUID -> toUuid(value);
                case ARRAY -> toList(type, value);
                case OTHER -> value;
            };
        } catch (DateTimeException | NumberFormatException e) {
            throw wrong(value, nameOf(type.kind()));
        }
    }

    /** Returns a copy of a value that could be changed by whoever holds it. */
    public static @Nullable Object copy(@Nullable Object value) {
        return value instanceof byte[] bytes ? bytes.clone() : value;
    }

    /** What is no JSON is left to the database, which says where. */
    private static String document(String text) throws InexactValueException {
        String name = Json.nameTwice(text).orElse(null);
        if (name != null) {
            throw new InexactValueException("the document names " + Text.of(name) + " twice in one object");
        }
        return text;
    }

    private static Boolean toBoolean(Object value) throws InexactValueException {
        if (value instanceof Boolean b) {
            return b;
        }
        String text = value.toString();
        if (text.equalsIgnoreCase("true") || text.equals("1")) {
            return true;
        }
        if (text.equalsIgnoreCase("false") || text.equals("0")) {
            return false;
        }
        throw wrong(value, "true or false");
    }

    private static Object toInteger(DataType type, Object value) throws InexactValueException {
        boolean any = !type.unsigned() && (type.precision() == DataType.UNLIMITED || type.precision() >= 64);
        if (any && value instanceof Long) {
            return value;
        }
        if (any && value instanceof Integer number) {
            return number.longValue();
        }
        if (value instanceof Long || value instanceof Integer || value instanceof Short || value instanceof Byte) {
            long number = ((Number) value).longValue();
            boolean small = number >= 0 && number <= Byte.MAX_VALUE; // in every range
            return small ? (Object) number : fitting(type, BigInteger.valueOf(number), value);
        }
        if (value instanceof Boolean truth) {
            return truth ? 1L : 0L; // databases without a boolean type keep it as a small number
        }
        try {
            return fitting(type, decimal(value).toBigIntegerExact(), value);
        } catch (ArithmeticException e) {
            throw wrong(value, "a whole number");
        }
    }

    private static Object fitting(DataType type, BigInteger number, Object value) throws InexactValueException {
        int bits = type.precision() == DataType.UNLIMITED ? 64 : type.precision();
        boolean fits = type.unsigned() ? number.signum() >= 0 && number.bitLength() <= bits : number.bitLength() < bits;
        if (!fits) {
            throw new InexactValueException(Text.of(value) + " is outside the range of " + type.sqlName());
        }
        return number.bitLength() < 64 ? (Object) number.longValue() : number;
    }

    private static BigDecimal toDecimal(DataType type, Object value) throws InexactValueException {
        BigDecimal number = decimal(value);
        if (type.precision() == DataType.UNLIMITED) {
            return number;
        }
        BigDecimal scaled;
        try {
            scaled = number.setScale(type.scale(), RoundingMode.UNNECESSARY);
        } catch (ArithmeticException e) {
            throw new InexactValueException(Text.of(value) + " has more than " + type.scale()
                    + " digits after the point, " + type.sqlName() + " keeps " + type.scale());
        }
        if (scaled.precision() > type.precision()) {
            throw new InexactValueException(Text.of(value) + " is outside the range of " + type.sqlName());
        }
        return scaled;
    }

    private static Double toFloat(Object value) throws InexactValueException {
        if (value instanceof Float f) {
            return Double.valueOf(f.toString());
        }
        return value instanceof Double d ? d : Double.valueOf(decimal(value).doubleValue());
    }

    private static BigDecimal decimal(Object value) throws InexactValueException {
        if (value instanceof BigDecimal d) {
            return d;
        }
        if (value instanceof Number || value instanceof CharSequence) {
            String text = value.toString().strip();
            if (text.length() > MOST_DIGITS) {
                throw new InexactValueException(
                        "a number of " + text.length() + " characters is more than any database keeps");
            }
            return new BigDecimal(text);
        }
        throw wrong(value, "a number");
    }

    private static String toText(Object value) throws InexactValueException {
        if (value instanceof Enum<?> e) {
            return e.name();
        }
        if (value instanceof CharSequence
                || value instanceof Character
                || value instanceof UUID
                || value instanceof java.net.URI) {
            return value.toString();
        }
        throw wrong(value, "text");
    }

    private static byte[] toBytes(Object value) throws InexactValueException {
        if (value instanceof byte[] bytes) {
            return bytes.clone();
        }
        if (value instanceof UUID uuid) {
            return ByteBuffer.allocate(16)
                    .putLong(uuid.getMostSignificantBits())
                    .putLong(uuid.getLeastSignificantBits())
                    .array();
        }
        if (value instanceof CharSequence text && text.toString().startsWith("0x")) {
            return HexFormat.of().parseHex(text.toString().substring(2));
        }
        if (value instanceof CharSequence text) {
            return text.toString().getBytes(StandardCharsets.UTF_8);
        }
        throw wrong(value, "bytes");
    }

    private static byte[] padded(DataType type, byte[] bytes) {
        return type.isPadded() && bytes.length < type.length() ? Arrays.copyOf(bytes, type.length()) : bytes;
    }

    private static LocalDate toDate(Object value) throws InexactValueException {
        if (value instanceof LocalDate d) {
            return d;
        }
        if (value instanceof CharSequence text) {
            return LocalDate.parse(text);
        }
        if (value instanceof java.sql.Date d) {
            return d.toLocalDate();
        }
        LocalDateTime dateTime = toDateTime(value);
        if (!dateTime.toLocalTime().equals(LocalTime.MIDNIGHT)) {
            throw new InexactValueException(Text.of(value) + " has a time of day, the column keeps only a date");
        }
        return dateTime.toLocalDate();
    }

    /** A time of day, or the text of a duration, which MariaDB's TIME takes too: from -838 to 838 hours. */
    private static Object toTime(Object value) throws InexactValueException {
        if (value instanceof LocalTime t) {
            return t;
        }
        if (value instanceof java.sql.Time t) {
            return t.toLocalTime();
        }
        if (value instanceof CharSequence text) {
            Matcher duration = DURATION.matcher(text);
            boolean tooLong = duration.matches()
                    && (duration.group(1) != null || Integer.parseInt(duration.group(2)) > HOURS_OF_A_DAY);
            return tooLong ? text.toString() : LocalTime.parse(text);
        }
        throw wrong(value, "a time of day");
    }

    private static LocalDateTime toDateTime(Object value) throws InexactValueException {
        if (value instanceof LocalDateTime d) {
            return d;
        }
        if (value instanceof LocalDate d) {
            return d.atStartOfDay();
        }
        if (value instanceof java.sql.Timestamp t) {
            return t.toLocalDateTime(); // what it shows, wherever the process runs
        }
        if (value instanceof CharSequence text) {
            String iso = text.toString().replace(' ', 'T');
            if (iso.indexOf('T') < 0) {
                return LocalDate.parse(iso).atStartOfDay();
            }
            return iso.endsWith("Z") || iso.matches(".*[+-]\\d\\d:?\\d\\d")
                    ? utc(OffsetDateTime.parse(iso).toInstant())
                    : LocalDateTime.parse(iso);
        }
        return utc(toInstant(value));
    }

    private static LocalDateTime utc(Instant instant) {
        return LocalDateTime.ofInstant(instant, ZoneOffset.UTC);
    }

    private static Instant toInstant(Object value) throws InexactValueException {
        if (value instanceof Instant i) {
            return i;
        }
        if (value instanceof OffsetDateTime o) {
            return o.toInstant();
        }
        if (value instanceof ZonedDateTime z) {
            return z.toInstant();
        }
        if (value instanceof java.sql.Timestamp t) {
            return t.toInstant();
        }
        if (value instanceof java.util.Date d) {
            return Instant.ofEpochMilli(d.getTime());
        }
        if (value instanceof LocalDateTime || value instanceof LocalDate || value instanceof CharSequence) {
            return toDateTime(value).toInstant(ZoneOffset.UTC);
        }
        throw wrong(value, "a date and time");
    }

    private static UUID toUuid(Object value) throws InexactValueException {
        if (value instanceof UUID uuid) {
            return uuid;
        }
        if (value instanceof byte[] bytes && bytes.length == 16) {
            ByteBuffer buffer = ByteBuffer.wrap(bytes);
            return new UUID(buffer.getLong(), buffer.getLong());
        }
        if (value instanceof CharSequence text && text.length() == 36) {
            try {
                return UUID.fromString(text.toString());
            } catch (IllegalArgumentException e) {
                throw wrong(value, "a UUID");
            }
        }
        throw wrong(value, "a UUID");
    }

    private static Object toList(DataType type, Object value) throws InexactValueException {
        List<@Nullable Object> elements = new ArrayList<>();
        if (value instanceof List<?> list) {
            elements.addAll(list);
        } else if (isArray(value)) {
            for (int i = 0; i < Array.getLength(value); i++) {
                elements.add(Array.get(value, i));
            }
        } else {
            throw wrong(value, "an array");
        }
        List<@Nullable Object> converted = new ArrayList<>();
        for (Object element : elements) {
            boolean deeper = element instanceof List || isArray(element); // an array of arrays
            if (deeper) {
                converted.add(toList(type, element));
            } else {
                converted.add(type.element().isPresent() ? of(type.element().get(), element) : element);
            }
        }
        return java.util.Collections.unmodifiableList(converted);
    }

    private static boolean isArray(@Nullable Object value) {
        return value != null && value.getClass().isArray() && !(value instanceof byte[]);
    }

    private static InexactValueException wrong(Object value, String wanted) {
        return new InexactValueException(Text.of(value) + " is not " + wanted);
    }

    private static String nameOf(Kind kind) {
        return switch (kind) {
            case BOOLEAN -> "true or false";
            case INTEGER -> "a whole number";
            case DECIMAL, FLOAT -> "a number";
            case DATE -> "a date such as 2031-07-01";
            case TIME -> "a time of day such as 08:30:00";
            case TIMESTAMP, INSTANT -> "a date and time such as 2031-07-01T08:30:00";
            case UUID -> "a UUID";
            case BYTES -> "bytes";
            case ARRAY -> "an array";
            case TEXT, FIXED_TEXT, JSON, ENUM, OTHER -> "text";
        };
    }
}
