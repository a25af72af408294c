package dev.zabbet.internal.value;

import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.HashMap;
import java.util.Map;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/** Brings values into the Java type of a property, where nothing is lost by it. */
public final class JavaValue {
    private static final ClassValue<Map<String, Object>> CONSTANTS = new ClassValue<>() {
        @Override
        protected Map<String, Object> computeValue(Class<?> type) {
            Map<String, Object> constants = new HashMap<>();
            for (Object constant : type.getEnumConstants()) {
                constants.put(((Enum<?>) constant).name(), constant);
            }
            return constants;
        }
    };

    private JavaValue() {}

    /**
     * Returns the value as the given Java type; null stays null.
     *
     * @throws InexactValueException if the value is no such value, or would lose something
     */
    public static @Nullable Object to(Class<?> wanted, @Nullable Object value) throws InexactValueException {
        Class<?> type = boxed(wanted);
        if (value == null || (type.isInstance(value) && type != Object.class)) {
            return value;
        }
        if (type == Object.class) {
            return value;
        }
        if (type == Integer.class && value instanceof Long number && number == number.intValue()) {
            return number.intValue();
        }
        if (type.isEnum()) {
            return enumNamed(type, value);
        }
        if (type == java.sql.Timestamp.class && value instanceof Instant instant) {
            return java.sql.Timestamp.from(instant);
        }
        Kind kind = kindOf(type);
        if (kind == Kind.OTHER) {
            throw new InexactValueException(Text.of(value) + " is not a " + type.getSimpleName());
        }
        if (type == Boolean.class
                && value instanceof Number number
                && (number.doubleValue() == 0 || number.doubleValue() == 1)) {
            return number.doubleValue() == 1; // databases without a boolean type keep it as a small number
        }
        Object canonical = CanonicalForm.of(typeOf(type, kind), value);
        return fromCanonical(type, canonical);
    }

    /** Returns the family of values that a Java type holds, or {@link Kind#OTHER} for a type that is no single value. */
    public static Kind kindOf(Class<?> javaType) {
        Class<?> type = boxed(javaType);
        if (type == Boolean.class) {
            return Kind.BOOLEAN;
        }
        if (type == Long.class
                || type == Integer.class
                || type == Short.class
                || type == Byte.class
                || type == BigInteger.class) {
            return Kind.INTEGER;
        }
        if (type == BigDecimal.class) {
            return Kind.DECIMAL;
        }
        if (type == Double.class || type == Float.class) {
            return Kind.FLOAT;
        }
        if (type == String.class || type == Character.class || type == CharSequence.class) {
            return Kind.TEXT;
        }
        if (type.isEnum()) {
            return Kind.ENUM;
        }
        if (type == byte[].class) {
            return Kind.BYTES;
        }
        if (type == LocalDate.class || type == java.sql.Date.class) {
            return Kind.DATE;
        }
        if (type == LocalTime.class || type == java.sql.Time.class) {
            return Kind.TIME;
        }
        if (type == LocalDateTime.class || type == java.sql.Timestamp.class) {
            return Kind.TIMESTAMP;
        }
        if (type == Instant.class
                || type == OffsetDateTime.class
                || type == ZonedDateTime.class
                || type == java.util.Date.class) {
            return Kind.INSTANT;
        }
        return type == UUID.class ? Kind.UUID : Kind.OTHER;
    }

    /** Returns the wrapper class of a primitive type, any other class as it is. */
    public static Class<?> boxed(Class<?> type) {
        if (!type.isPrimitive()) {
            return type;
        }
        if (type == long.class) {
            return Long.class;
        }
        if (type == int.class) {
            return Integer.class;
        }
        if (type == boolean.class) {
            return Boolean.class;
        }
        return java.lang.invoke.MethodType.methodType(type).wrap().returnType();
    }

    private static DataType typeOf(Class<?> type, Kind kind) {
        int bits;
        if (type == Byte.class) {
            bits = 8;
        } else if (type == Short.class) {
            bits = 16;
        } else if (type == Integer.class) {
            bits = 32;
        } else {
            bits = 64;
        }
        return kind == Kind.INTEGER && type != BigInteger.class
                ? DataType.precise(kind, type.getSimpleName(), bits, 0)
                : DataType.precise(kind, type.getSimpleName(), kind == Kind.INTEGER ? 4096 : DataType.UNLIMITED, 0);
    }

    private static @Nullable Object fromCanonical(Class<?> type, @Nullable Object value) throws InexactValueException {
        if (value == null || type.isInstance(value)) {
            return value;
        }
        if (value instanceof Number n) {
            if (type == Integer.class) {
                return n.intValue();
            }
            if (type == Short.class) {
                return n.shortValue();
            }
            if (type == Byte.class) {
                return n.byteValue();
            }
            if (type == BigInteger.class) {
                return new BigInteger(n.toString());
            }
            if (type == Float.class) {
                return n.floatValue();
            }
        }
        if (value instanceof String text && type == Character.class && text.length() == 1) {
            return text.charAt(0);
        }
        if (value instanceof Instant instant) {
            if (type == OffsetDateTime.class) {
                return instant.atOffset(ZoneOffset.UTC);
            }
            if (type == ZonedDateTime.class) {
                return instant.atZone(ZoneOffset.UTC);
            }
            if (type == java.util.Date.class) {
                return java.util.Date.from(instant);
            }
        }
        if (value instanceof LocalDate date && type == java.sql.Date.class) {
            return java.sql.Date.valueOf(date);
        }
        if (value instanceof LocalTime time && type == java.sql.Time.class) {
            return java.sql.Time.valueOf(time);
        }
        if (value instanceof LocalDateTime dateTime && type == java.sql.Timestamp.class) {
            return java.sql.Timestamp.valueOf(dateTime);
        }
        throw new InexactValueException(Text.of(value) + " is not a " + type.getSimpleName());
    }

    private static Object enumNamed(Class<?> type, Object value) throws InexactValueException {
        Object exact = CONSTANTS.get(type).get(value.toString());
        if (exact != null) {
            return exact;
        }
        for (Object constant : type.getEnumConstants()) {
            if (((Enum<?>) constant).name().equalsIgnoreCase(value.toString())) {
                return constant;
            }
        }
        throw new InexactValueException(
                Text.of(value) + " is none of " + java.util.Arrays.toString(type.getEnumConstants()));
    }
}
