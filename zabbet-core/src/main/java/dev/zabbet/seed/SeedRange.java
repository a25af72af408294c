package dev.zabbet.seed;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.value.Values;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.Period;
import java.time.ZoneOffset;
import java.util.Optional;
import java.util.function.Function;

/** Numbers, dates and times of a range, and those that rise row by row. All are written as text. */
final class SeedRange {
    private static final BigInteger LEAST = BigInteger.valueOf(Long.MIN_VALUE);
    private static final BigInteger MOST = BigInteger.valueOf(Long.MAX_VALUE);

    private SeedRange() {}

    /**
     * Returns what draws values from one to another, both included: whole numbers, numbers with as many digits after the point as the
     * bounds have, dates, or times at full seconds.
     *
     * @throws ZabbetException if the bounds are none
     */
    static Function<Values, Object> between(String from, String to) {
        Object first = read(from);
        Object last = read(to);
        if (first instanceof BigDecimal least && last instanceof BigDecimal most && least.compareTo(most) <= 0) {
            int scale = Math.max(0, Math.max(least.scale(), most.scale()));
            long unscaled = whole(least.setScale(scale).unscaledValue(), from);
            long end = whole(most.setScale(scale).unscaledValue(), to);
            return scale == 0
                    ? values -> values.between(unscaled, end)
                    : values -> BigDecimal.valueOf(values.between(unscaled, end), scale);
        }
        if (first instanceof LocalDate day && last instanceof LocalDate end && !end.isBefore(day)) {
            return values -> values.date(day, end);
        }
        if (first instanceof LocalDateTime time && last instanceof LocalDateTime end && !end.isBefore(time)) {
            Instant begin = time.toInstant(ZoneOffset.UTC);
            Instant until = end.toInstant(ZoneOffset.UTC);
            return values -> LocalDateTime.ofInstant(values.instant(begin, until), ZoneOffset.UTC);
        }
        if (first instanceof Instant time && last instanceof Instant end && !end.isBefore(time)) {
            return values -> values.instant(time, end);
        }
        throw new ZabbetException("between takes two numbers, dates or times, the lower one first: {between: [1, 14]},"
                + " {between: [2031-06-01, 2031-08-31]}.");
    }

    /**
     * Returns what gives the first row a start, and each row after it that much more.
     *
     * @throws ZabbetException if one cannot be added to the other
     */
    static Function<Values, Object> rising(String start, String step) {
        Object first = read(start);
        Optional<Duration> duration = duration(step);
        Optional<Period> period = period(step);
        if (first instanceof BigDecimal number && read(step) instanceof BigDecimal more) {
            return values -> number.add(more.multiply(BigDecimal.valueOf(values.ordinal() - 1L)));
        }
        if (first instanceof LocalDate day && period.isPresent()) {
            return values -> within(start, values, () -> day.plus(times(period.get(), values.ordinal() - 1L)));
        }
        if (first instanceof LocalDateTime time && duration.isPresent()) {
            return values ->
                    within(start, values, () -> time.plus(duration.get().multipliedBy(values.ordinal() - 1L)));
        }
        if (first instanceof Instant time && duration.isPresent()) {
            return values ->
                    within(start, values, () -> time.plus(duration.get().multipliedBy(values.ordinal() - 1L)));
        }
        throw new ZabbetException(
                "rising takes the first row's number, date or time, and how much more each row after it"
                        + " has: {rising: [1000, 10]}, {rising: [2031-06-01, P1D]}, {rising: [2031-06-01T08:00, PT5M]}.");
    }

    private interface Sum {
        Object get();
    }

    private static Object within(String start, Values values, Sum sum) {
        try {
            return sum.get();
        } catch (ArithmeticException | DateTimeException e) {
            throw new ZabbetException(
                    "rising from " + start + " comes to no date or time in row " + values.ordinal() + ": "
                            + e.getMessage() + ".",
                    e);
        }
    }

    private static Period times(Period period, long count) {
        return period.multipliedBy(Math.toIntExact(count));
    }

    private static long whole(BigInteger number, String text) {
        if (number.compareTo(LEAST) < 0 || number.compareTo(MOST) > 0) {
            throw new ZabbetException(text + " has more than 18 digits, and cannot bound a range.");
        }
        return number.longValue();
    }

    /** Returns a number, date or time; the text itself if it is none. */
    private static Object read(String text) {
        try {
            return new BigDecimal(text);
        } catch (NumberFormatException e) {
            // no number
        }
        try {
            return LocalDate.parse(text);
        } catch (DateTimeException e) {
            // no date
        }
        try {
            return LocalDateTime.parse(text.replace(' ', 'T'));
        } catch (DateTimeException e) {
            // no time without a zone
        }
        try {
            return Instant.parse(text);
        } catch (DateTimeException e) {
            return text;
        }
    }

    private static Optional<Duration> duration(String text) {
        try {
            return Optional.of(Duration.parse(text));
        } catch (DateTimeException e) {
            return Optional.empty();
        }
    }

    private static Optional<Period> period(String text) {
        try {
            return Optional.of(Period.parse(text));
        } catch (DateTimeException e) {
            return Optional.empty();
        }
    }
}
