package dev.zabbet.spring.internal.query;

import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import java.math.BigDecimal;
import java.math.MathContext;
import java.util.Collection;
import java.util.Comparator;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** The operators of SQL (ISO 9075-2, chapter 8), with null as unknown. */
public final class Operators {
    /** Orders values as a query's order does: nulls last, as on PostgreSQL; databases differ. */
    public static final Comparator<@Nullable Object> ORDER = (a, b) -> {
        Object one = stored(a);
        Object other = stored(b);
        if (one == null || other == null) {
            if (one == other) {
                return 0;
            }
            if (one == null) {
                return 1;
            }
            return -1;
        }
        return order(one, other);
    };

    /** A constant of an enum, of which the name alone is known. */
    record Constant(String name) {}

    private Operators() {}

    public static @Nullable Object and(@Nullable Object a, @Nullable Object b) {
        if (Boolean.FALSE.equals(a) || Boolean.FALSE.equals(b)) {
            return false;
        }
        return a == null || b == null ? null : (Object) true;
    }

    public static @Nullable Object or(@Nullable Object a, @Nullable Object b) {
        return not(and(not(a), not(b)));
    }

    public static @Nullable Object not(@Nullable Object a) {
        return a == null ? null : (Object) !((Boolean) a);
    }

    /**
     * Tells whether a text matches a pattern; null where one of them is.
     *
     * @param escape the character before one that is meant as it is; null for none
     */
    public static @Nullable Object like(
            @Nullable Object value, @Nullable Object pattern, @Nullable Character escape, boolean ignoreCase) {
        if (value == null || pattern == null) {
            return null;
        }
        StringBuilder regex = new StringBuilder();
        String text = pattern.toString();
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (escape != null && c == escape && i + 1 < text.length()) {
                regex.append(Pattern.quote(String.valueOf(text.charAt(++i))));
            } else {
                regex.append(
                        switch (c) {
                            case '%' -> ".*";
                            case '_' -> ".";
                            default -> Pattern.quote(String.valueOf(c));
                        });
            }
        }
        int flags = Pattern.DOTALL | (ignoreCase ? Pattern.CASE_INSENSITIVE | Pattern.UNICODE_CASE : 0);
        return Pattern.compile(regex.toString(), flags)
                .matcher(value.toString())
                .matches();
    }

    /** Compares two values; of objects that have rows of their own the keys count. */
    public static @Nullable Object compared(String operator, @Nullable Object left, @Nullable Object right) {
        Object a = stored(left);
        Object b = stored(right);
        if (a == null || b == null) {
            return null;
        }
        int order = order(a, b);
        return switch (operator) {
            case "=" -> order == 0;
            case "<>", "!=" -> order != 0;
            case "<" -> order < 0;
            case "<=" -> order <= 0;
            case ">" -> order > 0;
            default -> order >= 0;
        };
    }

    /** Tells whether a value is one of several, collections among them being opened. */
    public static @Nullable Object in(@Nullable Object value, Iterable<?> among) {
        if (value == null) {
            return null;
        }
        boolean unknown = false;
        for (Object one : among) {
            Object there = one instanceof Collection<?> several ? in(value, several) : compared("=", value, one);
            if (Boolean.TRUE.equals(there)) {
                return true;
            }
            unknown |= there == null;
        }
        return unknown ? null : (Object) false;
    }

    /** Returns the key of an object that has a row of its own; other values as they are. */
    public static @Nullable Object stored(@Nullable Object value) {
        if (value == null || !EntityMapping.isEntity(value.getClass())) {
            return value;
        }
        TypeShape<Object> shape = shape(value.getClass());
        return shape.identifier()
                .<@Nullable Object>map(key -> shape.readStored(value, key))
                .orElse(value);
    }

    public static @Nullable Object arithmetic(char operator, @Nullable Object a, @Nullable Object b) {
        if (a == null || b == null) {
            return null;
        }
        BigDecimal one = new BigDecimal(a.toString());
        BigDecimal other = new BigDecimal(b.toString());
        return switch (operator) {
            case '+' -> one.add(other);
            case '-' -> one.subtract(other);
            case '*' -> one.multiply(other);
            case '%' -> one.remainder(other);
            default ->
                a instanceof Double || b instanceof Double || one.scale() > 0 || other.scale() > 0
                        ? one.divide(other, MathContext.DECIMAL64)
                        : one.divideToIntegralValue(other); // of whole numbers, as SQL does it
        };
    }

    private static int order(Object one, Object other) {
        if (one instanceof Number && other instanceof Number) {
            return new BigDecimal(one.toString()).compareTo(new BigDecimal(other.toString()));
        }
        Object a = one;
        Object b = other;
        if (a.getClass() != b.getClass()) {
            a = named(a, b);
            b = named(b, a);
            a = alike(a, b);
            b = alike(b, a);
        }
        if (a.equals(b)) {
            return 0;
        }
        if (a.getClass() == b.getClass()) {
            return comparedAs(a, b);
        }
        return 1;
    }

    @SuppressWarnings("unchecked")
    private static int comparedAs(Object a, Object b) {
        return a instanceof Comparable<?> ? ((Comparable<Object>) a).compareTo(b) : 1;
    }

    /** A constant is compared by its name where the other is only a name. */
    private static Object named(Object value, Object other) {
        if (value instanceof Enum<?> constant && (other instanceof Constant || other instanceof String)) {
            return other instanceof Constant ? new Constant(constant.name()) : constant.name();
        }
        return value instanceof Constant constant && other instanceof String ? constant.name() : value;
    }

    /** Brings a value into the class of another where it is the same in both, for example a UUID written as text. */
    private static Object alike(Object value, Object other) {
        if (value.getClass() == other.getClass() || other instanceof Number != value instanceof Number) {
            return value;
        }
        try {
            Object converted = JavaValue.to(other.getClass(), value);
            return converted == null ? value : converted;
        } catch (InexactValueException e) {
            return value;
        }
    }

    @SuppressWarnings("unchecked")
    static TypeShape<Object> shape(Class<?> type) {
        return TypeShape.of((Class<Object>) type);
    }
}
