package dev.zabbet.files.internal;

import java.util.List;

/** A part of a document as it is written, with its place. */
sealed interface DocumentNode {
    Spot spot();

    /** A place in the text, from 1. */
    record Spot(int line, int column) {}

    /**
     * A single value.
     *
     * @param text what is written, without quotes
     * @param plain whether it is written without quotes
     */
    record Scalar(String text, boolean plain, Spot spot) implements DocumentNode {
        /** Tells whether it stands for null (YAML 1.2.2, section 10.3.2, core schema). */
        boolean isNull() {
            return plain && (text.isEmpty() || text.equals("~") || text.equalsIgnoreCase("null"));
        }
    }

    /** A list. */
    record Items(List<DocumentNode> items, Spot spot) implements DocumentNode {}

    /** Named values, in order; no name twice. */
    record Fields(List<Field> fields, Spot spot) implements DocumentNode {}

    /** A named value. */
    record Field(Scalar name, DocumentNode value) {}
}
