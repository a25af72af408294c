package dev.zabbet.factory;

import java.util.Optional;

/**
 * A document that breaks one keyword of its JSON Schema: what tests of unhappy paths feed in.
 *
 * @param place where it is broken, {@code guest.name} for example, of {@code required} the name that is missing; empty for the whole
 *     document
 * @param keyword the keyword that does not hold there
 * @param schemaPlace where that stands in the schema, as a JSON pointer in a fragment
 * @param document the document: a map, list, text, number or boolean; empty if it is null
 */
public record FlawedDocument(String place, String keyword, String schemaPlace, Optional<Object> document) {

    /** Returns what is wrong, as the name of a test. */
    @Override
    public String toString() {
        return (place.isEmpty() ? "document" : place) + ": " + keyword;
    }
}
