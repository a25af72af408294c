package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedNotation;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SourceLocation;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVParser;
import org.apache.commons.csv.CSVRecord;
import org.jspecify.annotations.Nullable;

/**
 * The rows of a table as CSV (RFC 4180): the file is named like the table, the first line names the columns. An empty field
 * is null, {@code ""} is empty text. A column named {@code label:} labels the rows. One named {@code amenities.floors} is a place in a
 * document: what reads as a number, true or false is that there, and an empty field leaves the place away. Stateless and thread-safe.
 */
public final class CsvNotation implements SeedNotation {
    static final String LABEL = "label:";

    /** How values are told from null: all are quoted. */
    public static final CSVFormat FORMAT = CSVFormat.RFC4180
            .builder()
            .setNullString("")
            .setQuoteMode(org.apache.commons.csv.QuoteMode.ALL_NON_NULL)
            .setIgnoreEmptyLines(true)
            .get();

    /** Called by the service loader. */
    public CsvNotation() {}

    @Override
    public boolean recognises(String name) {
        return name.toLowerCase(Locale.ROOT).endsWith(".csv");
    }

    @Override
    public Seed read(String name, String text) {
        String table = tableOf(name);
        List<SeedRow> rows = new ArrayList<>();
        List<String> columns = List.of();
        String content = text.startsWith("\uFEFF") ? text.substring(1) : text;
        ControlCharacters.refuse(name, content);
        try (CSVParser parser = CSVParser.parse(content, FORMAT)) {
            for (CSVRecord found : parser) {
                if (columns.isEmpty()) {
                    columns = header(name, found);
                } else {
                    rows.add(row(name, table, columns, found, parser.getCurrentLineNumber()));
                }
            }
        } catch (IOException | UncheckedIOException e) {
            throw new ZabbetException(name + " cannot be read as CSV: " + e.getMessage() + ".", e);
        }
        if (columns.isEmpty()) {
            throw new ZabbetException(name + ", line 1: the first line names the columns, and the file is empty.");
        }
        return Seed.of(rows);
    }

    /** Labels are kept in memory, and documents are put together; a file that has some is read as a whole. */
    @Override
    public Optional<Seed> readStreamed(Path file) {
        CsvRows rows = CsvRows.of(file);
        boolean held =
                rows.columns().stream().anyMatch(column -> column.equals(LABEL) || DocumentValues.isPlace(column));
        return held ? Optional.empty() : Optional.of(Seed.ofStreamed(rows));
    }

    /** Returns the file's name without its folder and ending. */
    static String tableOf(String name) {
        return name.replaceAll(".*[/\\\\]", "").replaceFirst("\\.[^.]*$", "");
    }

    static List<String> header(String name, CSVRecord found) {
        Set<String> columns = new LinkedHashSet<>();
        for (String column : found) {
            if (column == null || column.isBlank()) {
                throw new ZabbetException(name + ", line 1: column " + (columns.size() + 1) + " has no name.");
            }
            if (!columns.add(column.strip())) {
                throw new ZabbetException(
                        name + ", line 1: the column '" + Words.cut(column.strip(), 200) + "' stands twice.");
            }
        }
        return List.copyOf(columns);
    }

    private static SeedRow row(String name, String table, List<String> columns, CSVRecord found, long line) {
        String where = name + ", line " + line;
        requireFields(where, columns, found);
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        Optional<String> label = Optional.empty();
        for (int i = 0; i < columns.size(); i++) {
            if (columns.get(i).equals(LABEL)) {
                label = Optional.ofNullable(found.get(i));
            } else if (DocumentValues.isPlace(columns.get(i))) {
                Object text = found.get(i);
                if (text != null) {
                    values.put(columns.get(i), DocumentValues.written(found.get(i)));
                }
            } else {
                values.put(columns.get(i), found.get(i));
            }
        }
        return new SeedRow(table, label, Row.of(values), 1, new SourceLocation(where, ""), Map.of());
    }

    static void requireFields(String where, List<String> columns, CSVRecord found) {
        if (found.size() != columns.size()) {
            throw new ZabbetException(where + ": there " + (found.size() == 1 ? "is " : "are ")
                    + Words.count(found.size(), "field") + ", and the first line names "
                    + Words.count(columns.size(), "column") + ": " + Words.cut(String.join(", ", columns), 1_000)
                    + ".\n  | "
                    + Words.cut(
                            String.join(
                                    ",",
                                    found.toList().stream()
                                            .map(v -> v == null ? "" : v)
                                            .toList()),
                            1_000));
        }
    }
}
