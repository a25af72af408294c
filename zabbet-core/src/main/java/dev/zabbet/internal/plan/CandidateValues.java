package dev.zabbet.internal.plan;

import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.Constant;
import dev.zabbet.internal.check.Sampler;
import dev.zabbet.internal.check.Suggestion;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.plan.value.Proposals;
import dev.zabbet.internal.plan.value.TextMaker;
import dev.zabbet.internal.plan.value.Variety;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Json;
import dev.zabbet.schema.Column;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import dev.zabbet.value.Values;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/** Proposes values for a column that checks tie to something: first what would be made anyhow, then what they speak of. */
final class CandidateValues implements Puzzle.Candidates {
    private static final int MOST = 40;

    private final Node node;
    private final int position;
    private final Column column;
    private final Maker maker;
    private final Variety variety;
    private final boolean leftOut;
    private final DrawOf draw;

    /** Gives the source of invented values for a row; another for each attempt. */
    @FunctionalInterface
    interface DrawOf {
        Values values(int row, int attempt);
    }

    CandidateValues(Node node, int position, Maker maker, Variety variety, boolean leftOut, DrawOf draw) {
        this.node = node;
        this.position = position;
        this.column = node.table.columns().get(position);
        this.maker = maker;
        this.variety = variety;
        this.leftOut = leftOut;
        this.draw = draw;
    }

    @Override
    public Proposals of(int row, List<CheckCondition> checks, IntFunction<@Nullable Object> others) {
        long different = variety.different(node.ordinal(row));
        Object first = leftOut ? Constant.ofDefault(column).orElse(null) : maker.make(draw.values(row, 0), different);
        return new Proposals(first, mayBe(first), () -> all(first, different, row, checks, others));
    }

    private List<@Nullable Object> all(
            @Nullable Object first,
            long different,
            int row,
            List<CheckCondition> checks,
            IntFunction<@Nullable Object> others) {
        Set<@Nullable Object> found = new LinkedHashSet<>();
        found.add(first);
        if (leftOut) {
            found.add(maker.make(draw.values(row, 0), different));
        }
        List<Suggestion> suggestions = new ArrayList<>();
        checks.forEach(check -> suggestions.addAll(check.suggestions(column, others)));
        if (different == Maker.ANY) {
            for (Suggestion suggestion : suggestions) {
                if (suggestion instanceof Suggestion.Value value) {
                    add(value.value(), found); // before what is near to any of them
                }
            }
        }
        suggestions.forEach(suggestion -> follow(suggestion, row, different, found));
        if (different == Maker.ANY) {
            ordinary(row, found);
        } else if (isText()) {
            differentTexts(row, different, found);
        } else {
            differentDays(different, found);
        }
        if (column.nullable()) {
            found.add(null);
        }
        List<@Nullable Object> fitting = new ArrayList<>();
        for (Object value : found) {
            if (mayBe(value)) {
                fitting.add(value);
            }
        }
        return fitting.size() > MOST ? fitting.subList(0, MOST) : fitting;
    }

    private boolean mayBe(@Nullable Object value) {
        return value == null ? column.nullable() : fits(value);
    }

    private void follow(Suggestion suggestion, int row, long different, Set<@Nullable Object> found) {
        if (suggestion instanceof Suggestion.Matching matching && isText()) {
            Sampler sampler = matching.sampler();
            Values values = draw.values(row, 0);
            for (int i = 0; i < 3 && different == Maker.ANY; i++) {
                found.add(sampler.any(n -> (int) values.between(0L, n - 1L)));
            }
            found.add(sampler.different(different >= 0 ? different : node.ordinal(row))); // a longer one
        } else if (suggestion instanceof Suggestion.Length length) {
            ofLength(length.length(), row, different, found);
        } else if (suggestion instanceof Suggestion.Value value && different == Maker.ANY) {
            near(value.value(), found);
        } else if (suggestion instanceof Suggestion.Value value && value.value() instanceof Number bound) {
            // a key beyond the bound, still another in each row
            add(new BigDecimal(bound.toString()).add(BigDecimal.valueOf(different + 1)), found);
            add(new BigDecimal(bound.toString()).subtract(BigDecimal.valueOf(different + 1)), found);
        }
    }

