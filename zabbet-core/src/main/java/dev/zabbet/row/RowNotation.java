package dev.zabbet.row;

import java.util.List;

/**
 * A way to write rows as text, found by {@link java.util.ServiceLoader}; the files module brings Markdown tables. Called
 * when an expectation is given rows as text. Implementations are stateless.
 */
public interface RowNotation {

    /**
     * {@return whether a text is written in this notation, as far as can be seen without reading it whole}
     *
     * @param text what was given in the place of rows
     */
    boolean recognises(String text);

    /**
     * Reads rows: plain cells as text, others as null or as a {@link Matcher}.
     *
     * @param text what was given in the place of rows
     * @return the rows
     * @throws dev.zabbet.error.ZabbetException if the text cannot be read; the message says where
     */
    List<Row> read(String text);
}
