package dev.zabbet.store;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Which rows of a table are meant. Plain data: each store evaluates it in its own way. */
public sealed interface Condition {
    /** All rows. */
    Condition ALL = new And(List.of());

    /**
     * The column holds the value; for null, the column is null.
     *
     * @param column the column's name, as the table has it
     * @param value the value in the column's form in memory
     */
    record Equal(String column, @Nullable Object value) implements Condition {}

    /**
     * The column holds a number from {@code least} to {@code most}, both included.
     *
     * @param column the column's name, as the table has it
     * @param least the least number
     * @param most the greatest number
     */
    record Between(String column, long least, long most) implements Condition {}

    /**
     * Every part holds; without parts, all rows are meant.
     *
     * @param parts the parts
     */
    record And(List<Condition> parts) implements Condition {
        /** Copies the parts. */
        public And {
            parts = List.copyOf(parts);
        }
    }

    /** Returns a condition that holds where this one and another do. */
    default Condition and(Condition other) {
        List<Condition> parts = new ArrayList<>(this instanceof And and ? and.parts() : List.of(this));
        parts.addAll(other instanceof And and ? and.parts() : List.of(other));
        return parts.size() == 1 ? parts.get(0) : new And(parts);
    }
}
