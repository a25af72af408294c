package dev.zabbet.factory;

import dev.zabbet.internal.plan.FlawedObject;
import dev.zabbet.internal.plan.Recipe;
import dev.zabbet.row.Row;

/**
 * A row that breaks one constraint of its table and no other: what tests of unhappy paths feed in. Get it, with parents
 * stored for it, as a row by {@code stage.build(flawed)}, as an object by {@code stage.build(flawed, Stay.class)}, or as what
 * a client would send by {@code stage.payload(flawed)}.
 *
 * @param table the name of the table
 * @param kind what it breaks
 * @param constraint the name of the constraint, or of the column where the constraint has none
 * @param values the columns that make the flaw, as far as they are known before a row is there to collide with
 * @param sqlState the standard's class of the refusal (ISO 9075): 23502 for null, 23505 for a key that is there already,
 *     23503 for a reference to nothing, 23514 for a check, 22001 for a text too long, 22003 for a number beyond its
 *     column, 22018 for another type; databases that are less precise report 23000, or none
 * @param factory what makes the rest of the row
 */
public record Flawed(String table, Kind kind, String constraint, Row values, String sqlState, Factory<?> factory) {

    /** The constraints that a row can break. */
    public enum Kind {
        /** Null where none may be. */
        NULL,
        /** A text or bytes longer than the column. */
        LENGTH,
        /** A number beyond the column. */
        RANGE,
        /** A value of another type. */
        TYPE,
        /** A check constraint. */
        CHECK,
        /** A key that another row has. */
        UNIQUE,
        /** A reference to a row that is not there. */
        REFERENCE
    }

    /**
     * {@return whether objects of a type can hold the flaw: an {@code int} holds no null, a {@code LocalDate} no text}
     *
     * @param type the type of objects that the table's rows are for the application
     */
    public boolean fits(Class<?> type) {
        return FlawedObject.trouble(Recipe.of(factory), values, type).isEmpty();
    }

    /** Returns what is wrong, as the name of a test. */
    @Override
    public String toString() {
        return table + ": " + kind.name().toLowerCase(java.util.Locale.ROOT) + " " + constraint
                + (kind == Kind.UNIQUE ? "" : " " + values);
    }
}
