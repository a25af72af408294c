package dev.zabbet.cli;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.CsvNotation;
import dev.zabbet.files.internal.RowsAsJson;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Rows that were looked at, for people and for programs.
 *
 * @param columns the columns to show
 */
record LookForms(List<String> columns, List<Row> rows) {
    private static final int LONG = 40;

    void print(Terminal paper, String what, boolean more, boolean whole) {
        String number = Words.count(rows.size(), "row");
        if (more) {
            number = rows.size() == 1 ? "the first row" : "the first " + number;
        }
        paper.shown(paper.bold(what), ", " + number);
        if (!rows.isEmpty() && !columns.isEmpty()) {
            paper.rows(
                    "  ",
                    columns,
                    whole ? rows : rows.stream().map(LookForms::cut).toList());
        }
    }

    private static Row cut(Row row) {
        Row cut = row;
        for (String column : row.columns()) {
            if (row.get(column) instanceof String text && text.length() > LONG) {
                cut = cut.with(column, Words.cut(text, LONG));
            }
        }
        return cut;
    }

    String json() {
        return OutputOptions.json(Map.of("rows", rows.stream().map(this::values).toList())) + "\n";
    }

    private Map<String, @Nullable Object> values(Row row) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>(RowsAsJson.of(row));
        values.keySet().retainAll(columns);
        Map<String, @Nullable Object> ordered = new LinkedHashMap<>();
        columns.forEach(column -> ordered.put(column, values.get(column)));
        return ordered;
    }

    /** Null is an empty field, and all else in quotes, an empty text too: as {@code zabbet load} reads them. */
    String csv() {
        StringBuilder text = new StringBuilder();
        text.append(CsvNotation.FORMAT.format(columns.toArray())).append('\n');
        for (Row row : rows) {
            text.append(CsvNotation.FORMAT.format(plain(row, "CSV").toArray())).append('\n');
        }
        return text.toString();
    }

    String markdown() {
        StringBuilder text = new StringBuilder();
        line(text, columns);
        line(text, columns.stream().map(column -> "---").toList());
        for (Row row : rows) {
            line(
                    text,
                    plain(row, "a Markdown table").stream().map(LookForms::cell).toList());
        }
        return text.toString();
    }

    /** The values, if each is one text, number or null. */
    private List<@Nullable Object> plain(Row row, String form) {
        List<@Nullable Object> plain = new ArrayList<>();
        values(row).forEach((column, value) -> {
            if (value instanceof List<?>) {
                throw new ZabbetException("Column " + column + " holds arrays, and " + form
                        + " has no form for them. Name the other columns, or take --json.");
            }
            plain.add(value);
        });
        return plain;
    }

    /** Plain data, or, where a cell would read it otherwise, the words that mean it. */
    private static String cell(@Nullable Object value) {
        if (value == null) {
            return "`null`";
        }
        String text = value.toString();
        boolean readsAsItIs = text.equals(text.strip()) && text.lines().count() <= 1 && !text.contains("`");
        return readsAsItIs ? text.replace("|", "\\|") : "`pattern " + quoted(text) + "`";
    }

    /** A regular expression for the text that has neither a bar, a backtick nor a line's end in it. */
    private static String quoted(String text) {
        StringBuilder pattern = new StringBuilder();
        text.codePoints().forEach(c -> {
            if (Character.isLetterOrDigit(c)) {
                pattern.appendCodePoint(c);
            } else {
                pattern.append(String.format("\\x{%x}", c));
            }
        });
        return pattern.toString();
    }

    private static void line(StringBuilder text, List<String> cells) {
        text.append("| ").append(String.join(" | ", cells)).append(" |\n");
    }
}
