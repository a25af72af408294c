package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedNotation;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SourceLocation;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/** The rows of a table as a table in Markdown; the file is named like the table. Stateless and thread-safe. */
public final class MarkdownNotation implements SeedNotation {
    /** Called by the service loader. */
    public MarkdownNotation() {}

    @Override
    public boolean recognises(String name) {
        return name.toLowerCase(Locale.ROOT).endsWith(".md");
    }

    @Override
    public Seed read(String name, String text) {
        List<Row> read;
        try {
            read = new MarkdownTable().read(text);
        } catch (ZabbetException e) {
            throw new ZabbetException(name + ": " + e.getMessage(), e);
        }
        List<SeedRow> rows = new ArrayList<>();
        for (Row row : read) {
            int number = rows.size() + 1;
            for (String column : row.columns()) {
                if (row.get(column) instanceof Matcher matcher) {
                    throw new ZabbetException(name + ", row " + number + ": `" + matcher.describe()
                            + "` is for expected rows; a row to store has plain values or `null`.");
                }
            }
            rows.add(new SeedRow(
                    CsvNotation.tableOf(name),
                    Optional.empty(),
                    row,
                    1,
                    new SourceLocation(name + ", row " + number, row.toString()),
                    Map.of()));
        }
        return Seed.of(rows);
    }
}
