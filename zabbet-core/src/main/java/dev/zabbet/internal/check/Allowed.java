package dev.zabbet.internal.check;

import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What the checks of a table allow for one column, as far as conditions on that column alone tell: a list of values, a
 * range, and a range of lengths. The row as a whole is still to be tested.
 */
public final class Allowed {
    private @Nullable Set<Object> choices;
    private @Nullable BigDecimal least;
    private @Nullable BigDecimal most;
    private int shortest;
    private int longest = Integer.MAX_VALUE;

    private final Table table;
    private final Column column;

    private Allowed(Table table, Column column) {
        this.table = table;
        this.column = column;
    }

    /** Finds out what is allowed for a column. */
    public static Allowed of(Table table, Column column) {
        return PerTable.of(table, new Of(column.name()), Allowed.class, () -> read(table, column));
    }

    private record Of(String column) {}

    private static Allowed read(Table table, Column column) {
        Allowed allowed = new Allowed(table, column);
        for (Check check : table.checks()) {
            CheckCondition.of(table, check).expr().ifPresent(allowed::narrow);
        }
        return allowed;
    }

    /** Returns the only values allowed, in the order of the conditions; empty if they are not listed. */
    public List<Object> choices() {
        return choices == null ? List.of() : new ArrayList<>(choices);
    }

    /** Returns the least number allowed; null if there is no bound. */
    public @Nullable BigDecimal least() {
        return least;
    }

    /** Returns the greatest number allowed; null if there is no bound. */
    public @Nullable BigDecimal most() {
        return most;
    }

    /** Returns the fewest characters allowed. */
    public int shortest() {
        return shortest;
    }

    /** Returns the maximum number of characters. */
    public int longest() {
        return longest;
    }

    private void narrow(Expr expr) {
        if (expr instanceof Expr.And and) {
            and.parts().forEach(this::narrow);
        } else if (expr instanceof Expr.In in && isColumn(in.value())) {
            choose(in.choices());
        } else if (expr instanceof Expr.Or or) {
            narrowByAlternatives(or);
        } else if (expr instanceof Expr.Binary binary) {
            compare(binary.operator(), binary.left(), binary.right());
            compare(turned(binary.operator()), binary.right(), binary.left());
        }
    }

    /**
     * Of alternatives, allows what any of them allows: {@code x = 1 OR x = 2} lists values, and so does {@code (y > 0 AND
     * x = 1) OR (y > 0 AND x = 2)}. {@code x IS NULL OR …} says the rest about a value that is there.
     */
    private void narrowByAlternatives(Expr.Or or) {
        List<Allowed> each = new ArrayList<>();
        for (Expr part : or.parts()) {
            if (!(part instanceof Expr.IsNull isNull && isColumn(isNull.value()))) {
                Allowed alternative = new Allowed(table, column);
                alternative.narrow(part);
                each.add(alternative);
            }
        }
        if (each.isEmpty()) {
            return;
        }
        if (each.stream().allMatch(one -> one.choices != null)) {
            Set<Object> any = new LinkedHashSet<>();
            each.forEach(one -> any.addAll(one.choices()));
            choose(any);
        }
        if (each.stream().allMatch(one -> one.least != null)) {
            each.stream()
                    .flatMap(one -> Stream.ofNullable(one.least))
                    .min(Comparator.naturalOrder())
                    .ifPresent(any -> least = max(least, any));
        }
        if (each.stream().allMatch(one -> one.most != null)) {
            each.stream()
                    .flatMap(one -> Stream.ofNullable(one.most))
                    .max(Comparator.naturalOrder())
                    .ifPresent(any -> most = min(most, any));
        }
        shortest = Math.max(
                shortest, each.stream().mapToInt(one -> one.shortest).min().orElse(0));
        longest = Math.min(
                longest, each.stream().mapToInt(one -> one.longest).max().orElse(Integer.MAX_VALUE));
    }

    private void choose(List<Expr> listed) {
        Set<Object> values = new LinkedHashSet<>();
        for (Expr expr : listed) {
            if (!(expr instanceof Expr.Literal literal) || literal.value() == null) {
                return;
            }
            try {
                Object value = CanonicalForm.of(column.type(), literal.value());
                if (value != null) {
                    values.add(value);
                }
            } catch (InexactValueException e) {
                return;
            }
        }
        choose(values);
    }

    private void choose(Set<Object> values) {
        if (choices == null) {
            choices = values;
        } else {
            choices.retainAll(values);
        }
    }

    private void compare(String operator, Expr left, Expr right) {
        if (!(right instanceof Expr.Literal literal)) {
            return;
        }
        if (isColumn(left)) {
            if (operator.equals("=")) {
                choose(List.of(right));
            } else if (literal.value() instanceof BigDecimal bound) {
                bound(operator, bound);
            }
        } else if (left instanceof Expr.Call call
                && call.function().endsWith("length")
                && call.arguments().size() == 1
                && isColumn(call.arguments().get(0))
                && literal.value() instanceof BigDecimal bound) {
            boundLength(operator, bound.intValue());
        }
    }

    private void bound(String operator, BigDecimal bound) {
        BigDecimal step = BigDecimal.ONE.movePointLeft(Math.max(column.type().scale(), 0));
        switch (operator) {
            case ">" -> least = max(least, bound.add(step));
            case ">=" -> least = max(least, bound);
            case "<" -> most = min(most, bound.subtract(step));
            case "<=" -> most = min(most, bound);
            default -> {}
        }
    }

    private void boundLength(String operator, int bound) {
        switch (operator) {
            case ">" -> shortest = Math.max(shortest, bound + 1);
            case ">=" -> shortest = Math.max(shortest, bound);
            case "<" -> longest = Math.min(longest, bound - 1);
            case "<=" -> longest = Math.min(longest, bound);
            case "=" -> {
                shortest = Math.max(shortest, bound);
                longest = Math.min(longest, bound);
            }
            default -> {}
        }
    }

    private boolean isColumn(Expr expr) {
        return expr instanceof Expr.ColumnRef ref
                && table.column(ref.name()).filter(column::equals).isPresent();
    }

    private static String turned(String operator) {
        if (operator.startsWith("<") && !operator.equals("<>")) {
            return operator.replace('<', '>');
        }
        if (operator.startsWith(">")) {
            return operator.replace('>', '<');
        }
        return operator;
    }

    private static BigDecimal max(@Nullable BigDecimal a, BigDecimal b) {
        return a == null ? b : a.max(b);
    }

    private static BigDecimal min(@Nullable BigDecimal a, BigDecimal b) {
        return a == null ? b : a.min(b);
    }
}
