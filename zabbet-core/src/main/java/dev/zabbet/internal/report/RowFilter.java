package dev.zabbet.internal.report;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Matcher;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Condition.Comparison;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** A value or matcher by which rows are looked for, as a condition that the store evaluates. */
public record RowFilter(Condition condition, String text) {

    public static RowFilter of(Table table, String name, @Nullable Object value) {
        RowPart part = RowPart.of(table, name);
        if (!part.isColumn()) {
            return inside(part, value);
        }
        Column column = part.column();
        String own = column.name();
        if (!(value instanceof Matcher matcher)) {
            Object canonical = ExpectedRow.canonical(table, column, value);
            return new RowFilter(
                    new Condition.Equal(own, canonical),
                    own + (value == null ? " is null" : " = " + Text.cell(canonical)));
        }
        return new RowFilter(condition(table, column, matcher), own + " " + matcher.describe());
    }

    private static RowFilter inside(RowPart part, @Nullable Object value) {
        if (part.path().isPattern()) {
            throw new ZabbetException(
                    "The path " + part.name() + " stands for several places; rows are looked for by one.");
        }
        if (value instanceof Matchers.OfColumn || value instanceof Matchers.OfRow) {
            throw refused((Matcher) value);
        }
        Object wanted = value instanceof Matcher ? value : part.plain(value);
        String text = part.name();
        if (value instanceof Matcher matcher) {
            text += (value instanceof Matchers.AsWritten ? " = " : " ") + matcher.describe();
        } else {
            text += value == null ? " is null" : " = " + RowPart.shown(wanted);
        }
        return new RowFilter(
                new Condition.Inside(part.column().name(), part.path().toString(), wanted), text);
    }

    private static Condition condition(Table table, Column column, Matcher matcher) {
        String name = column.name();
        if (matcher instanceof Matchers.NotNull) {
            return new Condition.Not(new Condition.Equal(name, null));
        }
        if (matcher instanceof Matchers.Compared compared) {
            return new Condition.Compared(name, compared.comparison(), bound(table, column, compared.value()));
        }
        if (matcher instanceof Matchers.Between between) {
            return new Condition.Compared(name, Comparison.AT_LEAST, bound(table, column, between.least()))
                    .and(new Condition.Compared(name, Comparison.AT_MOST, bound(table, column, between.most())));
        }
        if (matcher instanceof Matchers.OneOf oneOf) {
            List<@Nullable Object> values = new ArrayList<>();
            oneOf.values().forEach(v -> values.add(ExpectedRow.canonical(table, column, v)));
            return new Condition.OneOf(name, values);
        }
        if (matcher instanceof Matchers.Like like) {
            return new Condition.Like(name, like.pattern(), false);
        }
        throw refused(matcher);
    }

    private static ZabbetException refused(Matcher matcher) {
        return new ZabbetException("A row cannot be looked for by \"" + matcher.describe()
                + "\". where(column, …) takes a value, null, notNull, below, upTo, above, from, otherThan,"
                + " between, oneOf and like.");
    }

    private static Object bound(Table table, Column column, Object value) {
        return value instanceof Number && column.type().kind() == Kind.INTEGER
                ? new BigDecimal(value.toString())
                : value(table, column, value);
    }

    private static Object value(Table table, Column column, Object value) {
        return Objects.requireNonNull(ExpectedRow.canonical(table, column, value));
    }
}
