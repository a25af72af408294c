package dev.zabbet.internal.plan.value;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.Allowed;
import dev.zabbet.internal.value.Vocabulary;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.type.DataType;
import dev.zabbet.value.Values;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * Picks how a column's values are made. First what its checks list, then its type within their bounds; its name chooses
 * among fitting texts.
 */
public final class MakerChoice {
    private static final int YEAR = 365;

    private final Table table;
    private final Column column;
    private final DataType type;
    private final Allowed allowed;
    private final KeyedPart keyed;
    private final String name;

    MakerChoice(Table table, Column column) {
        this.table = table;
        this.column = column;
        this.type = column.type();
        this.allowed = Allowed.of(table, column);
        this.keyed = KeyedPart.of(table, column);
        this.name = column.name().toLowerCase(Locale.ROOT);
    }

    /** Tells whether a new row has the first of the values that a column may hold: where a thing stands begins somewhere. */
    public static boolean beginsWithFirst(Column column) {
        String name = column.name().toLowerCase(Locale.ROOT);
        return name.contains("status") || name.contains("state");
    }

    boolean isKnown(DataType of) {
        if (!allowed.choices().isEmpty() || !of.labels().isEmpty()) {
            return true;
        }
        return switch (of.kind()) {
            case OTHER -> MakerBySqlType.of(of.sqlName()).isPresent();
            case ARRAY -> isKnown(of.element().orElseThrow());
            default -> true;
        };
    }

    Maker pick() {
        List<Object> choices =
                allowed.choices().isEmpty() ? new ArrayList<>(type.labels()) : fitting(allowed.choices());
        if (!choices.isEmpty()) {
            boolean first = beginsWithFirst(column);
            return new Maker(
                    (v, n) -> {
                        if (n >= 0) {
                            return choices.get((int) n);
                        }
                        if (first) {
                            return choices.get(0);
                        }
                        return v.pick(choices);
                    },
                    choices.size());
        }
        return switch (type.kind()) {
            case BOOLEAN -> new Maker((v, n) -> n >= 0 ? n == 0 : (Object) v.oneIn(2), 2);
            case INTEGER -> integer();
            case DECIMAL -> decimal();
            case FLOAT -> floating();
            case TEXT, FIXED_TEXT -> text();
            case ENUM -> throw cannot("it allows no value at all");
            case BYTES -> bytes();
            case DATE -> date();
            case TIME ->
                new Maker((v, n) -> LocalTime.ofSecondOfDay(n >= 0 ? n : v.between(0, 95) * 900L), 24 * 60 * 60);
            case TIMESTAMP ->
                new Maker(
                        (v, n) -> v.now()
                                .atOffset(ZoneOffset.UTC)
                                .toLocalDateTime()
                                .minusSeconds(secondsAgo(v, n)),
                        moments());
            case INSTANT -> new Maker((v, n) -> v.now().minusSeconds(secondsAgo(v, n)), moments());
            case UUID -> endless((v, n) -> v.uuid());
            case JSON -> endless((v, n) -> "{\"" + v.word() + "\": " + v.ordinal() + "}");
            case ARRAY -> array();
            case OTHER ->
                MakerBySqlType.of(type.sqlName())
                        .orElseThrow(() -> cannot("nothing is known about values of type " + type.sqlName()));
        };
    }

    /** A check may list what is longer than the column; if all is, the store will say so. */
    private List<Object> fitting(List<Object> choices) {
        List<Object> fitting =
                choices.stream().filter(choice -> fits(type, choice)).toList();
        return fitting.isEmpty() ? choices : fitting;
    }

    /** Tells whether a column of a type keeps a value whole. */
    public static boolean fits(DataType type, Object value) {
        return !(value instanceof String text)
                || type.length() == DataType.UNLIMITED
                || text.codePointCount(0, text.length()) <= type.length();
    }

    private static Maker endless(Maker.How how) {
        return new Maker(how, Maker.ENDLESS);
    }

