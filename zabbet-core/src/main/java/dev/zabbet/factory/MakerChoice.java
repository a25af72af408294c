package dev.zabbet.factory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.Allowed;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.DataType;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;

/**
 * Picks how a column's values are made. First what its checks list, then its type within their bounds; its name chooses
 * among fitting texts. Values of a column that is unique by itself are different in every row by construction.
 */
final class MakerChoice {
    private static final int YEAR = 365;

    private final Table table;
    private final Column column;
    private final DataType type;
    private final Allowed allowed;
    private final boolean unique;
    private final String name;

    MakerChoice(Table table, Column column) {
        this.table = table;
        this.column = column;
        this.type = column.type();
        this.allowed = Allowed.of(table, column);
        this.name = column.name().toLowerCase(Locale.ROOT);
        this.unique = Stream.concat(table.primaryKey().stream(), table.uniques().stream())
                .anyMatch(key -> uniqueBy(table, key.columns()).equals(column.name()));
    }

    /**
     * Returns the one column of a key that makes its rows different: the last that is no part of a reference, since the
     * others come from parents; the last of all if every one is.
     */
    private static String uniqueBy(Table table, List<String> key) {
        for (int i = key.size() - 1; i >= 0; i--) {
            if (table.referencesOf(key.get(i)).isEmpty()) {
                return key.get(i);
            }
        }
        return key.get(key.size() - 1);
    }

    Maker pick() {
        List<Object> choices = allowed.choices().isEmpty() ? labels() : allowed.choices();
        if (!choices.isEmpty()) {
            return unique
                    ? v -> choices.get((int) Math.floorMod(v.ordinal() - 1, (long) choices.size()))
                    : name.contains("status") || name.contains("state") ? v -> choices.get(0) : v -> v.pick(choices);
        }
        return switch (type.kind()) {
            case BOOLEAN -> v -> unique ? v.ordinal() % 2 == 0 : v.oneIn(2);
            case INTEGER -> integer();
            case DECIMAL -> decimal();
            case FLOAT -> floating();
            case TEXT, FIXED_TEXT -> text();
            case ENUM -> throw cannot("it allows no value at all");
            case BYTES -> this::bytes;
            case DATE -> date();
            case TIME -> v -> LocalTime.ofSecondOfDay(unique ? v.ordinal() % 86_400 : v.between(0, 95) * 900);
            case TIMESTAMP ->
                v -> v.now().atOffset(ZoneOffset.UTC).toLocalDateTime().minusSeconds(secondsAgo(v));
            case INSTANT -> v -> v.now().minusSeconds(secondsAgo(v));
            case UUID -> Values::uuid;
            case JSON -> v -> "{\"" + v.word() + "\": " + v.ordinal() + "}";
            case ARRAY -> v -> List.of();
            case OTHER -> throw cannot("nothing is known about values of type " + type.sqlName());
        };
    }

    private List<Object> labels() {
        return new ArrayList<>(type.labels());
    }

    private Maker integer() {
        int bits = type.precision() == DataType.UNLIMITED ? 64 : Math.min(type.precision(), 64);
        long most = type.unsigned() || bits == 64 ? Long.MAX_VALUE : (1L << (bits - 1)) - 1;
        long least = type.unsigned() ? 0 : -most - 1;
        long low = allowed.least() == null ? 1 : up(allowed.least());
        long high = allowed.most() == null ? Math.min(most, Math.max(low, 1) + 999) : down(allowed.most());
        if (allowed.least() == null && high < low) {
            low = Math.max(least, high - 999);
        }
        long from = low;
        long to = high;
        if (from > to) {
            throw cannot("its checks leave no number between " + from + " and " + to);
        }
        if (unique) {
            long start = allowed.least() == null && to >= 1 ? Math.max(1, from) : from;
            return v -> start + v.ordinal() - 1;
        }
        return v -> v.between(from, to);
    }

