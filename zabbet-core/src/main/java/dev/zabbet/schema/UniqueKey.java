package dev.zabbet.schema;

import java.util.List;

/**
 * A primary key or unique constraint.
 *
 * @param name the constraint's name; empty if the database gives none
 * @param columns the names of its columns in key order, at least one
 */
public record UniqueKey(String name, List<String> columns) {
    /** Copies the columns. */
    public UniqueKey {
        columns = List.copyOf(columns);
    }
}