    private Maker integer() {
        int bits = type.precision() == DataType.UNLIMITED ? 64 : Math.min(type.precision(), 64);
        long most = bits == 64 ? Long.MAX_VALUE : (1L << (type.unsigned() ? bits : bits - 1)) - 1;
        long least = type.unsigned() ? 0 : -most - 1;
        boolean year = type.sqlName().toLowerCase(Locale.ROOT).startsWith("year");
        if (year) {
            least = 1901;
            most = 2155;
        }
        long low;
        if (allowed.least() == null) {
            if (year) {
                low = 1970;
            } else {
                low = 1;
            }
        } else {
            low = Math.max(least, up(allowed.least()));
        }
        long high;
        if (allowed.most() != null) {
            high = Math.min(most, down(allowed.most()));
        } else if (year) {
            high = Math.min(most, 2030);
        } else {
            high = low > most - 999 ? most : low + 999;
        }
        if (allowed.least() == null && high < low) {
            low = Math.max(least, high - 999);
        }
        long from = low;
        long to = high;
        if (from > to) {
            throw cannot("its checks leave no number between " + from + " and " + to);
        }
        long last = allowed.most() == null ? most : to;
        long above = last - from < 0 || last - from == Long.MAX_VALUE ? Maker.ENDLESS : last - from + 1;
        long first = allowed.least() == null && !year ? least : from; // what is below comes when all above is taken
        long size = above == Maker.ENDLESS || from - first < 0 || above + (from - first) < 0
                ? Maker.ENDLESS
                : above + (from - first);
        return new Maker(
                (v, n) -> {
                    if (n < 0) {
                        return v.between(from, to);
                    }
                    if (n < above) {
                        return from + n;
                    }
                    return from - 1 - (n - above);
                },
                size);
    }

    private Maker decimal() {
        int scale = Math.max(0, type.scale());
        int digits = type.precision() == DataType.UNLIMITED ? 18 : Math.min(18, type.precision());
        BigDecimal limit =
                BigDecimal.TEN.pow(Math.max(0, digits - scale)).subtract(BigDecimal.ONE.movePointLeft(scale));
        BigDecimal low = allowed.least() == null ? BigDecimal.ONE.min(limit) : allowed.least();
        if (allowed.least() == null && allowed.most() != null && allowed.most().compareTo(low) < 0) {
            low = allowed.most().subtract(BigDecimal.valueOf(99)).max(limit.negate());
        }
        BigDecimal high = allowed.most() == null
                ? low.add(BigDecimal.valueOf(99)).min(limit)
                : allowed.most().min(limit);
        long from = units(low, scale, RoundingMode.CEILING);
        long to = units(high, scale, RoundingMode.FLOOR);
        if (from > to) {
            throw cannot("its checks leave no number between " + low + " and " + high);
        }
        long last = allowed.most() == null ? units(limit, scale, RoundingMode.FLOOR) : to;
        return new Maker((v, n) -> BigDecimal.valueOf(n >= 0 ? from + n : v.between(from, to), scale), last - from + 1);
    }

    private static long units(BigDecimal number, int scale, RoundingMode rounding) {
        return number.movePointRight(scale).setScale(0, rounding).longValue();
    }

    private Maker floating() {
        double low;
        if (allowed.least() == null) {
            if (allowed.most() == null) {
                low = 1;
            } else {
                low = Math.min(1, allowed.most().doubleValue() - 99);
            }
        } else {
            low = allowed.least().doubleValue();
        }
        double high = allowed.most() == null ? low + 99 : allowed.most().doubleValue();
        double step = allowed.most() == null ? 1 : Math.min(1, (high - low) / 1_000_000);
        return new Maker(
                (v, n) -> n >= 0
                        ? (Object) (low + n * step)
                        : (Object)
                                (high - low < 2
                                        ? low + (high - low) * v.between(1, 7) / 8
                                        : Math.round((low + (high - low) * v.between(0, 1000) / 1000) * 4) / 4.0),
                allowed.most() == null ? Maker.ENDLESS : 1_000_000);
    }

