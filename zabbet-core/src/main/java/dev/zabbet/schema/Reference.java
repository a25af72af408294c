package dev.zabbet.schema;

import java.util.List;

/**
 * A reference (foreign key) from the rows of one table to those of another, or of the same.
 *
 * @param name the constraint's name; empty if the database gives none
 * @param columns the referring columns, in the constraint's order
 * @param target the name of the table referred to
 * @param targetColumns the columns referred to, in the same order; a primary key or a unique one
 * @param onDelete what happens to referring rows when the row referred to is deleted
 * @param onUpdate what happens to referring rows when its key is updated
 * @param match when a reference of several columns is checked although some are null
 * @param deferral whether the check can wait until the transaction commits
 */
public record Reference(
        String name,
        List<String> columns,
        String target,
        List<String> targetColumns,
        Action onDelete,
        Action onUpdate,
        Match match,
        Deferral deferral) {

    /** The effect on referring rows. */
    public enum Action {
        /** Refuses the statement. */
        REFUSE,
        /** Does the same to the referring rows. */
        CASCADE,
        /** Sets the referring columns to null. */
        SET_NULL,
        /** Sets the referring columns to their defaults. */
        SET_DEFAULT
    }

    /** How nulls in references of several columns are taken (ISO 9075, MATCH). */
    public enum Match {
        /** One null, and nothing is checked. */
        SIMPLE,
        /** All columns are null, or none. */
        FULL
    }

    /** When a reference is checked. */
    public enum Deferral {
        /** After each statement. */
        NEVER,
        /** After each statement, unless the transaction asks for its end. */
        POSSIBLE,
        /** At the end of the transaction, unless it asks for each statement. */
        INITIALLY
    }

    /**
     * Copies the lists.
     *
     * @param name the constraint's name
     * @param columns the referring columns
     * @param target the table referred to
     * @param targetColumns the columns referred to, in the order of the referring ones
     * @param onDelete what a deletion of the row referred to does
     * @param onUpdate what a change of the key referred to does
     * @param match when a reference with nulls is checked
     * @param deferral whether its check can wait for the end of the transaction
     */
    public Reference {
        columns = List.copyOf(columns);
        targetColumns = List.copyOf(targetColumns);
    }

    /**
     * A reference that refuses changes of what it refers to and is checked after each statement.
     *
     * @param name the constraint's name
     * @param columns the referring columns
     * @param target the table referred to
     * @param targetColumns the columns referred to, in the order of the referring ones
     */
    public Reference(String name, List<String> columns, String target, List<String> targetColumns) {
        this(name, columns, target, targetColumns, Action.REFUSE, Action.REFUSE, Match.SIMPLE, Deferral.NEVER);
    }

    /** {@return whether the check can wait until the transaction commits} */
    public boolean isDeferrable() {
        return deferral != Deferral.NEVER;
    }

    /** {@return {@code "hut_id → hut"}, for messages and listings} */
    public String describe() {
        String from = columns.size() == 1 ? columns.get(0) : "(" + String.join(", ", columns) + ")";
        return from + " → " + target;
    }
}
