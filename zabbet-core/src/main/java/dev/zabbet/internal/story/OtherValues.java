package dev.zabbet.internal.story;

import dev.zabbet.internal.check.Allowed;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.DataType;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/** Values that a column could hold in the place of the one that it holds: near ones and far ones. */
final class OtherValues {
    private static final int MOST = 4;

    private final Table table;
    private final Column column;
    private final List<@Nullable Object> found = new ArrayList<>();

    private OtherValues(Table table, Column column) {
        this.table = table;
        this.column = column;
    }

    /**
     * Returns a few other values; empty if none is known that the row could hold.
     *
     * @param row the row as it is
     * @param first what comes before all others; left out if it is the same as what the row holds
     */
    static List<@Nullable Object> of(Table table, Column column, Row row, List<@Nullable Object> first) {
        OtherValues others = new OtherValues(table, column);
        @Nullable Object value = row.get(column.name());
        first.forEach(other -> others.add(row, value, other));
        Allowed.of(table, column).choices().forEach(choice -> others.add(row, value, choice));
        if (value != null) {
            others.nearOrNone(value).forEach(other -> others.add(row, value, other));
        }
        if (column.nullable() && value != null) {
            others.add(row, value, null);
        }
        return others.found.size() > MOST ? others.found.subList(0, MOST) : others.found;
    }

    private void add(Row row, @Nullable Object value, @Nullable Object other) {
        boolean known = ValueEquality.values(value, other)
                || found.stream().anyMatch(earlier -> ValueEquality.values(earlier, other));
        if (!known && fits(other) && keepsChecks(row.with(column.name(), other))) {
            found.add(other);
        }
    }

    private boolean fits(@Nullable Object value) {
        DataType type = column.type();
        if (value instanceof String text && type.length() != DataType.UNLIMITED) {
            return text.codePointCount(0, text.length()) <= type.length();
        }
        if (value instanceof BigDecimal number && type.precision() != DataType.UNLIMITED) {
            return number.precision() - number.scale() <= type.precision() - type.scale();
        }
        return true;
    }

    private boolean keepsChecks(Row row) {
        return table.checks().stream()
                .map(check -> CheckCondition.of(table, check))
                .filter(check -> check.columns().contains(column.name()))
                .noneMatch(check ->
                        check.evaluate(at -> row.get(table.columns().get(at).name())) == CheckCondition.Verdict.BROKEN);
    }

    /** Beside the last moment that there is, there is none. */
    private List<Object> nearOrNone(Object value) {
        try {
            return near(value);
        } catch (DateTimeException | ArithmeticException e) {
            return List.of();
        }
    }

    private List<Object> near(Object value) {
        if (value instanceof Boolean truth) {
            return List.of(!truth);
        }
        if (value instanceof Long number) {
            return List.of(number + 1, number - 1, number + 1000);
        }
        if (value instanceof BigInteger number) {
            return List.of(number.add(BigInteger.ONE), number.subtract(BigInteger.ONE));
        }
        if (value instanceof BigDecimal number) {
            BigDecimal step = BigDecimal.ONE.movePointLeft(Math.max(0, number.scale()));
            return List.of(number.add(step), number.subtract(step), number.add(BigDecimal.TEN), number.negate());
        }
        if (value instanceof Double number) {
            return List.of(number + 1, -number - 1, number * 2 + 0.5);
        }
        if (value instanceof LocalDate date) {
            return List.of(date.plusDays(1), date.minusDays(1), date.plusYears(1));
        }
        if (value instanceof LocalDateTime time) {
            return List.of(time.plusSeconds(1), time.plusDays(1), time.minusYears(1));
        }
        if (value instanceof Instant time) {
            return List.of(time.plusSeconds(1), time.plus(Duration.ofDays(1)), time.minus(Duration.ofDays(366)));
        }
        if (value instanceof LocalTime time) {
            return List.of(time.plusSeconds(1), time.plusHours(5));
        }
        if (value instanceof UUID id) {
            return List.of(new UUID(id.getMostSignificantBits(), id.getLeastSignificantBits() ^ 1));
        }
        if (value instanceof byte[] bytes) {
            byte[] other = bytes.length == 0 ? new byte[1] : bytes.clone();
            other[0] ^= 1;
            return List.of(other);
        }
        if (value instanceof List<?> list) {
            return List.of(list.isEmpty() ? List.of("x") : list.subList(1, list.size()));
        }
        return value instanceof String text ? texts(text) : List.of();
    }

    private List<Object> texts(String text) {
        return switch (column.type().kind()) {
            case JSON -> List.of("{\"other\":1}", "[]");
            case TEXT, FIXED_TEXT ->
                text.isEmpty()
                        ? List.of("x")
                        : List.of(
                                text.substring(0, text.length() - 1) + (text.endsWith("x") ? "y" : "x"),
                                text + "x",
                                "x");
            default -> List.of(); // of an enumeration all choices are known
        };
    }
}
