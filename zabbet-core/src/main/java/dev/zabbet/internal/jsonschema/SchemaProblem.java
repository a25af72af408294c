package dev.zabbet.internal.jsonschema;

import dev.zabbet.internal.document.DocumentPath;

/**
 * What a document breaks of its schema.
 *
 * @param at where in the document; of {@code required} the name that is missing
 * @param keyword the keyword that does not hold there
 * @param place where that stands in the schema, as a JSON pointer
 */
public record SchemaProblem(DocumentPath at, String keyword, String place) {}
