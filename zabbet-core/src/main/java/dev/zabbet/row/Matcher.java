package dev.zabbet.row;

import dev.zabbet.type.DataType;
import org.jspecify.annotations.Nullable;

/** Stands in an expected row where a value is not known exactly. Made by
 * {@code Expected}; asked by expectations, from any thread. Implementations are immutable. */
public interface Matcher {

    /**
     * {@return whether a stored value is one that was meant}
     *
     * @param type the column's type
     * @param stored the value in its form in memory; null for a null
     */
    boolean matches(DataType type, @Nullable Object stored);

    /**
     * {@return whether a stored value is one that was meant, in the row that it stands in}
     *
     * @param type the column's type
     * @param stored what the column holds; null for SQL's NULL
     * @param row the row, with all columns
     */
    default boolean matches(DataType type, @Nullable Object stored, Row row) {
        return matches(type, stored);
    }

    /** {@return what was meant, in a few words, for a report} */
    String describe();
}
