package dev.zabbet.cli;

import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.apache.commons.csv.CSVFormat;
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
        Map<String, @Nullable Object> values = new LinkedHashMap<>(OutputOptions.of(row));
        values.keySet().retainAll(columns);
        Map<String, @Nullable Object> ordered = new LinkedHashMap<>();
        columns.forEach(column -> ordered.put(column, values.get(column)));
        return ordered;
    }

    /** Null is an empty field, and an empty text one in quotes, as {@code zabbet load} reads them. */
    String csv() {
        StringBuilder text = new StringBuilder();
        text.append(CSVFormat.DEFAULT.format(columns.toArray())).append('\n');
        for (Row row : rows) {
            text.append(CSVFormat.DEFAULT.format(values(row).values().toArray()))
                    .append('\n');
        }
        return text.toString();
    }

    String markdown() {
        StringBuilder text = new StringBuilder();
        line(text, columns);
        line(text, columns.stream().map(column -> "---").toList());
        for (Row row : rows) {
            line(text, values(row).values().stream().map(LookForms::cell).toList());
        }
        return text.toString();
    }

    private static String cell(@Nullable Object value) {
        return value == null
                ? "`null`"
                : String.valueOf(value).replace("\\", "\\\\").replace("|", "\\|");
    }

    private static void line(StringBuilder text, List<String> cells) {
        text.append("| ").append(String.join(" | ", cells)).append(" |\n");
    }
}
