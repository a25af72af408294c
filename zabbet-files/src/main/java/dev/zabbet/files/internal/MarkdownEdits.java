package dev.zabbet.files.internal;

import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.Differences;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.List;

/** Mends a table in Markdown inside of a document, line by line. */
final class MarkdownEdits {
    private final TextEdits edits;
    private final List<Integer> rows = new ArrayList<>(); // their lines
    private final int header;

    MarkdownEdits(TextEdits edits, int from) {
        this.edits = edits;
        int line = from;
        while (line <= edits.lines() && edits.line(line).isBlank()) {
            line++;
        }
        this.header = line;
        for (line++; line <= edits.lines() && edits.line(line).strip().startsWith("|"); line++) {
            if (!edits.line(line).strip().matches("[|:\\s-]+")) {
                rows.add(line);
            }
        }
    }

    void mend(Table table, Differences differences, List<Row> beyond) {
        List<String> columns = cells(header);
        for (int i = 0; i < rows.size(); i++) {
            Differences.Pair pair = differences.pairs().get(i);
            if (pair.found().isEmpty()) {
                edits.removeLines(rows.get(i), rows.get(i));
            } else if (!pair.columns().isEmpty()) {
                List<String> cells = cells(rows.get(i));
                for (int c = 0; c < cells.size(); c++) {
                    RowPart part = RowPart.of(table, columns.get(c).strip());
                    if (pair.columns().contains(part.name())) {
                        cells.set(c, cell(part, pair.found().get(), cells.get(c).length()));
                    }
                }
                edits.replaceLine(rows.get(i), line(cells));
            }
        }
        int last = rows.isEmpty() ? header : rows.get(rows.size() - 1);
        for (Row row : beyond) {
            List<String> cells = columns.stream()
                    .map(c -> cell(RowPart.of(table, c.strip()), row, c.length()))
                    .toList();
            edits.addLine(last, line(cells).stripTrailing());
        }
    }

    /** Returns what stands between the bars, blanks and all. */
    private List<String> cells(int line) {
        String text = edits.line(line).strip();
        String inner = text.substring(1, text.endsWith("|") ? text.length() - 1 : text.length());
        return new ArrayList<>(List.of(inner.split("(?<!\\\\)\\|", -1)));
    }

    private String line(List<String> cells) {
        String first = edits.line(header);
        String indent = first.substring(0, first.length() - first.stripLeading().length());
        return indent + "|" + String.join("|", cells) + "|\n";
    }

    private static String cell(RowPart part, Row row, int width) {
        Object value = RowPart.of(List.of(part), row).at(0);
        String text;
        if (value == null) {
            text = "`null`";
        } else if (value instanceof String s) {
            text = s;
        } else {
            text = Text.cell(value);
        }
        String shown = " " + text.replace("|", "\\|") + " ";
        return shown + " ".repeat(Math.max(0, width - shown.length()));
    }
}
