package dev.zabbet.internal.value;

import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** Tells whether two values in canonical form are the same value. */
public final class ValueEquality {
    private ValueEquality() {}

    /** Numbers are compared by value, bytes by content, lists element by element; null equals null alone. */
    public static boolean values(@Nullable Object a, @Nullable Object b) {
        if (a == null || b == null) {
            return a == b;
        }
        if (a instanceof byte[] x && b instanceof byte[] y) {
            return Arrays.equals(x, y);
        }
        if (a instanceof Number x && b instanceof Number y) {
            return (a.getClass() == b.getClass() && !(a instanceof BigDecimal))
                    ? a.equals(b)
                    : decimal(x).compareTo(decimal(y)) == 0;
        }
        if (a instanceof List<?> x && b instanceof List<?> y) {
            if (x.size() != y.size()) {
                return false;
            }
            for (int i = 0; i < x.size(); i++) {
                if (!values(x.get(i), y.get(i))) {
                    return false;
                }
            }
            return true;
        }
        return Objects.equals(a, b);
    }

    /** Returns a hash code that is the same for values that {@link #values} takes to be the same. */
    public static int hash(@Nullable Object value) {
        if (value instanceof Number number) {
            return Double.hashCode(number.doubleValue());
        }
        if (value instanceof byte[] bytes) {
            return Arrays.hashCode(bytes);
        }
        if (value instanceof List<?> list) {
            int hash = 1;
            for (Object element : list) {
                hash = 31 * hash + hash(element);
            }
            return hash;
        }
        return Objects.hashCode(value);
    }

    /**
     * Tells whether {@code stored} is what {@code wanted} becomes in a column of this type: a time finer than the
     * column's precision equals what the database keeps of it, cut or rounded.
     */
    public static boolean asStored(DataType type, @Nullable Object wanted, @Nullable Object stored) {
        if (values(wanted, stored)) {
            return true;
        }
        if (wanted == null || stored == null) {
            return false;
        }
        if (type.kind() == Kind.UUID && (wanted instanceof byte[] || stored instanceof byte[])) {
            try {
                return Objects.equals(CanonicalForm.of(type, wanted), CanonicalForm.of(type, stored));
            } catch (InexactValueException e) {
                return false;
            }
        }
        if (type.kind() == Kind.JSON) {
            JsonTextDifference part =
                    JsonTextDifference.of(wanted.toString(), stored.toString()).orElse(null);
            if (part != null && !asStored(type, part.before(), part.after())) {
                return false;
            }
            Json.Document a = Json.read(wanted.toString()).orElse(null);
            Json.Document b = Json.read(stored.toString()).orElse(null);
            return a != null && b != null && Json.same(a.value(), b.value());
        }
        if (wanted instanceof List<?> a && stored instanceof List<?> b) {
            DataType element = type.element().orElse(type);
            boolean same = a.size() == b.size();
            for (int i = 0; same && i < a.size(); i++) {
                same = asStored(element, a.get(i), b.get(i));
            }
            return same;
        }
        Duration apart;
        int nanos;
        if (wanted instanceof LocalDateTime a && stored instanceof LocalDateTime b) {
            apart = Duration.between(a, b);
            nanos = a.getNano();
        } else if (wanted instanceof Instant a && stored instanceof Instant b) {
            apart = Duration.between(a, b);
            nanos = a.getNano();
        } else if (wanted instanceof LocalTime a && stored instanceof LocalTime b) {
            apart = Duration.between(a, b);
            nanos = a.getNano();
        } else {
            return false;
        }
        int digits = type.precision() == DataType.UNLIMITED ? 6 : type.precision();
        long unit = (long) Math.pow(10, 9 - Math.min(9, digits));
        return nanos % unit != 0 && apart.abs().toNanos() < unit;
    }

    private static BigDecimal decimal(Number number) {
        if (number instanceof BigDecimal d) {
            return d;
        }
        if (number instanceof BigInteger i) {
            return new BigDecimal(i);
        }
        if (number instanceof Double d) {
            return d.isNaN() || d.isInfinite() ? BigDecimal.ZERO : BigDecimal.valueOf(d);
        }
        return BigDecimal.valueOf(number.longValue());
    }
}
