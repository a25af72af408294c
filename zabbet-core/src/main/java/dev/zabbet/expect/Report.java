package dev.zabbet.expect;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.opentest4j.AssertionFailedError;

/** Writes the text of a failed expectation. */
final class Report {
    private static final int MOST_ROWS = 10;
    private static final int MOST_CELL = 40;

    private final StringBuilder text = new StringBuilder();
    private final List<String> wanted = new ArrayList<>();
    private final List<String> found = new ArrayList<>();

    Report(String headline) {
        text.append(headline).append('\n');
    }

    /** Names a row by its key: {@code stay 7}, {@code room 1/2}; by all that it holds where there is no key. */
    static String name(Table table, Row row) {
        if (table.keyColumns().isEmpty()) {
            return table.name() + " " + row;
        }
        return table.name() + " "
                + table.keyColumns().stream().map(k -> Text.cell(row.get(k))).collect(Collectors.joining("/"));
    }

    /** Adds rows that are stored, but not as expected: column by column, only where they differ. */
    void different(List<Pairing.Pair> pairs, String foundTitle) {
        for (Pairing.Pair pair : first(pairs)) {
            List<String[]> lines = new ArrayList<>();
            lines.add(new String[] {name(pair.expected().table, pair.stored()), foundTitle, "expected"});
            for (Column column : pair.differences()) {
                String stored = Text.cell(pair.stored().get(column.name()));
                String expected = pair.expected().wanted(column);
                lines.add(new String[] {"  " + column.name(), stored, expected});
                wanted.add(column.name() + " = " + expected);
                found.add(column.name() + " = " + stored);
            }
            grid(lines);
            looksLike(pair.expected(), pair.differences(), pair.stored());
        }
        more(pairs.size());
    }

    /** Adds a changed row that is not as expected, with what it was before. */
    void changedDifferently(Change.Changed change, ExpectedRow expected, List<Column> differences) {
        List<String[]> lines = new ArrayList<>();
        lines.add(new String[] {name(change.table(), change.after()), "before", "after", "expected"});
        for (Column column : differences) {
            String after = Text.cell(change.after().get(column.name()));
            lines.add(new String[] {
                "  " + column.name(), Text.cell(change.before().get(column.name())), after, expected.wanted(column)
            });
            wanted.add(column.name() + " = " + expected.wanted(column));
            found.add(column.name() + " = " + after);
        }
        grid(lines);
        looksLike(expected, differences, change.after());
    }

    /** Says below a row what its differences look like, where that is known. */
    private void looksLike(ExpectedRow expected, List<Column> differences, Row stored) {
        differences.forEach(column -> expected.knownDifference(column, stored)
                .ifPresent(known -> text.append("    (").append(known).append(")\n")));
    }

    /** Adds expected rows for which nothing similar is there. */
    void nowhere(List<ExpectedRow> rows, String title) {
        if (!rows.isEmpty()) {
            text.append("\n  ").append(title).append('\n');
        }
        for (ExpectedRow row : first(rows)) {
            text.append("    ")
                    .append(row.table.name())
                    .append(" with ")
                    .append(row.describe())
                    .append('\n');
            wanted.add(row.describe());
            found.add("(none)");
        }
        more(rows.size());
    }

    /** Adds rows that are there and should not be. */
    void rows(Table table, List<Row> rows, List<String> columns, String title) {
        if (!rows.isEmpty()) {
            text.append("\n  ").append(title).append('\n');
        }
        for (Row row : first(rows)) {
            String shown =
                    columns.stream().map(c -> c + "=" + Text.cell(row.get(c))).collect(Collectors.joining(", "));
            text.append("    ")
                    .append(name(table, row))
                    .append(": ")
                    .append(shown)
                    .append('\n');
            wanted.add("(none)");
            found.add(shown);
        }
        more(rows.size());
    }

    /** Adds a list of what an act left. */
    void changes(String title, List<Change> changes) {
        text.append("\n  ").append(title).append('\n');
        for (Change change : first(changes)) {
            text.append("    ").append(describe(change)).append('\n');
        }
        more(changes.size());
    }

    void note(String line) {
        text.append('\n').append(line).append('\n');
    }

    void compare(String expected, String actual) {
        wanted.add(expected);
        found.add(actual);
    }

    static String describe(Change change) {
        if (change instanceof Change.Changed changed) {
            return name(change.table(), changed.after()) + " changed: "
                    + changed.columns().stream()
                            .map(c -> c + " " + Text.cell(changed.before().get(c)) + " → "
                                    + Text.cell(changed.after().get(c)))
                            .collect(Collectors.joining(", "));
        }
        String verb = change instanceof Change.Added ? " added: " : " removed: ";
        return name(change.table(), change.row()) + verb + contents(change.table(), change.row());
    }

    private static String contents(Table table, Row row) {
        return table.columns().stream()
                .map(Column::name)
                .filter(c -> !table.keyColumns().contains(c) && row.get(c) != null)
                .map(c -> c + "=" + Text.cell(row.get(c)))
                .collect(Collectors.joining(", "));
    }

    AssertionFailedError failure(@Nullable Long variation) {
        if (variation != null) {
            text.append("\nVariation ").append(variation).append('.');
        }
        return new AssertionFailedError(
                text.toString().stripTrailing() + "\n", String.join("\n", wanted), String.join("\n", found));
    }

    private static <E> List<E> first(List<E> all) {
        return all.subList(0, Math.min(all.size(), MOST_ROWS));
    }

    private void more(int all) {
        more(all, MOST_ROWS);
    }

    /** Says how many there are beyond those shown. */
    void more(long all, int shown) {
        if (all > shown) {
            text.append("    … and ")
                    .append(Words.count(all - shown, "more row"))
                    .append('\n');
        }
    }

    private void grid(List<String[]> lines) {
        text.append('\n');
        int columns = lines.get(0).length;
        int[] widths = new int[columns];
        for (String[] line : lines) {
            for (int c = 0; c < columns; c++) {
                widths[c] = Math.max(widths[c], Math.min(MOST_CELL, line[c].length()));
            }
        }
        for (String[] line : lines) {
            StringBuilder row = new StringBuilder("  ");
            for (int c = 0; c < columns; c++) {
                row.append(line[c]);
                if (c < columns - 1) {
                    row.append(" ".repeat(Math.max(0, widths[c] - line[c].length()) + 3));
                }
            }
            text.append(row.toString().stripTrailing()).append('\n');
        }
    }
}
