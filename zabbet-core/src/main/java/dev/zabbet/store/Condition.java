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
    /** {@return the condition that holds for all rows} */
    static Condition all() {
        return And.NOTHING_ASKED;
    }

    /**
     * Does something of its own for each kind of condition. A kind that is added is a method that is missing, so that no
     * store can forget it.
     *
     * @param <R> what it makes of a condition
     */
    interface Visitor<R> {
        /**
         * Visits a column that holds a value, or is null.
         *
         * @param equal the condition
         * @return what the visitor makes of it
         */
        R visitEqual(Equal equal);

        /**
         * Visits a column that compares with a value.
         *
         * @param compared the condition
         * @return what the visitor makes of it
         */
        R visitCompared(Compared compared);

        /**
         * Visits a column with a whole number between two.
         *
         * @param between the condition
         * @return what the visitor makes of it
         */
        R visitBetween(Between between);

        /**
         * Visits a column that holds one of several values.
         *
         * @param oneOf the condition
         * @return what the visitor makes of it
         */
        R visitOneOf(OneOf oneOf);

        /**
         * Visits a text that matches a pattern.
         *
         * @param like the condition
         * @return what the visitor makes of it
         */
        R visitLike(Like like);

        /**
         * Visits a place in a document that holds a value, or meets a matcher.
         *
         * @param inside the condition
         * @return what the visitor makes of it
         */
        R visitInside(Inside inside);

        /**
         * Visits a condition that does not hold.
         *
         * @param not the condition
         * @return what the visitor makes of it
         */
        R visitNot(Not not);

        /**
         * Visits parts that all hold.
         *
         * @param and the condition
         * @return what the visitor makes of it
         */
        R visitAnd(And and);

        /**
         * Visits parts of which one holds.
         *
         * @param or the condition
         * @return what the visitor makes of it
         */
        R visitOr(Or or);
    }

    /**
     * Lets a visitor do what it does for a condition of this kind.
     *
     * @param <R> what the visitor makes of a condition
     * @param visitor what is done for the kind
     * @return what the visitor makes of it
     */
    <R> R accept(Visitor<R> visitor);

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

        /** {@return the operator, as SQL writes it} */
        public String sql() {
            return sql;
        }

        /**
         * {@return whether a comparison's result, as {@link java.util.Comparator} gives it, is meant}
         *
         * @param result what a comparator says of the two
         */
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
    record Equal(String column, @Nullable Object value) implements Condition {
        @Override
        public <R> R accept(Visitor<R> visitor) {
            return visitor.visitEqual(this);
        }
    }

    /**
     * The column compares with the value in that way.
     *
     * @param column the column's name, as the table has it
     * @param comparison how
     * @param value the value in the column's form in memory
     */
    record Compared(String column, Comparison comparison, Object value) implements Condition {
        @Override
        public <R> R accept(Visitor<R> visitor) {
            return visitor.visitCompared(this);
        }
    }

    /**
     * The column holds a number from {@code least} to {@code most}, both included.
     *
     * @param column the column's name, as the table has it
     * @param least the least number
     * @param most the greatest number
     */
    record Between(String column, long least, long most) implements Condition {
        @Override
        public <R> R accept(Visitor<R> visitor) {
            return visitor.visitBetween(this);
        }
    }

    /**
     * The column holds one of the values; none holds for an empty list.
     *
     * @param column the column's name, as the table has it
     * @param values the values in the column's form in memory; null among them means that the column may be null
     */
    record OneOf(String column, List<@Nullable Object> values) implements Condition {
        /**
         * Copies the values.
         *
         * @param column the column's name
         * @param values the values; null may be among them
         */
        public OneOf {
            values = Collections.unmodifiableList(new ArrayList<>(values));
        }

        @Override
        public <R> R accept(Visitor<R> visitor) {
            return visitor.visitOneOf(this);
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
    record Like(String column, String pattern, boolean ignoreCase) implements Condition {
        @Override
        public <R> R accept(Visitor<R> visitor) {
            return visitor.visitLike(this);
        }
    }

    /**
     * At a place in the document of a column stands a value. What is not there counts as null.
     *
     * @param column the column's name, as the table has it; a column of JSON
     * @param path where, as it follows the column's name: {@code .guest.country}, {@code .guests[2].name}
     * @param wanted what {@link dev.zabbet.row.Row#document} would hold there, null, or a {@link dev.zabbet.row.Matcher}
     */
    record Inside(String column, String path, @Nullable Object wanted) implements Condition {
        @Override
        public <R> R accept(Visitor<R> visitor) {
            return visitor.visitInside(this);
        }
    }

    /**
     * The part does not hold, and is not unknown because of a null.
     *
     * @param part the part
     */
    record Not(Condition part) implements Condition {
        @Override
        public <R> R accept(Visitor<R> visitor) {
            return visitor.visitNot(this);
        }
    }

    /**
     * Every part holds; without parts, all rows are meant.
     *
     * @param parts the parts
     */
    record And(List<Condition> parts) implements Condition {
        private static final Condition NOTHING_ASKED = new And(List.of());

        /**
         * Copies the parts.
         *
         * @param parts the parts
         */
        public And {
            parts = List.copyOf(parts);
        }

        @Override
        public <R> R accept(Visitor<R> visitor) {
            return visitor.visitAnd(this);
        }
    }

    /**
     * At least one part holds; without parts, no row is meant.
     *
     * @param parts the parts
     */
    record Or(List<Condition> parts) implements Condition {
        /**
         * Copies the parts.
         *
         * @param parts the parts
         */
        public Or {
            parts = List.copyOf(parts);
        }

        @Override
        public <R> R accept(Visitor<R> visitor) {
            return visitor.visitOr(this);
        }
    }

    /** {@return the names of the columns in it, in their order there} */
    default Set<String> columns() {
        return accept(new Visitor<Set<String>>() {
            @Override
            public Set<String> visitEqual(Equal equal) {
                return Set.of(equal.column());
            }

            @Override
            public Set<String> visitCompared(Compared compared) {
                return Set.of(compared.column());
            }

            @Override
            public Set<String> visitBetween(Between between) {
                return Set.of(between.column());
            }

            @Override
            public Set<String> visitOneOf(OneOf oneOf) {
                return Set.of(oneOf.column());
            }

            @Override
            public Set<String> visitLike(Like like) {
                return Set.of(like.column());
            }

            @Override
            public Set<String> visitInside(Inside inside) {
                return Set.of(inside.column());
            }

            @Override
            public Set<String> visitNot(Not not) {
                return not.part().accept(this);
            }

            @Override
            public Set<String> visitAnd(And and) {
                return all(and.parts());
            }

            @Override
            public Set<String> visitOr(Or or) {
                return all(or.parts());
            }

            private Set<String> all(List<Condition> parts) {
                Set<String> names = new LinkedHashSet<>();
                parts.forEach(part -> names.addAll(part.accept(this)));
                return names;
            }
        });
    }

    /**
     * {@return a condition that holds where this one and another do}
     *
     * @param other the other condition
     */
    default Condition and(Condition other) {
        List<Condition> parts = new ArrayList<>(this instanceof And and ? and.parts() : List.of(this));
        parts.addAll(other instanceof And and ? and.parts() : List.of(other));
        return parts.size() == 1 ? parts.get(0) : new And(parts);
    }

    /**
     * {@return a condition that holds where this one or another does}
     *
     * @param other the other condition
     */
    default Condition or(Condition other) {
        return new Or(List.of(this, other));
    }
}
