package dev.zabbet.internal.report;

import dev.zabbet.internal.document.DocumentEdit;
import dev.zabbet.internal.document.DocumentEdit.Kind;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Row;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Two values as they stand side by side in a report: long ones cut to where they differ.
 *
 * @param place where they differ, in a sentence, unless that can be seen
 */
record Excerpt(String found, String expected, Optional<String> place) {
    /** Longer values are cut, in characters. */
    private static final int SHORT = 40;

    /** Stands for what is not in a document. */
    static final String NOT_THERE = "(not there)";

    private static final int MOST_PLACES = 12; // of two documents that differ
    private static final int BEFORE = 12;
    private static final int BEHIND = 26;
    private static final int SHORT_BYTES = 16;

    /** An excerpt and what it is of. */
    record Named(RowPart part, Excerpt excerpt) {
        String name() {
            return part.name();
        }
    }

    static Excerpt of(@Nullable Object found, @Nullable Object expected) {
        if (found instanceof byte[] a && expected instanceof byte[] b && Math.max(a.length, b.length) > SHORT_BYTES) {
            return bytes(a, b);
        }
        if (found instanceof List<?> a && expected instanceof List<?> b && isLengthy(found, expected)) {
            return lists(a, b);
        }
        if (found instanceof String a && expected instanceof String b && isLengthy(a, b)) {
            return texts(a, b);
        }
        return new Excerpt(Text.cell(found), Text.cell(expected), Optional.empty());
    }

    private static boolean isLengthy(Object a, Object b) {
        return Math.max(a.toString().length(), b.toString().length()) > SHORT;
    }

    private static Excerpt texts(String found, String expected) {
        int alike = 0;
        while (alike < Math.min(found.length(), expected.length()) && found.charAt(alike) == expected.charAt(alike)) {
            alike++;
        }
        if (alike > 0 && Character.isHighSurrogate(found.charAt(alike - 1))) {
            alike--;
        }
        Optional<String> place = alike == found.length() // then it is told as the beginning of what was expected
                ? Optional.empty()
                : place("character", alike, found.length(), expected.length());
        return new Excerpt(part(found, alike), part(expected, alike), place);
    }

    private static String part(String text, int alike) {
        int from = alike <= BEFORE + 4 ? 0 : alike - BEFORE;
        int to = Math.min(text.length(), alike + BEHIND);
        if (from > 0 && Character.isLowSurrogate(text.charAt(from))) {
            from--;
        }
        if (to < text.length() && Character.isLowSurrogate(text.charAt(to))) {
            to++;
        }
        return Text.part(text, from, to);
    }

    private static Excerpt bytes(byte[] found, byte[] expected) {
        int alike = Arrays.mismatch(found, expected);
        return new Excerpt(
                part(found, alike), part(expected, alike), place("byte", alike, found.length, expected.length));
    }

    private static Optional<String> place(String unit, int alike, int found, int expected) {
        String from = alike == 0 ? "they differ from the first " + unit + " on" : "alike up to " + unit + " " + alike;
        return Optional.of(from
                + (found == expected ? " of " + found : "; there are " + found + ", expected are " + expected) + ".");
    }

    private static String part(byte[] bytes, int alike) {
        int from = Math.max(0, alike - 4);
        int to = Math.min(bytes.length, alike + 10);
        return "0x" + (from > 0 ? "…" : "")
                + (from < to ? HexFormat.of().formatHex(bytes, from, to) : "")
                + (to < bytes.length ? "…" : "");
    }

    private static Excerpt lists(List<?> found, List<?> expected) {
        int alike = 0;
        while (alike < Math.min(found.size(), expected.size())
                && ValueEquality.values(found.get(alike), expected.get(alike))) {
            alike++;
        }
        int at = alike;
        return new Excerpt(
                at < found.size() ? "[" + at + "]: " + Text.brief(found.get(at)) : "no element " + at,
                at < expected.size() ? "[" + at + "]: " + Text.brief(expected.get(at)) : "no element " + at,
                Optional.of("it has " + Words.count(found.size(), "element") + ", expected are " + expected.size()
                        + "; counted from 0."));
    }

    /** Returns each place at which a stored document differs from an expected one; of very many the first. */
    static List<Named> ofDocuments(RowPart part, Row stored, @Nullable Object expected, List<RowPart> ignored) {
        Object found = part.isColumn() ? stored.document(part.column().name()) : part.in(stored);
        List<DocumentEdit> edits = DocumentEdit.between(part.without(ignored, found), part.without(ignored, expected));
        if (edits.isEmpty()) { // null in the column is not the null of a document
            String text = expected == null && stored.get(part.column().name()) == null
                    ? "null of a document"
                    : RowPart.shown(expected);
            String held = stored.get(part.column().name()) == null ? "null" : "null in a document";
            return List.of(new Named(part, new Excerpt(held, text, Optional.empty())));
        }
        List<Named> all = new ArrayList<>();
        for (DocumentEdit edit : edits.subList(0, Math.min(edits.size(), MOST_PLACES))) {
            List<Object> steps = new ArrayList<>(part.path().steps());
            steps.addAll(edit.path().steps());
            RowPart place = new RowPart(part.column(), new DocumentPath(steps));
            boolean there = edit.path().isWhole() ? part.isIn(stored) : edit.kind() != Kind.ADDED;
            all.add(new Named(place, ofPlace(there, edit.before(), edit.kind() != Kind.REMOVED, edit.after())));
        }
        if (edits.size() > MOST_PLACES) {
            all.add(new Named(
                    part,
                    new Excerpt(
                            "… and " + Words.count(edits.size() - MOST_PLACES, "more place"), "", Optional.empty())));
        }
        return all;
    }

    /** What differs alone in being text or not is shown as JSON writes it. */
    private static Excerpt ofPlace(
            boolean isFound, @Nullable Object found, boolean isExpected, @Nullable Object expected) {
        if (found instanceof String a && expected instanceof String b && isLengthy(a, b)) {
            return texts(a, b);
        }
        String a = isFound ? RowPart.shown(found) : NOT_THERE;
        String b = isExpected ? RowPart.shown(expected) : NOT_THERE;
        return a.equals(b)
                ? new Excerpt(written(found), written(expected), Optional.empty())
                : new Excerpt(a, b, Optional.empty());
    }

    private static String written(@Nullable Object value) {
        try {
            return Json.write(value);
        } catch (InexactValueException e) {
            return Text.brief(value);
        }
    }
}
