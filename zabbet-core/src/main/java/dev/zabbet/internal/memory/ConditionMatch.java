package dev.zabbet.internal.memory;

import dev.zabbet.internal.check.LikePattern;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.store.Condition;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Evaluates conditions over rows in memory, with SQL's three truth values: null stands for unknown. */
final class ConditionMatch {
    private ConditionMatch() {}

    static boolean holds(Condition where, Function<String, @Nullable Object> row) {
        return Boolean.TRUE.equals(truth(where, row));
    }

    private static @Nullable Boolean truth(Condition where, Function<String, @Nullable Object> row) {
        if (where instanceof Condition.Equal equal) {
            Object value = row.apply(equal.column());
            return (value == null && equal.value() != null)
                    ? null
                    : (Boolean) ValueEquality.values(equal.value(), value);
        }
        if (where instanceof Condition.Compared compared) {
            Object value = row.apply(compared.column());
            return value == null
                    ? null
                    : (Boolean) compared.comparison().holds(Ordering.compare(value, compared.value()));
        }
        if (where instanceof Condition.Between between) {
            Object value = row.apply(between.column());
            return value == null
                    ? null
                    : (Boolean) (value instanceof Long number && number >= between.least() && number <= between.most());
        }
        if (where instanceof Condition.OneOf oneOf) {
            Object value = row.apply(oneOf.column());
            boolean found = oneOf.values().stream().anyMatch(v -> ValueEquality.values(v, value));
            boolean compared = oneOf.values().stream().anyMatch(v -> v != null);
            if (found) {
                return Boolean.TRUE;
            }
            if (value == null && compared) {
                return null;
            }
            return Boolean.FALSE;
        }
        if (where instanceof Condition.Like like) {
            Object value = row.apply(like.column());
            return value == null
                    ? null
                    : (Boolean) LikePattern.of(like.pattern(), like.ignoreCase())
                            .matcher(value.toString())
                            .matches();
        }
        if (where instanceof Condition.Not not) {
            Boolean part = truth(not.part(), row);
            return part == null ? null : (Boolean) !part;
        }
        boolean isAnd = where instanceof Condition.And;
        boolean unknown = false;
        for (Condition part : isAnd ? ((Condition.And) where).parts() : ((Condition.Or) where).parts()) {
            Boolean truth = truth(part, row);
            if (truth == null) {
                unknown = true;
            } else if (truth != isAnd) {
                return truth;
            }
        }
        return unknown ? null : (Boolean) isAnd;
    }
}