    private Maker decimal() {
        int scale = Math.max(0, type.scale());
        int digits = type.precision() == DataType.UNLIMITED ? 9 : type.precision();
        BigDecimal limit =
                BigDecimal.TEN.pow(Math.max(0, digits - scale)).subtract(BigDecimal.ONE.movePointLeft(scale));
        BigDecimal low = allowed.least() == null ? BigDecimal.ONE.min(limit) : allowed.least();
        BigDecimal high = allowed.most() == null
                ? low.add(BigDecimal.valueOf(99)).min(limit)
                : allowed.most().min(limit);
        long from = low.movePointRight(scale).setScale(0, RoundingMode.CEILING).longValue();
        long to = high.movePointRight(scale).setScale(0, RoundingMode.FLOOR).longValue();
        if (from > to) {
            throw cannot("its checks leave no number between " + low + " and " + high);
        }
        return unique
                ? v -> BigDecimal.valueOf(from + v.ordinal() - 1, scale)
                : v -> BigDecimal.valueOf(v.between(from, to), scale);
    }

    private Maker floating() {
        double low = allowed.least() == null ? 1 : allowed.least().doubleValue();
        double high = allowed.most() == null ? low + 99 : allowed.most().doubleValue();
        return v ->
                unique ? low + v.ordinal() - 1 : Math.round((low + (high - low) * v.between(0, 1000) / 1000) * 4) / 4.0;
    }

    private Maker date() {
        int back = name.contains("born") || name.contains("birth") ? 60 * YEAR : 30;
        int least = back > 30 ? 18 * YEAR : 0;
        if (unique) {
            return v -> v.today().plusDays(v.ordinal());
        }
        boolean past = back > 30 || name.contains("open") || name.contains("since") || name.contains("founded");
        return past
                ? v -> v.today().minusDays(v.between(least, Math.max(back, 10 * YEAR)))
                : v -> v.today().plusDays(v.between(1, 60));
    }

    private long secondsAgo(Values v) {
        return unique ? v.ordinal() : v.between(0, 30L * 24 * 60) * 60;
    }

    private Object bytes(Values v) {
        int room = type.length() == DataType.UNLIMITED ? 16 : Math.min(16, type.length());
        byte[] bytes = BigInteger.valueOf(v.ordinal())
                .shiftLeft(64)
                .or(BigInteger.valueOf(v.between(0, Long.MAX_VALUE)))
                .toByteArray();
        byte[] result = new byte[room];
        int n = Math.min(room, bytes.length);
        System.arraycopy(bytes, unique ? 0 : bytes.length - n, result, 0, n);
        return result;
    }

    private Maker text() {
        int most = Math.min(type.length() == DataType.UNLIMITED ? Integer.MAX_VALUE : type.length(), allowed.longest());
        int least = allowed.shortest();
        if (most < Math.max(least, unique ? 1 : 0)) {
            throw cannot("its checks leave no text of " + least + " to " + most + " characters");
        }
        TextMaker maker = TextMaker.of(table.name(), name);
        boolean code = name.contains("country") && most >= 2;
        boolean numbered = unique && !maker.isDifferent();
        return v -> {
            String text = code && !unique ? v.pick(Vocabulary.COUNTRIES) : maker.make(v);
            String different = numbered ? TextMaker.numbered(text, v.ordinal()) : text;
            if (different.length() > most) {
                different = unique
                        ? TextMaker.code(v.ordinal(), most)
                        : different
                                .substring(0, Math.min(different.length(), most))
                                .strip();
            }
            return different.length() >= least ? different : different + "x".repeat(least - different.length());
        };
    }

    private long up(BigDecimal number) {
        return number.setScale(0, RoundingMode.CEILING).longValue();
    }

    private long down(BigDecimal number) {
        return number.setScale(0, RoundingMode.FLOOR).longValue();
    }

    private ZabbetException cannot(String why) {
        return new ZabbetException("No value can be invented for " + table.name() + "." + column.name() + ": " + why
                + ". Give it one: with(\"" + column.name() + "\", …).");
    }
}