    private Maker date() {
        boolean birth = name.contains("born") || name.contains("birth");
        boolean past = birth
                || List.of("open", "since", "founded", "created", "start", "issued", "hired").stream()
                        .anyMatch(name::contains);
        int least = birth ? 18 * YEAR : 0;
        int most = birth ? 60 * YEAR : 10 * YEAR;
        int days = Math.max(1, keyed.seconds() / 86_400);
        return new Maker(
                (v, n) -> {
                    if (n >= 0) {
                        return v.today().minusDays(n * days);
                    }
                    if (past) {
                        return v.today().minusDays(v.between(least, most));
                    }
                    return v.today().plusDays(v.between(1, 60));
                },
                700_000 / days); // from the stage's day back to the year 100 or so
    }

    private long moments() {
        return keyed.seconds() == 1 ? Maker.ENDLESS : 700_000L * 86_400 / keyed.seconds();
    }

    private long secondsAgo(Values v, long n) {
        return n >= 0 ? n * keyed.seconds() : v.between(0, 30L * 24 * 60) * 60;
    }

    private Maker bytes() {
        int room = Math.min(keyed.length(), type.length() == DataType.UNLIMITED ? 16 : Math.min(16, type.length()));
        int length = type.isPadded() ? Math.max(room, type.length()) : room;
        if (room == 0) {
            return new Maker((v, n) -> new byte[length], 1);
        }
        return new Maker(
                (v, n) -> {
                    byte[] result = new byte[length];
                    long rest = n >= 0 ? n : v.ordinal();
                    for (int i = room - 1; i >= Math.max(0, room - 8); i--, rest >>>= 8) {
                        result[i] = (byte) rest;
                    }
                    for (int i = 0; i < room - 8; i++) {
                        result[i] = (byte) v.between(0, 255);
                    }
                    return result;
                },
                room >= 8 ? Maker.ENDLESS : 1L << (8 * room));
    }

    private Maker array() {
        DataType element = type.element().orElseThrow();
        Column one = new Column(column.name(), column.sqlName(), element, false, Optional.empty(), column.generation());
        Maker maker = new MakerChoice(
                        new Table(
                                table.name(),
                                "",
                                table.name(),
                                List.of(one),
                                Optional.empty(),
                                List.of(),
                                List.of(),
                                List.of(),
                                TableNature.PLAIN),
                        one)
                .pick();
        int least = Math.max(allowed.shortest(), 1);
        int most = Math.min(allowed.longest(), least + 1);
        if (most < least) {
            return new Maker((v, n) -> List.of(), 1);
        }
        return new Maker(
                (v, n) -> {
                    List<Object> elements = new ArrayList<>();
                    int count = n >= 0 ? least : v.between(least, most);
                    for (int i = 0; i < count; i++) {
                        elements.add(maker.make(v, i == 0 ? n : Maker.ANY));
                    }
                    return List.copyOf(elements);
                },
                maker.size());
    }

    private Maker text() {
        int most = Math.min(type.length() == DataType.UNLIMITED ? Integer.MAX_VALUE : type.length(), allowed.longest());
        int least = allowed.shortest();
        if (most < least) {
            throw cannot("its checks leave no text of " + least + " to " + most + " characters");
        }
        if (most == 0) {
            return new Maker((v, n) -> "", 1);
        }
        int differing = Math.min(most, keyed.length());
        TextMaker maker = TextMaker.of(table.name(), name);
        boolean country = name.contains("country") && most >= 2;
        long ordinary = differing >= 12 ? Maker.ENDLESS : (long) Math.pow(36, differing) - 1;
        return new Maker(
                (v, n) -> {
                    if (n >= ordinary) {
                        return TextMaker.sign(n - ordinary) + "x".repeat(Math.max(0, least - 1));
                    }
                    String text = n < 0 && country ? v.pick(Vocabulary.COUNTRIES) : maker.make(v);
                    if (n >= 0 && !(maker.isDifferent() && n == v.ordinal() - 1)) {
                        text = TextMaker.numbered(text, n + 1);
                    }
                    if (text.length() > (n >= 0 ? differing : most)) {
                        text = n >= 0
                                ? TextMaker.code(n + 1, differing)
                                : text.substring(0, most).strip();
                    }
                    return text.length() >= least ? text : text + "x".repeat(least - text.length());
                },
                ordinary,
                differing <= 2 && allowed.choices().isEmpty() ? TextMaker.SIGNS : 0);
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
