package dev.zabbet.schema;

import dev.zabbet.type.DataType;
import java.util.Optional;

/**
 * A column of a table.
 *
 * @param name the name as a person writes it
 * @param sqlName the exact name in the database
 * @param type what it holds
 * @param nullable whether null may be stored
 * @param defaultText the SQL text of the default, if the column has one; of a computed column the expression, where the
 *     database tells it
 * @param generation who makes its values
 * @param sequence the sequence that its numbers come from, quoted and qualified as SQL writes it, if it has a name
 * @param filled whether factories give it a value although null may be stored: classes of entities, which a schema can be read
 *     from, often do not say what the application's DDL says
 */
public record Column(
        String name,
        String sqlName,
        DataType type,
        boolean nullable,
        Optional<String> defaultText,
        Generation generation,
        Optional<String> sequence,
        boolean filled) {

    /**
     * A column that factories leave null if it may be.
     *
     * @param name the name that a person would write
     * @param sqlName the name in the database, as SQL has it
     * @param type the column's type
     * @param nullable whether it may be null
     * @param defaultText the default, as the database writes it
     * @param generation what the database does to fill it
     * @param sequence the sequence that numbers it, as SQL names it
     */
    public Column(
            String name,
            String sqlName,
            DataType type,
            boolean nullable,
            Optional<String> defaultText,
            Generation generation,
            Optional<String> sequence) {
        this(name, sqlName, type, nullable, defaultText, generation, sequence, false);
    }

    /**
     * A column whose numbers, if it has any, come from no sequence that has a name.
     *
     * @param name the name that a person would write
     * @param sqlName the name in the database, as SQL has it
     * @param type the column's type
     * @param nullable whether it may be null
     * @param defaultText the default, as the database writes it
     * @param generation what the database does to fill it
     */
    public Column(
            String name,
            String sqlName,
            DataType type,
            boolean nullable,
            Optional<String> defaultText,
            Generation generation) {
        this(name, sqlName, type, nullable, defaultText, generation, Optional.empty(), false);
    }

    /** {@return whether the database numbers the rows by this column, as an identity or from a sequence} */
    public boolean isNumbered() {
        return generation == Generation.IDENTITY
                || generation == Generation.IDENTITY_ALWAYS
                || generation == Generation.SEQUENCE;
    }

    /** {@return whether the database computes the value, so that it can never be written} */
    public boolean isComputed() {
        return generation == Generation.COMPUTED;
    }

    /** {@return whether a row needs a value for this column from whoever stores it} */
    public boolean isRequired() {
        return !nullable && generation == Generation.NONE && defaultText.isEmpty();
    }
}
