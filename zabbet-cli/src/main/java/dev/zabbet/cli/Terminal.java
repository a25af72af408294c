package dev.zabbet.cli;

import dev.zabbet.error.ExpectationFailure;
import dev.zabbet.internal.text.Printable;
import dev.zabbet.internal.text.Width;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import java.io.Console;
import java.io.PrintWriter;
import java.util.ArrayList;
import java.util.List;
import picocli.CommandLine.Help.Ansi;

/** What commands print on: headings, grids and marks, in colour on a terminal only. */
final class Terminal {
    private final PrintWriter out;
    private final boolean colour;

    Terminal(PrintWriter out) {
        this.out = out;
        this.colour = Ansi.AUTO.enabled();
    }

    /** Tells whether somebody is watching: from JDK 22 on a console is there without a terminal too. */
    @SuppressWarnings("SystemConsoleNull") // which is what the method is about
    static boolean isThere() {
        Console console = System.console();
        if (console == null) {
            return false;
        }
        try {
            return (boolean) Console.class.getMethod("isTerminal").invoke(console);
        } catch (ReflectiveOperationException e) {
            return true; // before JDK 22
        }
    }

    /** Returns a report as it is printed. */
    String report(AssertionError failure) {
        return failure instanceof ExpectationFailure own && colour
                ? own.coloured().stripTrailing()
                : Printable.of(plain(failure));
    }

    /** Returns a report without colours. */
    static String plain(AssertionError failure) {
        String report = failure instanceof ExpectationFailure own ? own.plain() : String.valueOf(failure.getMessage());
        return report.stripTrailing();
    }

    /** Prints a line in which nothing is styled; what could steer a terminal is shown as escapes. */
    void line(String text) {
        out.println(Printable.of(text));
    }

    /** Prints what has been made printable already: styled pieces, or a report. */
    void shown(String... pieces) {
        out.println(String.join("", pieces));
    }

    void blank() {
        out.println();
    }

    void heading(String text) {
        out.println(styled("1;36", text));
    }

    String bold(String text) {
        return styled("1", text);
    }

    String faint(String text) {
        return styled("2", text);
    }

    String good(String text) {
        return styled("32", text);
    }

    String bad(String text) {
        return styled("31", text);
    }

    private String styled(String code, String text) {
        String shown = Printable.of(text);
        return colour ? "\u001b[" + code + "m" + shown + "\u001b[0m" : shown;
    }

    /** Prints rows below the names of their columns; numbers stand to the right. */
    void rows(String indent, List<String> columns, List<Row> rows) {
        List<List<String>> grid = new ArrayList<>();
        grid.add(columns.stream().map(Printable::of).toList());
        for (Row row : rows) {
            grid.add(columns.stream().map(c -> Text.cell(row.get(c))).toList());
        }
        boolean[] right = new boolean[columns.size()];
        for (int c = 0; c < right.length; c++) {
            String column = columns.get(c);
            right[c] = !rows.isEmpty() && rows.stream().allMatch(r -> r.get(column) instanceof Number);
        }
        grid(indent, grid, right);
    }

    /** Prints a grid whose first line is its heading. */
    void grid(String indent, List<List<String>> cells, boolean... right) {
        List<List<String>> grid = cells.stream()
                .map(line -> line.stream().map(Printable::of).toList())
                .toList();
        int columns = grid.get(0).size();
        int[] widths = new int[columns];
        for (List<String> line : grid) {
            for (int c = 0; c < columns; c++) {
                widths[c] = Math.max(widths[c], Width.of(line.get(c)));
            }
        }
        boolean first = true;
        for (List<String> line : grid) {
            StringBuilder text = new StringBuilder();
            for (int c = 0; c < columns; c++) {
                String pad = " ".repeat(widths[c] - Width.of(line.get(c)));
                boolean toRight = c < right.length && right[c];
                text.append(toRight ? pad + line.get(c) : line.get(c) + pad).append(c < columns - 1 ? "  " : "");
            }
            String shown = text.toString().stripTrailing();
            out.println(indent + (first ? faint(shown) : shown));
            first = false;
        }
    }
}
