package dev.zabbet.spark.internal;

import java.util.Arrays;
import org.apache.spark.sql.sources.And;
import org.apache.spark.sql.sources.EqualTo;
import org.apache.spark.sql.sources.Filter;
import org.apache.spark.sql.sources.GreaterThan;
import org.apache.spark.sql.sources.GreaterThanOrEqual;
import org.apache.spark.sql.sources.In;
import org.apache.spark.sql.sources.LessThan;
import org.apache.spark.sql.sources.LessThanOrEqual;

/**
 * Which keys conditions leave.
 *
 * @param least the least one
 * @param most the greatest one
 */
record KeyRange(long least, long most) {

    static KeyRange all() {
        return new KeyRange(Long.MIN_VALUE, Long.MAX_VALUE);
    }

    /** Returns the keys that a condition leaves too; these if it says nothing of the key. */
    KeyRange and(Filter filter, String key) {
        if (filter instanceof And both) {
            return and(both.left(), key).and(both.right(), key);
        }
        if (filter instanceof EqualTo equal
                && equal.attribute().equals(key)
                && equal.value() instanceof Number number) {
            return within(number.longValue(), number.longValue());
        }
        if (filter instanceof GreaterThan above
                && above.attribute().equals(key)
                && above.value() instanceof Number number) {
            return number.longValue() == Long.MAX_VALUE ? new KeyRange(1, 0) : within(number.longValue() + 1, most);
        }
        if (filter instanceof GreaterThanOrEqual from
                && from.attribute().equals(key)
                && from.value() instanceof Number number) {
            return within(number.longValue(), most);
        }
        if (filter instanceof LessThan below
                && below.attribute().equals(key)
                && below.value() instanceof Number number) {
            return number.longValue() == Long.MIN_VALUE ? new KeyRange(1, 0) : within(least, number.longValue() - 1);
        }
        if (filter instanceof LessThanOrEqual upTo
                && upTo.attribute().equals(key)
                && upTo.value() instanceof Number number) {
            return within(least, number.longValue());
        }
        if (filter instanceof In in
                && in.attribute().equals(key)
                && in.values().length > 0
                && Arrays.stream(in.values()).allMatch(Number.class::isInstance)) {
            long[] values = Arrays.stream(in.values())
                    .mapToLong(value -> ((Number) value).longValue())
                    .toArray();
            return within(
                    Arrays.stream(values).min().getAsLong(),
                    Arrays.stream(values).max().getAsLong());
        }
        return this;
    }

    private KeyRange within(long from, long to) {
        return new KeyRange(Math.max(least, from), Math.min(most, to));
    }
}
