package dev.zabbet.files.internal;

import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedNotation;
import java.util.Locale;

/** Seeds as row documents in YAML or JSON. Stateless and thread-safe. */
public final class DocumentNotation implements SeedNotation {
    /** Called by the service loader. */
    public DocumentNotation() {}

    @Override
    public boolean recognises(String name) {
        String lower = name.toLowerCase(Locale.ROOT);
        return lower.endsWith(".yaml") || lower.endsWith(".yml") || lower.endsWith(".json");
    }

    @Override
    public Seed read(String name, String text) {
        return DocumentReader.read(name, text).seed();
    }
}
