package dev.zabbet.files.internal;

import dev.zabbet.seed.Seed;
import java.util.List;

/**
 * What a row document says.
 *
 * @param seed the rows to store
 * @param stored what should be stored
 * @param footprint what should have changed
 */
public record ParsedDocument(
        Seed seed, List<DocumentExpectation.OfTable> stored, DocumentExpectation.OfFootprint footprint) {
    public ParsedDocument {
        stored = List.copyOf(stored);
    }
}
