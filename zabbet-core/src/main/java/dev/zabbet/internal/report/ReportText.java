package dev.zabbet.internal.report;

import dev.zabbet.error.ExpectationFailure;
import dev.zabbet.internal.text.Printable;
import dev.zabbet.internal.text.Width;
import java.util.List;

/**
 * The text of a report as it is written, with and without colours. Lines are no longer than {@code zabbet.width} cells
 * (100 if that property is not set); longer ones go on below, further in.
 */
final class ReportText {
    private static final int LEAST_WIDTH = 40;
    private static final int DEFAULT_WIDTH = 100;
    private static final int GAP = 3;
    private static final int INDENT = 2;

    private final StringBuilder plain = new StringBuilder();
    private final StringBuilder coloured = new StringBuilder();
    private final int width;

    ReportText() {
        this.width = Math.max(LEAST_WIDTH, Integer.getInteger("zabbet.width", DEFAULT_WIDTH));
    }

    ReportText add(TextStyle ink, String text) {
        String shown = Printable.of(text);
        plain.append(shown);
        coloured.append(ink.on(shown));
        return this;
    }

    /** Adds what a failure says. */
    void add(AssertionError failure) {
        String message = Printable.of(String.valueOf(failure.getMessage()));
        plain.append(failure instanceof ExpectationFailure own ? own.plain() : message);
        coloured.append(failure instanceof ExpectationFailure own ? own.coloured() : message);
        if (!message.endsWith("\n")) {
            end();
        }
    }

    void end() {
        add(TextStyle.PLAIN, "\n");
    }

    /** Adds a sentence, which a terminal may break where it likes. */
    void sentence(TextStyle ink, String text) {
        add(ink, text);
        end();
    }

    /** Adds a line; where it is too long, it continues on the next one, indented further. */
    void line(String indent, TextStyle ink, String text) {
        folded(indent, indent.length(), ink, text);
    }

    /** Adds a name and a text behind it; where that is too long, it continues on the next line, indented. */
    void named(String indent, String name, String text) {
        add(TextStyle.PLAIN, indent).add(TextStyle.NAME, name);
        folded("", indent.length() + Width.of(name), TextStyle.PLAIN, text);
    }

    private void folded(String indent, int begun, TextStyle ink, String text) {
        add(TextStyle.PLAIN, indent);
        String rest = text;
        int room = width - begun;
        while (Width.of(rest) > room) {
            int at = breakAt(rest, room);
            if (at < 0) {
                break;
            }
            add(ink, rest.substring(0, at).stripTrailing());
            add(TextStyle.PLAIN, "\n        ");
            rest = rest.substring(at).stripLeading();
            room = width - 8;
        }
        add(ink, rest);
        end();
    }

    /** Returns where a line may end: behind a comma where there is one, else at a blank; -1 if it cannot. */
    private static int breakAt(String text, int room) {
        int fits = 0;
        for (int cells = 0; fits < text.length(); fits = text.offsetByCodePoints(fits, 1)) {
            cells += Width.of(text.substring(fits, text.offsetByCodePoints(fits, 1)));
            if (cells > room) {
                break;
            }
        }
        int comma = text.lastIndexOf(", ", Math.max(0, fits - 2));
        if (comma > 0) {
            return comma + 1;
        }
        int blank = text.lastIndexOf(' ', fits);
        return blank > 0 ? blank : -1;
    }

    /**
     * Adds a grid whose first line names a row and the columns beside it; where that is too wide for a line, the columns
     * stand below one another.
     */
    void grid(List<String[]> lines, List<TextStyle> inks) {
        end();
        int columns = lines.get(0).length;
        int[] widths = new int[columns];
        int whole = INDENT - GAP;
        for (int c = 0; c < columns; c++) {
            for (String[] line : lines) {
                widths[c] = Math.max(widths[c], Width.of(line[c]));
            }
            whole += widths[c] + GAP;
        }
        if (whole > width) {
            stacked(lines, inks);
            return;
        }
        for (String[] line : lines) {
            boolean heading = line == lines.get(0);
            add(TextStyle.PLAIN, " ".repeat(INDENT));
            for (int c = 0; c < columns; c++) {
                TextStyle headingStyle = c == 0 ? TextStyle.NAME : TextStyle.FAINT;
                add(heading ? headingStyle : inks.get(c), line[c]);
                if (c < columns - 1) {
                    add(TextStyle.PLAIN, " ".repeat(widths[c] - Width.of(line[c]) + GAP));
                }
            }
            end();
        }
    }

    private void stacked(List<String[]> lines, List<TextStyle> inks) {
        String[] titles = lines.get(0);
        line("  ", TextStyle.NAME, titles[0]);
        int widest = 0;
        for (String title : titles) {
            widest = title.equals(titles[0]) ? widest : Math.max(widest, Width.of(title));
        }
        for (String[] line : lines.subList(1, lines.size())) {
            line("  ", TextStyle.PLAIN, line[0]);
            for (int c = 1; c < titles.length; c++) {
                String title = titles[c] + " ".repeat(widest - Width.of(titles[c]) + GAP);
                add(TextStyle.PLAIN, "      ").add(TextStyle.FAINT, title);
                folded("", 6 + title.length(), inks.get(c), line[c]);
            }
        }
    }

    String plain() {
        return plain.toString().stripTrailing() + "\n";
    }

    String coloured() {
        return coloured.toString().stripTrailing() + "\n";
    }
}
