package dev.zabbet.store;

import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Which rows of a table are meant. Plain data: each store evaluates it in its own way. A comparison with null holds for no
 * row, as in SQL, but for {@link Equal}.
 */
public sealed interface Condition {
    /** Returns the condition that holds for all rows. */
    static Condition all() {
        return And.NOTHING_ASKED;
    }

    /** How two values compare. */
    enum Comparison {
        /** The column is less. */
        LESS("<"),
        /** The column is less or equal. */
        AT_MOST("<="),
        /** The column is greater. */
        GREATER(">"),
        /** The column is greater or equal. */
        AT_LEAST(">="),
        /** The column is there and another. */
        OTHER_THAN("<>");

        private final String sql;

        Comparison(String sql) {
            this.sql = sql;
        }

        /** Returns the operator, as SQL writes it. */
        public String sql() {
            return sql;
        }

        /** Tells whether a comparison's result, as {@link java.util.Comparator} gives it, is meant. */
        public boolean holds(int result) {
            return switch (this) {
                case LESS -> result < 0;
                case AT_MOST -> result <= 0;
                case GREATER -> result > 0;
                case AT_LEAST -> result >= 0;
                case OTHER_THAN -> result != 0;
            };
        }
    }

    /**
     * The column holds the value; for null, the column is null.
     *
     * @param column the column's name, as the table has it
     * @param value the value in the column's form in memory
     */
    record Equal(String column, @Nullable Object value) implements Condition {}

    /**
     * The column compares with the value in that way.
     *
     * @param column the column's name, as the table has it
     * @param comparison how
     * @param value the value in the column's form in memory
     */
    record Compared(String column, Comparison comparison, Object value) implements Condition {}

    /**
     * The column holds a number from {@code least} to {@code most}, both included.
     *
     * @param column the column's name, as the table has it
     * @param least the least number
     * @param most the greatest number
     */
    record Between(String column, long least, long most) implements Condition {}

    /**
     * The column holds one of the values; none holds for an empty list.
     *
     * @param column the column's name, as the table has it
     * @param values the values in the column's form in memory; null among them means that the column may be null
     */
    record OneOf(String column, List<@Nullable Object> values) implements Condition {
        /** Copies the values. */
        public OneOf {
            values = Collections.unmodifiableList(new ArrayList<>(values));
        }
    }

    /**
     * The column's text matches a pattern of SQL's LIKE: {@code %} stands for any text, {@code _} for one character, and a
     * backslash before either for itself.
     *
     * @param column the column's name, as the table has it
     * @param pattern the pattern
     * @param ignoreCase whether upper and lower case are the same
     */
    record Like(String column, String pattern, boolean ignoreCase) implements Condition {}

    /**
     * The part does not hold, and is not unknown because of a null.
     *
     * @param part the part
     */
    record Not(Condition part) implements Condition {}

    /**
     * Every part holds; without parts, all rows are meant.
     *
     * @param parts the parts
     */
    record And(List<Condition> parts) implements Condition {
        private static final Condition NOTHING_ASKED = new And(List.of());

        /** Copies the parts. */
        public And {
            parts = List.copyOf(parts);
        }
    }

    /**
     * At least one part holds; without parts, no row is meant.
     *
     * @param parts the parts
     */
    record Or(List<Condition> parts) implements Condition {
        /** Copies the parts. */
        public Or {
            parts = List.copyOf(parts);
        }
    }

    /** Returns the names of the columns in it, in their order there. */
    default Set<String> columns() {
        Set<String> names = new LinkedHashSet<>();
        if (this instanceof And and) {
            and.parts().forEach(part -> names.addAll(part.columns()));
        } else if (this instanceof Or or) {
            or.parts().forEach(part -> names.addAll(part.columns()));
        } else if (this instanceof Not not) {
            names.addAll(not.part().columns());
        } else if (this instanceof Equal equal) {
            names.add(equal.column());
        } else if (this instanceof Compared compared) {
            names.add(compared.column());
        } else if (this instanceof Between between) {
            names.add(between.column());
        } else if (this instanceof OneOf oneOf) {
            names.add(oneOf.column());
        } else if (this instanceof Like like) {
            names.add(like.column());
        }
        return names;
    }

    /** Returns a condition that holds where this one and another do. */
    default Condition and(Condition other) {
        List<Condition> parts = new ArrayList<>(this instanceof And and ? and.parts() : List.of(this));
        parts.addAll(other instanceof And and ? and.parts() : List.of(other));
        return parts.size() == 1 ? parts.get(0) : new And(parts);
    }

    /** Returns a condition that holds where this one or another does. */
    default Condition or(Condition other) {
        return new Or(List.of(this, other));
    }
}
