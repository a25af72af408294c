package dev.zabbet.files.internal;

import dev.zabbet.files.internal.DocumentNode.Spot;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;

/** Changes to a text by places in it, all made at once. */
final class TextEdits {
    private final String text;
    private final List<Integer> lineStarts = new ArrayList<>(List.of(0));
    private final List<Edit> edits = new ArrayList<>();

    private record Edit(int from, int to, String by) {}

    TextEdits(String text) {
        this.text = text;
        for (int i = 0; i < text.length(); i++) {
            boolean last = text.charAt(i) == '\n'
                    || (text.charAt(i) == '\r' && (i + 1 == text.length() || text.charAt(i + 1) != '\n'));
            if (last) {
                lineStarts.add(i + 1);
            }
        }
    }

    boolean isEmpty() {
        return edits.isEmpty();
    }

    int size() {
        return edits.size();
    }

    /** Returns the position of a place; columns count code points. */
    int at(Spot spot) {
        if (spot.line() > lineStarts.size()) {
            return text.length();
        }
        int start = lineStarts.get(spot.line() - 1);
        int most = text.codePointCount(start, text.length());
        return text.offsetByCodePoints(start, Math.min(spot.column() - 1, most));
    }

    /** Returns where a character stands next. */
    int next(int from, char character) {
        return text.indexOf(character, from);
    }

    /** Returns a line with what ends it, or nothing behind the last. */
    String line(int number) {
        return number > lineStarts.size() ? "" : text.substring(lineStarts.get(number - 1), endOfLine(number));
    }

    int lines() {
        return lineStarts.size();
    }

    void replace(int from, int to, String by) {
        edits.add(new Edit(from, to, by));
    }

    void replaceLine(int number, String by) {
        replace(lineStarts.get(number - 1), endOfLine(number), by);
    }

    void removeLines(int first, int last) {
        replace(lineStarts.get(first - 1), endOfLine(last), "");
    }

    /** Puts a line behind another. */
    void addLine(int after, String line) {
        int end = endOfLine(after);
        boolean ends = end > 0 && (text.charAt(end - 1) == '\n' || text.charAt(end - 1) == '\r');
        replace(end, end, ends ? line + "\n" : "\n" + line);
    }

    private int endOfLine(int number) {
        return number >= lineStarts.size() ? text.length() : lineStarts.get(number);
    }

    /** Returns the text with all changes; those at one place in the order in which they were made. */
    String result() {
        return resultOf(0, text.length());
    }

    /** Returns a part of the text with the changes inside of it. */
    String resultOf(int begin, int end) {
        List<Edit> ordered = new ArrayList<>(edits);
        ordered.removeIf(edit -> edit.from() < begin || edit.to() > end);
        ordered.sort(Comparator.comparingInt(Edit::from)
                .thenComparing(edit -> edit.to() > edit.from())
                .thenComparing(Edit::to, Comparator.reverseOrder()));
        StringBuilder result = new StringBuilder();
        int done = begin;
        for (Edit edit : ordered) {
            if (edit.from() < done) {
                continue; // inside of something that was replaced as a whole
            }
            result.append(text, done, edit.from()).append(edit.by());
            done = edit.to();
        }
        return result.append(text, done, end).toString();
    }
}
