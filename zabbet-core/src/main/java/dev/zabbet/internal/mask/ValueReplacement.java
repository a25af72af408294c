package dev.zabbet.internal.mask;

import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.mapping.ColumnFit;
import dev.zabbet.internal.value.Json;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.DataType;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import java.util.UUID;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;

/**
 * Puts another value in the place of a masked one that the column takes as well. Where the first does not fit, the value after it
 * in the same permutation is tried, and so on: since each leads to the next, different values still become different ones
 * ("cycle walking", Black and Rogaway, "Ciphers with Arbitrary Finite Domains", 2002).
 */
final class ValueReplacement {
    private static final int MOST_STEPS = 10_000;

    private final TextReplacement texts;

    ValueReplacement(TextReplacement texts) {
        this.texts = texts;
    }

    /**
     * Returns what stands in a value's place; null if nothing was found that fits.
     *
     * @param checks conditions on this column alone
     * @param more how many fitting values to pass over, for conditions on several columns
     */
    @Nullable
    Object of(Table table, Column column, Personal kind, Object value, List<CheckCondition> checks, int more) {
        Predicate<Object> fits = candidate -> fits(table, column, candidate, checks);
        int left = more;
        Object now = value;
        for (int step = 0; step < MOST_STEPS; step++) {
            now = next(column, kind, value, now, step);
            if (now.equals(value) && step > 0) {
                return null; // all round
            }
            if (fits.test(now) && left-- == 0) {
                return now;
            }
        }
        return null;
    }

    private static boolean fits(Table table, Column column, Object value, List<CheckCondition> checks) {
        try {
            ColumnFit.of(column, value);
        } catch (ColumnFit.MisfitException e) {
            return false;
        }
        int position = table.position(column.name());
        return checks.stream()
                .allMatch(
                        check -> check.evaluate(at -> at == position ? value : null) != CheckCondition.Verdict.BROKEN);
    }

    private Object next(Column column, Personal kind, Object original, Object now, int step) {
        int most = column.type().length() == DataType.UNLIMITED
                ? Integer.MAX_VALUE
                : column.type().length();
        if (now instanceof String text) {
            return texts.of(text, most);
        }
        if (now instanceof Boolean) {
            return now;
        }
        if (now instanceof List<?> list) {
            return list.stream()
                    .map(one -> one == null ? null : next(column, kind, one, one, step))
                    .toList();
        }
        if (original instanceof LocalDate day) {
            return texts.shifted(day, step);
        }
        if (original instanceof LocalDateTime time) {
            return time.with(texts.shifted(time.toLocalDate(), step));
        }
        if (original instanceof Instant instant) {
            LocalDate day = instant.atOffset(ZoneOffset.UTC).toLocalDate();
            return instant.plusSeconds((texts.shifted(day, step).toEpochDay() - day.toEpochDay()) * 86_400);
        }
        if (now instanceof UUID uuid) {
            return uuid(uuid);
        }
        if (now instanceof byte[] bytes) {
            return texts.bytes(bytes);
        }
        return now instanceof Number number ? number(kind, number, original) : now;
    }

    private UUID uuid(UUID like) {
        long most = texts.number("m" + like);
        long least = texts.number("l" + like);
        long version = like.getMostSignificantBits() & 0xF000L; // which kind of identifier it is stays
        return new UUID((most & ~0xF000L) | version, (least & 0x3FFFFFFFFFFFFFFFL) | 0x8000000000000000L);
    }

    /** As many digits as before; a place on the map stays within its degree, a year of birth within one. */
    private Number number(Personal kind, Number now, Object original) {
        if (now instanceof Long year
                && original instanceof Long born
                && kind == Personal.BIRTH
                && born > 1800
                && born < 2200) {
            boolean later = (texts.number(born.toString()) & 1) == 0;
            return later ^ !year.equals(born) ? born + 1 : born - 1;
        }
        if (now instanceof BigInteger || now instanceof Long) {
            return integer(now);
        }
        BigDecimal exact = now instanceof BigDecimal one ? one : new BigDecimal(now.toString());
        BigDecimal stripped = exact.stripTrailingZeros(); // some databases keep them, others do not
        BigDecimal decimal = stripped.scale() < 0 ? stripped.setScale(0) : stripped;
        boolean map = kind == Personal.COORDINATES && decimal.scale() > 0;
        BigDecimal whole = map ? decimal.setScale(0, RoundingMode.DOWN) : BigDecimal.ZERO;
        BigInteger digits = decimal.subtract(whole).unscaledValue();
        String text = digits.abs().toString();
        String padded = map ? "1" + "0".repeat(Math.max(0, decimal.scale() - text.length())) + text : text;
        String other = texts.of(padded, Integer.MAX_VALUE);
        BigInteger replaced = new BigInteger(map ? other.substring(1) : other);
        BigDecimal result =
                whole.add(new BigDecimal(decimal.signum() < 0 ? replaced.negate() : replaced, decimal.scale()));
        return now instanceof Double ? (Number) result.doubleValue() : result;
    }

    private Number integer(Number now) {
        BigInteger number = new BigInteger(now.toString());
        BigInteger other = new BigInteger(texts.of(number.abs().toString(), Integer.MAX_VALUE));
        BigInteger signed = number.signum() < 0 ? other.negate() : other;
        return signed.bitLength() < Long.SIZE ? (Number) signed.longValue() : signed;
    }

    /** A part of a document: no column limits it. */
    Object part(Personal kind, Object value) {
        if (value instanceof String text) {
            return texts.of(text, Integer.MAX_VALUE);
        }
        return value instanceof BigDecimal number ? number(kind, number, number) : value;
    }

    static String json(@Nullable Object document) {
        try {
            return Json.write(document);
        } catch (dev.zabbet.internal.value.InexactValueException e) {
            throw new IllegalStateException(e);
        }
    }
}
