package dev.zabbet.files;

import dev.zabbet.extract.ExtractTarget;
import dev.zabbet.files.internal.CsvTarget;
import dev.zabbet.files.internal.DocumentTarget;
import dev.zabbet.internal.text.Words;
import java.nio.file.Path;
import java.util.Set;

/** Where extracts are written as files: whole, or not at all. Stateless and thread-safe; what it returns is for one extract. */
public final class ExtractFiles {
    private ExtractFiles() {}

    /**
     * {@return a target that writes a row document in YAML, a line for each row, with labels in the place of keys}
     *
     * @param file the file; it is replaced when the extract is complete
     */
    public static ExtractTarget document(Path file) {
        return document(file, Integer.MAX_VALUE);
    }

    /**
     * {@return a target that writes a row document, with long values in files of their own in a folder beside it}
     *
     * @param file the file; it is replaced when the extract is complete, and so is the folder
     * @param longest how many characters or bytes a value in the document itself has at most, at least 1
     * @param usedTables tables whose rows may be there already when the document is loaded
     */
    public static ExtractTarget document(Path file, int longest, String... usedTables) {
        return new DocumentTarget(Words.notNull(file, "file", "ExtractFiles.document"), longest, Set.of(usedTables));
    }

    /**
     * {@return a target that writes a file in CSV for each table, with keys as they are in the database}
     *
     * @param folder the folder, which is made if it is not there; other files in it are left alone
     */
    public static ExtractTarget csv(Path folder) {
        return new CsvTarget(Words.notNull(folder, "folder", "ExtractFiles.csv"));
    }
}