    /** The number in them makes them different whatever becomes of the rest. */
    private void differentTexts(int row, long different, Set<@Nullable Object> found) {
        String base = maker.make(draw.values(row, 0), different).toString();
        int most = column.type().length() == DataType.UNLIMITED
                ? 12
                : Math.min(12, column.type().length());
        String code = TextMaker.code(different + 1, most);
        for (String text : List.of(base, base.replaceAll("[^A-Za-z0-9]", ""), code, "a" + code, code + "a")) {
            found.add(text.toUpperCase(java.util.Locale.ROOT));
            found.add(text.toLowerCase(java.util.Locale.ROOT));
        }
        found.add(String.valueOf(different + 1));
        found.add("someone" + (different + 1) + "@example.org");
        found.add("https://example.org/" + (different + 1));
    }

    /** A day each, at its beginning, should a check allow round moments only; and a week each, should it name the day. */
    private void differentDays(long different, Set<@Nullable Object> found) {
        LocalDate monday = LocalDate.of(2001, 1, 1);
        for (long days : new long[] {different, different * 7}) {
            if (days > 700_000) {
                continue; // more than there are days in the calendars of all databases
            }
            LocalDate day = monday.minusDays(days);
            switch (column.type().kind()) {
                case DATE -> found.add(day);
                case TIMESTAMP -> found.add(day.atStartOfDay());
                case INSTANT -> found.add(day.atStartOfDay().toInstant(java.time.ZoneOffset.UTC));
                default -> {}
            }
        }
    }

    private void ofLength(int length, int row, long different, Set<@Nullable Object> found) {
        for (int wanted : new int[] {length, length + 1, length - 1}) {
            if (wanted < 0) {
                continue;
            }
            if (isText()) {
                Object base = maker.make(draw.values(row, 0), different);
                String text = different >= 0 ? TextMaker.code(different + 1, Math.max(wanted, 1)) : base.toString();
                found.add(
                        text.length() >= wanted
                                ? text.substring(0, wanted)
                                : text + "x".repeat(wanted - text.length()));
                String digits = String.valueOf(different >= 0 ? different : node.ordinal(row));
                found.add(
                        digits.length() >= wanted
                                ? digits.substring(digits.length() - wanted)
                                : "0".repeat(wanted - digits.length()) + digits);
            } else if (column.type().kind() == Kind.BYTES && wanted < 10_000) {
                byte[] bytes = new byte[wanted];
                for (int i = 0; i < wanted && i < 8; i++) {
                    bytes[wanted - 1 - i] = (byte) ((different >= 0 ? different : node.ordinal(row)) >> (8 * i));
                }
                found.add(bytes);
            } else if (column.type().kind() == Kind.ARRAY && wanted < 1000) {
                List<Object> elements = new ArrayList<>();
                while (elements.size() < wanted) {
                    elements.addAll((List<?>) maker.make(draw.values(row, elements.size() + 1), Maker.ANY));
                }
                found.add(List.copyOf(elements.subList(0, wanted)));
            }
        }
    }

    private boolean isText() {
        return column.type().kind() == Kind.TEXT || column.type().kind() == Kind.FIXED_TEXT;
    }

    /** The value itself and those next to it. */
    private void near(Object value, Set<@Nullable Object> found) {
        add(value, found);
        if (value instanceof Number number) {
            BigDecimal exact = new BigDecimal(number.toString());
            BigDecimal unit = BigDecimal.ONE.movePointLeft(
                    column.type().kind() == Kind.DECIMAL
                            ? Math.max(0, column.type().scale())
                            : 0);
            add(exact.add(unit), found);
            add(exact.subtract(unit), found);
            add(exact.divideToIntegralValue(BigDecimal.valueOf(2)), found);
            add(exact.multiply(BigDecimal.valueOf(2)), found);
            return;
        }
        Object own = canonical(value);
        if (own instanceof LocalDate date) {
            for (int days : new int[] {1, -1, 30, -30}) {
                found.add(date.plusDays(days));
            }
        } else if (own instanceof LocalDateTime dateTime) {
            for (int hours : new int[] {1, -1, 48, -48}) {
                found.add(dateTime.plusHours(hours));
            }
        } else if (own instanceof Instant instant) {
            for (int hours : new int[] {1, -1, 48, -48}) {
                found.add(instant.plus(Duration.ofHours(hours)));
            }
        } else if (own instanceof LocalTime time) {
            found.add(time.plusMinutes(30));
            found.add(time.minusMinutes(30));
        } else if (own instanceof String text) {
            add(text + "x", found);
            add("x" + text, found);
        }
    }

