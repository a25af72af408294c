package dev.zabbet.expect;

import dev.zabbet.row.Row;
import dev.zabbet.schema.DataType;
import org.jspecify.annotations.Nullable;

/** Stands in an expected row where a value is not known exactly. Made by {@link Expected}. Immutable. */
public sealed interface Matcher
        permits Matchers.Any,
                Matchers.NotNull,
                Matchers.Near,
                Matchers.Pattern,
                Matchers.OneOf,
                Matchers.Between,
                Matchers.Compared,
                Matchers.Like,
                Matchers.OfColumn,
                Matchers.OfRow,
                Matchers.JsonPart,
                Matchers.Own {

    /**
     * Tells whether a stored value is one that was meant.
     *
     * @param type the column's type
     * @param stored the value in its form in memory; null for a null
     */
    boolean matches(DataType type, @Nullable Object stored);

    /**
     * Tells whether a stored value is one that was meant, in the row that it stands in.
     *
     * @param row the row, with all columns
     */
    default boolean matches(DataType type, @Nullable Object stored, Row row) {
        return matches(type, stored);
    }

    /** Returns what was meant, in a few words, for a report. */
    String describe();
}
