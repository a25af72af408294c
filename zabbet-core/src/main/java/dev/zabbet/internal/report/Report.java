package dev.zabbet.internal.report;

import dev.zabbet.error.ExpectationFailure;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.story.AskedAgain;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Writes the text of a failed expectation. */
public final class Report {
    private static final int MOST_ROWS = 10;

    private static final int MOST_LOOKED_AT = 2_000;

    private final ReportText sheet = new ReportText();
    private final List<String> wanted = new ArrayList<>();
    private final List<String> found = new ArrayList<>();

    public Report(String headline) {
        AskedAgain.requireReport();
        sheet.sentence(TextStyle.HEADLINE, headline);
    }

    /** Names a row by its key: {@code stay 7}, {@code room 1/2}; by all that it holds where there is no key. */
    public static String name(Table table, Row row) {
        if (table.keyColumns().isEmpty()) {
            return table.name() + " " + row;
        }
        return table.name() + " "
                + table.keyColumns().stream().map(k -> Text.cell(row.get(k))).collect(Collectors.joining("/"));
    }

    /** Adds rows that are stored, but not as expected: column by column, only where they differ. */
    public void different(List<Pairing.Pair> pairs, String foundTitle) {
        for (Pairing.Pair pair : first(pairs)) {
            List<String[]> lines = new ArrayList<>();
            List<String> remarks = new ArrayList<>();
            lines.add(new String[] {name(pair.expected().table, pair.stored()), foundTitle, "expected"});
            for (RowPart part : pair.differences()) {
                for (Excerpt.Named one : pair.expected().excerpts(part, pair.stored())) {
                    Excerpt excerpt = one.excerpt();
                    lines.add(new String[] {"  " + one.name(), excerpt.found(), excerpt.expected()});
                    compare(one.name() + " = " + excerpt.expected(), one.name() + " = " + excerpt.found());
                    excerpt.place().ifPresent(place -> remarks.add(one.name() + ": " + place));
                }
            }
            sheet.grid(lines, List.of(TextStyle.PLAIN, TextStyle.FOUND, TextStyle.EXPECTED));
            remark(remarks, pair.expected(), pair.differences(), pair.stored());
        }
        more(pairs.size());
        summary(pairs);
    }

    /** Of many rows that differ, in which columns they do. */
    private void summary(List<Pairing.Pair> pairs) {
        if (pairs.size() <= MOST_ROWS) {
            return;
        }
        Map<String, Integer> rows = new LinkedHashMap<>();
        pairs.forEach(pair -> pair.differences().forEach(part -> rows.merge(part.name(), 1, Integer::sum)));
        sheet.line(
                "    ",
                TextStyle.FAINT,
                "In all they differ in "
                        + Words.and(rows.entrySet().stream()
                                .map(e -> e.getKey() + " (" + Words.count(e.getValue(), "row") + ")")
                                .toList())
                        + ".");
    }

    /** Adds a changed row that is not as expected, with what it was before. */
    public void changedDifferently(Change.Changed change, ExpectedRow expected, List<RowPart> differences) {
        List<String[]> lines = new ArrayList<>();
        List<String> remarks = new ArrayList<>();
        lines.add(new String[] {name(change.table(), change.after()), "before", "after", "expected"});
        for (RowPart part : differences) {
            for (Excerpt.Named one : expected.excerpts(part, change.after())) {
                Excerpt excerpt = one.excerpt();
                String before = ExpectedRow.shown(one.part(), change.before());
                lines.add(new String[] {"  " + one.name(), before, excerpt.found(), excerpt.expected()});
                compare(one.name() + " = " + excerpt.expected(), one.name() + " = " + excerpt.found());
                excerpt.place().ifPresent(place -> remarks.add(one.name() + ": " + place));
            }
        }
        sheet.grid(lines, List.of(TextStyle.PLAIN, TextStyle.PLAIN, TextStyle.FOUND, TextStyle.EXPECTED));
        remark(remarks, expected, differences, change.after());
    }

    /** Says below a row where long values differ, what differences look like, and what the database made of others. */
    private void remark(List<String> remarks, ExpectedRow expected, List<RowPart> differences, Row stored) {
        differences.forEach(part -> expected.knownDifference(part, stored).ifPresent(remarks::add));
        expected.parts().stream()
                .filter(part -> !differences.contains(part))
                .forEach(part -> expected.kept(part, stored).ifPresent(remarks::add));
        remarks.forEach(remark -> sheet.line("    ", TextStyle.FAINT, "(" + remark + ")"));
    }

    /**
     * Adds expected rows that have no stored row beside them, each with the stored row that comes nearest.
     *
     * @param stored the rows looked at
     */
    public void nowhere(List<ExpectedRow> rows, String title, List<Row> stored) {
        if (!rows.isEmpty()) {
            sheet.end();
            sheet.line("  ", TextStyle.FAINT, title);
        }
        for (ExpectedRow row : first(rows)) {
            sheet.named("    ", row.table.name(), " with " + row.describe());
            compare(row.describe(), "(none)");
            nearest(row, stored);
        }
        more(rows.size());
    }

