package dev.zabbet.internal.value;

import java.math.BigDecimal;
import java.util.Arrays;

/** The order of values in canonical form of one column. */
public final class Ordering {
    private Ordering() {}

    /** Compares two values as databases do: numbers by value, times along the time line, text by its characters. */
    @SuppressWarnings({"unchecked", "rawtypes"}) // values of one column are of one type
    public static int compare(Object a, Object b) {
        if (a instanceof Long x && b instanceof Long y) {
            return Long.compare(x, y);
        }
        if (a instanceof Number x && b instanceof Number y) {
            return decimal(x).compareTo(decimal(y));
        }
        if (a instanceof byte[] x && b instanceof byte[] y) {
            return Arrays.compareUnsigned(x, y);
        }
        if (a.getClass() == b.getClass() && a instanceof Comparable comparable) {
            return comparable.compareTo(b);
        }
        return a.toString().compareTo(b.toString());
    }

    private static BigDecimal decimal(Number number) {
        return number instanceof BigDecimal d ? d : new BigDecimal(number.toString());
    }
}
