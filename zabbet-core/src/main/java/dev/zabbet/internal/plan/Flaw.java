package dev.zabbet.internal.plan;

import dev.zabbet.row.Row;

/**
 * What breaks one constraint.
 *
 * @param values the columns that break it
 * @param recipe makes the other columns
 */
public record Flaw(String table, Kind kind, String constraint, Row values, String sqlState, Recipe<?> recipe) {
    /** What is broken: the constants of {@code Flawed.Kind}. */
    public enum Kind {
        NULL,
        LENGTH,
        RANGE,
        TYPE,
        CHECK,
        UNIQUE,
        REFERENCE
    }
}
