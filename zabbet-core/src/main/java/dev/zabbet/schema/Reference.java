package dev.zabbet.schema;

import java.util.List;

/**
 * A reference (foreign key) from the rows of one table to those of another, or of the same.
 *
 * @param name the constraint's name; empty if the database gives none
 * @param columns the referring columns, in the constraint's order
 * @param target the name of the table referred to
 * @param targetColumns the columns referred to, in the same order
 * @param onDelete what happens to referring rows when the row referred to is deleted
 * @param onUpdate what happens to referring rows when its key is updated
 * @param deferrable whether the check can wait until the transaction commits
 */
public record Reference(
        String name,
        List<String> columns,
        String target,
        List<String> targetColumns,
        Action onDelete,
        Action onUpdate,
        boolean deferrable) {

    /** What a database does to referring rows. */
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

    /** Copies the lists. */
    public Reference {
        columns = List.copyOf(columns);
        targetColumns = List.copyOf(targetColumns);
    }

    /** Returns {@code "hut_id → hut"}, for messages and listings. */
    public String describe() {
        String from = columns.size() == 1 ? columns.get(0) : "(" + String.join(", ", columns) + ")";
        return from + " → " + target;
    }
}
