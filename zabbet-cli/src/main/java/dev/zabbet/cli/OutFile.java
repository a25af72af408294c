package dev.zabbet.cli;

import dev.zabbet.Stage;
import dev.zabbet.files.internal.WholeFiles;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.store.Load;
import java.nio.file.Path;

/** A file that rows are written to as SQL: whole or not at all. */
final class OutFile {
    private OutFile() {}

    static void write(Path file, Stage stage, Load rows) {
        try (WholeFiles files = new WholeFiles()) {
            Jdbc.writeInserts(stage, rows, files.begin(file));
            files.end();
        }
    }
}