    /** What often keeps a check that says nothing of constants. */
    private void ordinary(int row, Set<@Nullable Object> found) {
        for (int attempt = 1; attempt <= 4; attempt++) {
            found.add(maker.make(draw.values(row, attempt), Maker.ANY));
        }
        DataType type = column.type();
        switch (type.kind()) {
            case BOOLEAN -> {
                found.add(true);
                found.add(false);
            }
            case INTEGER, DECIMAL, FLOAT -> {
                for (int n : new int[] {0, 1, 2, 5, 10, 100, -1}) {
                    add(BigDecimal.valueOf(n), found);
                }
            }
            case TEXT, FIXED_TEXT -> {
                String base = String.valueOf(maker.make(draw.values(row, 0), Maker.ANY));
                found.add(base.toUpperCase(java.util.Locale.ROOT));
                found.add(base.toLowerCase(java.util.Locale.ROOT));
                found.add(base.replaceAll("[^A-Za-z0-9]", ""));
                found.add("A");
                found.add("1");
                found.add("");
                found.add("{}");
                found.add("someone@example.org");
                found.add("https://example.org/");
            }
            case JSON -> {
                for (String json : List.of("{}", "[]", "\"text\"", "1", "true", "[1]", "{\"id\": 1}")) {
                    found.add(json);
                }
            }
            case DATE -> {
                found.add(LocalDate.of(2001, 2, 3));
                found.add(LocalDate.of(2020, 1, 1));
                found.add(LocalDate.of(2001, 1, 1)); // a Monday
            }
            case TIMESTAMP -> {
                found.add(LocalDateTime.of(2001, 2, 3, 4, 5));
                found.add(LocalDateTime.of(2001, 1, 1, 0, 0));
            }
            case INSTANT -> {
                found.add(Instant.parse("2001-02-03T04:05:00Z"));
                found.add(Instant.parse("2001-01-01T00:00:00Z"));
            }
            case TIME -> {
                found.add(LocalTime.of(0, 0));
                found.add(LocalTime.of(12, 0));
                found.add(LocalTime.of(23, 59));
            }
            case ARRAY -> found.add(List.of());
            case ENUM -> found.addAll(type.labels());
            default -> {}
        }
    }

    private void add(Object value, Set<@Nullable Object> found) {
        Object own = canonical(value);
        if (own != null) {
            found.add(own);
        }
    }

    private @Nullable Object canonical(Object value) {
        try {
            boolean whole = column.type().kind() == Kind.INTEGER && value instanceof BigDecimal;
            Object exact = whole ? ((BigDecimal) value).setScale(0, java.math.RoundingMode.FLOOR) : value;
            boolean scaled = column.type().kind() == Kind.DECIMAL && value instanceof BigDecimal;
            Object fitted = scaled && column.type().precision() != DataType.UNLIMITED
                    ? ((BigDecimal) value).setScale(column.type().scale(), java.math.RoundingMode.FLOOR)
                    : exact;
            return CanonicalForm.of(column.type(), fitted);
        } catch (InexactValueException e) {
            return null;
        }
    }

    private boolean fits(Object value) {
        int most = column.type().length();
        if (most != DataType.UNLIMITED && value instanceof String text && text.length() > most) {
            return false;
        }
        if (most != DataType.UNLIMITED && value instanceof byte[] bytes && bytes.length > most) {
            return false;
        }
        List<String> labels = column.type().labels();
        if (value instanceof String text && !labels.isEmpty() && !labels.contains(text)) {
            return false;
        }
        if (column.type().kind() == Kind.JSON
                && value instanceof String text
                && Json.read(text).isEmpty()) {
            return false;
        }
        return canonical(value) != null;
    }

    int position() {
        return position;
    }
}
