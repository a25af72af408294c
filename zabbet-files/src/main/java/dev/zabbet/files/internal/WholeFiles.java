package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Files and folders that are written beside their places, under names that end in {@code .part}, and moved there when all are
 * complete. What a killed process left of such names is written over. Not thread-safe.
 */
public final class WholeFiles implements AutoCloseable {
    private final Map<Path, Path> moves = new LinkedHashMap<>();
    private @Nullable Writer open;

    /** Begins a file of text; the one before is closed. */
    public Writer begin(Path file) {
        try {
            closeOpen();
            Path beside = beside(file);
            Files.createDirectories(beside.toAbsolutePath().getParent());
            Writer writer = Files.newBufferedWriter(beside);
            open = writer;
            moves.put(file, beside);
            return writer;
        } catch (IOException e) {
            throw cannot(file, e);
        }
    }

    /** Writes a file into a folder that is replaced as a whole. */
    void write(Path folder, String name, byte[] content) {
        try {
            Path beside = beside(folder);
            if (!moves.containsKey(folder)) {
                delete(beside);
                moves.put(folder, beside);
            }
            Files.createDirectories(beside);
            Files.write(beside.resolve(name), content);
        } catch (IOException e) {
            throw cannot(folder, e);
        }
    }

    /** Appends to the file that was begun last. */
    void append(CharSequence text) {
        Writer writer = open;
        if (writer == null) {
            throw new IllegalStateException("no file was begun");
        }
        try {
            writer.append(text);
        } catch (IOException e) {
            throw cannot(List.copyOf(moves.keySet()).get(moves.size() - 1), e);
        }
    }

    private static Path beside(Path file) {
        return file.resolveSibling(file.getFileName() + ".part");
    }

    /** Moves everything to its place. */
    public void end() {
        List<Path> done = new ArrayList<>();
        try {
            closeOpen();
            for (Map.Entry<Path, Path> move : moves.entrySet()) {
                if (Files.isDirectory(move.getKey())) {
                    delete(move.getKey());
                }
                Files.move(
                        move.getValue(),
                        move.getKey(),
                        StandardCopyOption.REPLACE_EXISTING,
                        StandardCopyOption.ATOMIC_MOVE);
                done.add(move.getKey());
            }
        } catch (IOException e) {
            throw done.isEmpty()
                    ? cannot(moves.keySet().iterator().next(), e)
                    : new ZabbetException(
                            "Not all files could be put in their places; these were: " + done + ". " + e, e);
        }
        moves.clear();
    }

    private void closeOpen() throws IOException {
        Writer writer = open;
        open = null;
        if (writer != null) {
            writer.close();
        }
    }

    private static void delete(Path path) throws IOException {
        if (!Files.exists(path)) {
            return;
        }
        try (Stream<Path> all = Files.walk(path)) {
            for (Path one : all.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(one);
            }
        }
    }

    private static ZabbetException cannot(Path file, IOException e) {
        return new ZabbetException("'" + file + "' cannot be written, and was not changed: " + e, e);
    }

    @Override
    public void close() {
        try {
            closeOpen();
        } catch (IOException e) {
            // a full disk says so again when what is buffered is written; the file is given up anyhow
        }
        try {
            for (Path beside : moves.values()) {
                delete(beside);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
