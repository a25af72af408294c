package dev.zabbet.internal.store;

import dev.zabbet.internal.check.LikePattern;
import dev.zabbet.internal.document.DocumentMatch;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.store.Condition;
import java.util.List;
import java.util.Objects;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Evaluates conditions over one row in memory, with SQL's three truth values. */
public final class ConditionMatch implements Condition.Visitor<ConditionMatch.Truth> {
    private static final Row NO_ROW = Row.of(List.of());

    private final Function<String, @Nullable Object> row;

    /** What SQL makes of a condition; a comparison with null is unknown. */
    public enum Truth {
        TRUE,
        FALSE,
        UNKNOWN;

        static Truth of(boolean holds) {
            return holds ? TRUE : FALSE;
        }

        Truth negated() {
            return switch (this) {
                case TRUE -> FALSE;
                case FALSE -> TRUE;
                case UNKNOWN -> UNKNOWN;
            };
        }
    }

    private ConditionMatch(Function<String, @Nullable Object> row) {
        this.row = row;
    }

    /** Tells whether a condition holds for the row whose values these are. */
    public static boolean holds(Condition where, Function<String, @Nullable Object> row) {
        return where.accept(new ConditionMatch(row)) == Truth.TRUE;
    }

    @Override
    public Truth visitEqual(Condition.Equal equal) {
        Object value = row.apply(equal.column());
        if (value == null && equal.value() != null) {
            return Truth.UNKNOWN;
        }
        return Truth.of(ValueEquality.values(equal.value(), value));
    }

    @Override
    public Truth visitCompared(Condition.Compared compared) {
        Object value = row.apply(compared.column());
        if (value == null) {
            return Truth.UNKNOWN;
        }
        return Truth.of(compared.comparison().holds(Ordering.compare(value, compared.value())));
    }

    @Override
    public Truth visitBetween(Condition.Between between) {
        Object value = row.apply(between.column());
        if (value == null) {
            return Truth.UNKNOWN;
        }
        return Truth.of(value instanceof Long number && number >= between.least() && number <= between.most());
    }

    @Override
    public Truth visitOneOf(Condition.OneOf oneOf) {
        Object value = row.apply(oneOf.column());
        if (oneOf.values().stream().anyMatch(one -> ValueEquality.values(one, value))) {
            return Truth.TRUE;
        }
        boolean compared = oneOf.values().stream().anyMatch(Objects::nonNull);
        return value == null && compared ? Truth.UNKNOWN : Truth.FALSE;
    }

    @Override
    public Truth visitLike(Condition.Like like) {
        Object value = row.apply(like.column());
        if (value == null) {
            return Truth.UNKNOWN;
        }
        return Truth.of(LikePattern.of(like.pattern(), like.ignoreCase())
                .matcher(value.toString())
                .matches());
    }

    @Override
    public Truth visitInside(Condition.Inside inside) {
        Object held = row.apply(inside.column());
        Object document = held == null
                ? null
                : Json.read(held.toString()).map(Json.Document::value).orElse(null);
        Object value = DocumentPath.read(inside.path(), inside.column() + inside.path())
                .in(document);
        return Truth.of(
                inside.wanted() instanceof Matcher matcher
                        ? DocumentMatch.matches(matcher, value, NO_ROW)
                        : Json.same(inside.wanted(), value));
    }

    @Override
    public Truth visitNot(Condition.Not not) {
        return not.part().accept(this).negated();
    }

    @Override
    public Truth visitAnd(Condition.And and) {
        return all(and.parts(), Truth.TRUE);
    }

    @Override
    public Truth visitOr(Condition.Or or) {
        return all(or.parts(), Truth.FALSE);
    }

    /** The first part that is the opposite of the neutral value decides; else an unknown one does. */
    private Truth all(List<Condition> parts, Truth neutral) {
        Truth all = neutral;
        for (Condition part : parts) {
            Truth truth = part.accept(this);
            if (truth == neutral.negated()) {
                return truth;
            }
            if (truth == Truth.UNKNOWN) {
                all = Truth.UNKNOWN;
            }
        }
        return all;
    }
}
