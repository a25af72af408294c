package dev.zabbet.cli;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.store.Load;
import java.io.IOException;
import java.io.Writer;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;

/** A file that rows are written to as SQL: whole or not at all. */
final class OutFile {
    private OutFile() {}

    static void write(Path file, Stage stage, Load rows) {
        Path whole = file.toAbsolutePath();
        try {
            Path beside = whole.resolveSibling(whole.getFileName() + ".part");
            try {
                try (Writer to = Files.newBufferedWriter(beside)) {
                    Jdbc.writeInserts(stage, rows, to);
                }
                Files.move(beside, whole, StandardCopyOption.REPLACE_EXISTING);
            } finally {
                Files.deleteIfExists(beside);
            }
        } catch (IOException e) {
            throw new ZabbetException("'" + file + "' cannot be written: " + e, e);
        }
    }
}
