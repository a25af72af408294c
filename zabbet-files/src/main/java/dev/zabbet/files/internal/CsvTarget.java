package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.ExtractTarget;
import dev.zabbet.extract.ExtractedRow;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.nio.file.Path;
import java.util.HexFormat;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Writes an extract as a file in CSV for each table. */
public final class CsvTarget implements ExtractTarget {
    private final Path folder;
    private final WholeFiles files = new WholeFiles();
    private @Nullable Table table;

    public CsvTarget(Path folder) {
        this.folder = folder;
    }

    @Override
    public boolean wantsLabels() {
        return false;
    }

    @Override
    public void begin(Schema schema, List<Table> tables) {
        // a file begins with the first row of its table
    }

    @Override
    public void row(ExtractedRow row) {
        List<String> columns = row.row().columns();
        if (table == null || !table.equals(row.table())) {
            table = row.table();
            files.begin(folder.resolve(row.table().name() + ".csv"));
            files.append(CsvNotation.FORMAT.format(columns.toArray()) + "\n");
        }
        Object[] values = columns.stream()
                .map(column -> text(row.table(), column, row.row().get(column)))
                .toArray();
        files.append(CsvNotation.FORMAT.format(values) + "\n");
    }

    private static @Nullable Object text(Table table, String column, @Nullable Object value) {
        if (value instanceof byte[] bytes) {
            return "0x" + HexFormat.of().formatHex(bytes);
        }
        if (value instanceof List<?>) {
            throw new ZabbetException("Nothing was written: CSV has no lists, and " + table.name() + "." + column
                    + " holds some. Write a row document, or leave the column out.");
        }
        return value == null ? null : value.toString();
    }

    @Override
    public void end() {
        files.end();
    }

    @Override
    public void close() {
        files.close();
    }
}