    private void nearest(ExpectedRow expected, List<Row> stored) {
        Row nearest = null;
        List<RowPart> fewest = expected.parts();
        for (Row row : stored.subList(0, Math.min(stored.size(), MOST_LOOKED_AT))) {
            List<RowPart> differences = expected.differences(row);
            if (differences.size() < fewest.size()) {
                nearest = row;
                fewest = differences;
            }
        }
        if (nearest != null) {
            Row row = nearest;
            String other = fewest.stream()
                    .map(part -> part.name() + " is " + ExpectedRow.shown(part, row))
                    .collect(Collectors.joining(" and "));
            sheet.line(
                    "      ",
                    TextStyle.FAINT,
                    "nearest: " + name(expected.table, row)
                            + (other.isEmpty() ? ", beside which another expected row stands" : ", but " + other));
        }
    }

    /** Adds rows that are there and should not be. */
    public void rows(Table table, List<Row> rows, List<String> columns, String title) {
        if (!rows.isEmpty()) {
            sheet.end();
            sheet.line("  ", TextStyle.FAINT, title);
        }
        for (Row row : first(rows)) {
            String shown =
                    columns.stream().map(c -> c + "=" + shown(table, row, c)).collect(Collectors.joining(", "));
            sheet.named("    ", name(table, row), ": " + shown);
            compare("(none)", shown);
        }
        more(rows.size());
    }

    /** Adds a list of what an act left. */
    public void changes(String title, List<Change> changes) {
        sheet.end();
        sheet.line("  ", TextStyle.FAINT, title);
        for (Change change : first(changes)) {
            sheet.named("    ", name(change), what(change));
        }
        more(changes.size());
    }

    /** Adds what changed beside those that were expected to. */
    public void beyond(List<OpenChanges.Beyond> rows) {
        sheet.end();
        sheet.line("  ", TextStyle.FAINT, "in expected rows");
        for (OpenChanges.Beyond row : first(rows)) {
            Table table = row.change().table();
            for (ChangedPart one : first(row.parts())) {
                String name = one.part().name();
                sheet.named(
                        "    ",
                        name(table, row.change().after()),
                        ": " + name + " " + one.word() + " as well: " + one.values(row.change()));
                compare(
                        name + " = "
                                + ExpectedRow.shown(one.part(), row.change().before()),
                        name + " = "
                                + ExpectedRow.shown(one.part(), row.change().after()));
            }
            if (row.parts().size() > MOST_ROWS) {
                sheet.line(
                        "    ",
                        TextStyle.FAINT,
                        "… and " + Words.count(row.parts().size() - MOST_ROWS, "more place"));
            }
        }
        more(rows.size());
        sheet.end();
        sheet.sentence(
                TextStyle.FAINT,
                (rows.stream().allMatch(row -> row.parts().stream()
                                        .allMatch(one -> one.part().isColumn()))
                                ? "Expect these columns too"
                                : "Expect these places too")
                        + ", or, if one is stamped at every change, call ignoring(\""
                        + rows.get(0).change().table().name() + "."
                        + rows.get(0).parts().get(0).part().name() + "\").");
    }

    public void note(String line) {
        sheet.end();
        sheet.sentence(TextStyle.FAINT, line);
    }

    public void compare(String expected, String actual) {
        wanted.add(expected);
        found.add(actual);
    }

    public static String describe(Change change) {
        return name(change) + what(change);
    }

    /** What a row without a key holds is told once. */
    private static String name(Change change) {
        boolean told = change.table().keyColumns().isEmpty() && !(change instanceof Change.Changed);
        return told ? change.table().name() : name(change.table(), change.row());
    }

    private static String what(Change change) {
        if (change instanceof Change.Changed changed) {
            return " changed: " + parts(changed);
        }
        return " " + change.word() + ": " + contents(change.table(), change.row());
    }

    private static String parts(Change.Changed changed) {
        List<ChangedPart> parts = ChangedPart.of(changed);
        String shown = first(parts).stream().map(part -> part.describe(changed)).collect(Collectors.joining(", "));
        return parts.size() > MOST_ROWS
                ? shown + ", … and " + Words.count(parts.size() - MOST_ROWS, "more change")
                : shown;
    }

    private static String shown(Table table, Row row, String name) {
        return ExpectedRow.shown(RowPart.of(table, name), row);
    }

    private static String brief(Table table, Row row, String column) {
        return Text.brief(DisplayValue.of(table.requireColumn(column), row.get(column)));
    }

    private static String contents(Table table, Row row) {
        return table.columns().stream()
                .map(Column::name)
                .filter(c -> !table.keyColumns().contains(c) && row.get(c) != null)
                .map(c -> c + "=" + brief(table, row, c))
                .collect(Collectors.joining(", "));
    }

    public ExpectationFailure failure(@Nullable Long variation) {
        return new ExpectationFailure(
                sheet.plain(), sheet.coloured(), String.join("\n", wanted), String.join("\n", found), variation);
    }

    private static <E> List<E> first(List<E> all) {
        return all.subList(0, Math.min(all.size(), MOST_ROWS));
    }

    private void more(int all) {
        more(all, MOST_ROWS);
    }

    /** Says how many there are beyond those shown. */
    public void more(long all, int shown) {
        if (all > shown) {
            sheet.line("    ", TextStyle.FAINT, "… and " + Words.count(all - shown, "more row"));
        }
    }
}
