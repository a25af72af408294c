package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.ExtractSummary;
import dev.zabbet.extract.ExtractTarget;
import dev.zabbet.extract.Masking;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.internal.extract.Extraction;
import dev.zabbet.jdbc.internal.extract.SqlTarget;
import java.nio.file.Path;
import javax.sql.DataSource;

/**
 * Takes extracts: small, referentially closed parts of databases. Stateless and thread-safe.
 *
 * <pre>{@code
 * ExtractSummary summary = Extracts.take(
 *         staging,
 *         Extract.rows("guest", 10).below("stay_guest"),
 *         Masking.standard(),
 *         ExtractFiles.document(Path.of("seeds/guests.yaml")));
 * }</pre>
 */
public final class Extracts {
    private Extracts() {}

    /**
     * Takes an extract. The database is only read, in one snapshot; it need not be dedicated to tests, and a user who may only read,
     * or a standby, is enough.
     *
     * @param from the database
     * @param extract which rows
     * @param masking what becomes of personal values
     * @param target where the rows are written; it is closed in any case
     * @return what was taken, and why
     * @throws ZabbetException if it cannot be taken, or somebody has to decide what is personal; nothing was written then
     */
    public static ExtractSummary take(DataSource from, Extract extract, Masking masking, ExtractTarget target) {
        Words.notNull(from, "from", "Extracts.take");
        Words.notNull(extract, "extract", "Extracts.take");
        Words.notNull(masking, "masking", "Extracts.take");
        return Extraction.take(from, extract, masking, Words.notNull(target, "target", "Extracts.take"));
    }

    /**
     * {@return a target that writes an extract as SQL for the very kind of database that it is taken from, with the keys of that, so
     * that the rows fit into an empty database only}
     *
     * @param file the file; it is replaced when the extract is complete
     */
    public static ExtractTarget sql(Path file) {
        return new SqlTarget(Words.notNull(file, "file", "Extracts.sql"));
    }
}
