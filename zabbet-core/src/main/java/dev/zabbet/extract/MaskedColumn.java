package dev.zabbet.extract;

import java.util.List;

/**
 * What became of a column in an extract.
 *
 * @param table the table
 * @param column the column
 * @param path the names, with dots between, that lead to the values inside of a JSON document; empty for the column itself
 * @param kind what its values are, such as {@code "phone number"}; empty if they were kept as they are
 * @param why how that is known, as a clause without a subject: {@code "called phone_no"}
 * @param values how many values were written; null is none
 * @param examples up to two replacements; no original is ever shown
 */
public record MaskedColumn(
        String table, String column, String path, String kind, String why, long values, List<String> examples) {

    /**
     * Copies the examples.
     *
     * @param table the table
     * @param column the column
     * @param path where the values are inside of a JSON document; empty for the column itself
     * @param kind what its values are; empty if they were kept
     * @param why how that is known
     * @param values how many values were written
     * @param examples up to two replacements
     */
    public MaskedColumn {
        examples = List.copyOf(examples);
    }

    /** {@return whether its values were replaced} */
    public boolean isMasked() {
        return !kind.isEmpty();
    }

    /** {@return the column with its table and path: {@code "guest.profile.phone"}} */
    public String name() {
        return table + "." + column + (path.isEmpty() ? "" : "." + path);
    }
}
