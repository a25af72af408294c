package dev.zabbet.schema;

import java.util.List;
import java.util.Optional;

/**
 * A primary key, unique constraint or unique index.
 *
 * @param name the constraint's or index's name; empty if the database gives none
 * @param columns the names of its columns in key order; of an index on expressions those that are plain columns
 * @param expressions the SQL text of what is indexed beyond plain columns; empty for a plain key
 * @param condition the SQL text of the condition that limits it to some rows (a partial index), if there is one
 * @param nullsDistinct whether a null is different from every other null, as it is unless a key says {@code NULLS NOT
 *     DISTINCT} (SQL:2023)
 */
public record UniqueKey(
        String name,
        List<String> columns,
        List<String> expressions,
        Optional<String> condition,
        boolean nullsDistinct) {
    /**
     * Copies the lists.
     *
     * @param name the constraint's or index's name
     * @param columns the columns' names, as the table has them
     * @param expressions expressions in it, as the database writes them
     * @param condition of a partial key the condition that rows have to meet
     * @param nullsDistinct whether rows with a null among these columns never count as equal
     */
    public UniqueKey {
        columns = List.copyOf(columns);
        expressions = List.copyOf(expressions);
    }

    /**
     * A key to which nulls are distinct.
     *
     * @param name the constraint's or index's name
     * @param columns the columns' names, as the table has them
     * @param expressions expressions in it, as the database writes them
     * @param condition of a partial key the condition that rows have to meet
     */
    public UniqueKey(String name, List<String> columns, List<String> expressions, Optional<String> condition) {
        this(name, columns, expressions, condition, true);
    }

    /**
     * A plain key: all rows, columns only.
     *
     * @param name the constraint's or index's name
     * @param columns the columns' names, as the table has them
     */
    public UniqueKey(String name, List<String> columns) {
        this(name, columns, List.of(), Optional.empty());
    }

    /** {@return whether all rows are unique by the columns alone} */
    public boolean isPlain() {
        return expressions.isEmpty() && condition.isEmpty();
    }
}
