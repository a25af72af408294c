package dev.zabbet.schema;

import java.util.Optional;

/**
 * A column of a table.
 *
 * @param name the name as a person writes it
 * @param sqlName the exact name in the database
 * @param type what it holds
 * @param nullable whether null may be stored
 * @param defaultText the SQL text of the default, if the column has one
 * @param generation who makes its values
 */
public record Column(
        String name,
        String sqlName,
        DataType type,
        boolean nullable,
        Optional<String> defaultText,
        Generation generation) {

    /** Tells whether the database numbers the rows by this column. */
    public boolean isIdentity() {
        return generation == Generation.IDENTITY || generation == Generation.IDENTITY_ALWAYS;
    }

    /** Tells whether the database computes the value, so that it can never be written. */
    public boolean isComputed() {
        return generation == Generation.COMPUTED;
    }

    /** Tells whether a row needs a value for this column from whoever stores it. */
    public boolean isRequired() {
        return !nullable && generation == Generation.NONE && defaultText.isEmpty();
    }
}
