package dev.zabbet.internal.report;

import dev.zabbet.internal.text.Words;
import dev.zabbet.schema.Column;
import dev.zabbet.type.DataType;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.text.Normalizer;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.Locale;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Recognises differences that have often been met: what looks like a time zone, a rounding, a blank, a missing key. */
final class KnownDifference {
    private static final long FARTHEST_ZONE = 14 * 60; // minutes, from UTC

    private KnownDifference() {}

    /** Returns what the difference looks like, in a sentence about the column; empty if it looks like nothing known. */
    static Optional<String> of(Column column, boolean key, @Nullable Object expected, @Nullable Object stored) {
        return what(column, key, expected, stored).map(what -> column.name() + ": " + what);
    }

    private static Optional<String> what(
            Column column, boolean key, @Nullable Object expected, @Nullable Object stored) {
        if (key && stored != null && (expected == null || (expected instanceof Number n && n.longValue() == 0))) {
            return Optional.of("the expected row has no key yet; expect what was handed back when it was saved.");
        }
        if (expected instanceof String a && stored instanceof String b) {
            return texts(a, b);
        }
        if (expected instanceof Number a && stored instanceof Number b) {
            return numbers(column.type(), new BigDecimal(a.toString()), new BigDecimal(b.toString()));
        }
        if (expected instanceof LocalDate a && stored instanceof LocalDate b) {
            return Math.abs(ChronoUnit.DAYS.between(a, b)) == 1
                    ? Optional.of("they are one day apart, as when midnight is taken in another time zone.")
                    : Optional.empty();
        }
        Instant a = instant(expected);
        Instant b = instant(stored);
        return a == null || b == null ? Optional.empty() : times(column.type(), Duration.between(a, b));
    }

    private static @Nullable Instant instant(@Nullable Object value) {
        if (value instanceof LocalDateTime time) {
            return time.toInstant(ZoneOffset.UTC);
        }
        if (value instanceof Instant instant) {
            return instant;
        }
        if (value instanceof LocalTime time) {
            return time.atDate(LocalDate.EPOCH).toInstant(ZoneOffset.UTC);
        }
        return null;
    }

    private static Optional<String> times(DataType type, Duration apart) {
        Duration length = apart.abs();
        long minutes = length.toMinutes();
        boolean zone = length.equals(Duration.ofMinutes(minutes))
                && minutes > 0
                && minutes <= FARTHEST_ZONE
                && minutes % 15 == 0;
        if (zone) {
            String hours = minutes % 60 == 0
                    ? Words.count(minutes / 60, "hour")
                    : BigDecimal.valueOf(minutes)
                                    .divide(BigDecimal.valueOf(60), 2, RoundingMode.HALF_UP)
                                    .stripTrailingZeros()
                                    .toPlainString()
                            + " hours";
            return Optional.of("they are exactly " + hours + " apart, as when a time zone is left out or taken twice.");
        }
        return length.toMillis() < 1000
                ? Optional.of("they are less than a second apart; near(time, seconds(1)) allows for it"
                        + (type.precision() == 0 ? ", and the column keeps no fractions of a second." : "."))
                : Optional.empty();
    }

    private static Optional<String> numbers(DataType type, BigDecimal expected, BigDecimal stored) {
        boolean scaled = type.precision() != DataType.UNLIMITED && expected.scale() > type.scale();
        if (scaled && expected.setScale(type.scale(), RoundingMode.HALF_UP).compareTo(stored) == 0) {
            return Optional.of("the database rounded " + expected + "; the column keeps "
                    + Words.count(type.scale(), "digit") + " after the point.");
        }
        if (scaled && expected.setScale(type.scale(), RoundingMode.DOWN).compareTo(stored) == 0) {
            return Optional.of("the database cut off " + expected + "; the column keeps "
                    + Words.count(type.scale(), "digit") + " after the point.");
        }
        if (expected.signum() != 0 && expected.negate().compareTo(stored) == 0) {
            return Optional.of("the same number with the other sign.");
        }
        for (int factor : new int[] {100, 1000}) {
            BigDecimal times = BigDecimal.valueOf(factor);
            if (expected.signum() != 0 && expected.multiply(times).compareTo(stored) == 0) {
                return Optional.of(factor + " times as much, as when units are mixed.");
            }
            if (stored.signum() != 0 && stored.multiply(times).compareTo(expected) == 0) {
                return Optional.of("the " + factor + "th part, as when units are mixed.");
            }
        }
        return Optional.empty();
    }

    private static Optional<String> texts(String expected, String stored) {
        if (expected.strip().equals(stored.strip())) {
            return Optional.of("they differ only in blanks at the ends.");
        }
        if (expected.toLowerCase(Locale.ROOT).equals(stored.toLowerCase(Locale.ROOT))) {
            return Optional.of("they differ only in upper and lower case.");
        }
        if (expected.replace("\r\n", "\n").equals(stored.replace("\r\n", "\n"))) {
            return Optional.of("they differ only in the ends of lines.");
        }
        if (Normalizer.normalize(expected, Normalizer.Form.NFC)
                .equals(Normalizer.normalize(stored, Normalizer.Form.NFC))) {
            return Optional.of("the same letters, composed in another way (Unicode normalisation).");
        }
        if (visible(expected).equals(visible(stored))) {
            return Optional.of("they differ only in characters that cannot be seen.");
        }
        boolean cut = stored.length() >= 8 && expected.length() > stored.length() && expected.startsWith(stored);
        return cut
                ? Optional.of("what is stored is the beginning of what was expected, "
                        + Words.count(stored.length(), "character") + " of it.")
                : Optional.empty();
    }

    private static String visible(String text) {
        return text.replaceAll("[\\p{Cc}\\p{Cf}\\p{Z}]+", " ").strip();
    }
}
