package dev.zabbet.files.internal;

import dev.zabbet.row.Row;
import dev.zabbet.seed.Seed;
import java.util.List;
import java.util.Map;

/**
 * What a row document says.
 *
 * @param seed the rows to store
 * @param stored what should be stored
 * @param footprint what should have changed
 * @param defaults what all rows of a table have, by its name
 */
public record ParsedDocument(
        Seed seed,
        List<DocumentExpectation.OfTable> stored,
        DocumentExpectation.OfFootprint footprint,
        Map<String, Row> defaults) {
    public ParsedDocument {
        stored = List.copyOf(stored);
        defaults = Map.copyOf(defaults);
    }
}
