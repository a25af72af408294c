package dev.zabbet.seed;

import java.nio.file.Path;
import java.util.Optional;

/**
 * A way to write seeds in files, found by {@link java.util.ServiceLoader}; the files module brings row documents, CSV and
 * Markdown. Called when a seed is read. Implementations are stateless.
 */
public interface SeedNotation {
    /**
     * {@return whether a file is written in this notation, by its name}
     *
     * @param name the file's name
     */
    boolean recognises(String name);

    /**
     * Reads a seed.
     *
     * @param name the file's name, for messages
     * @param text what the file holds
     * @return the seed
     * @throws dev.zabbet.error.ZabbetException if it cannot be read; the message says where
     */
    Seed read(String name, String text);

    /**
     * Reads a large file without holding its rows, if this notation can.
     *
     * @param file the file
     * @return the seed; empty if the rows have to be read at once
     * @throws dev.zabbet.error.ZabbetException if it cannot be read; the message says where
     */
    default Optional<Seed> readStreamed(Path file) {
        return Optional.empty();
    }
}
