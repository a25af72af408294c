package dev.zabbet.internal.report;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Matcher;
import dev.zabbet.type.Kind;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Two values as they stand side by side in a report: long ones cut to where they differ.
 *
 * @param place where they differ, in a sentence, unless that can be seen
 */
record Excerpt(String found, String expected, Optional<String> place) {
    /** Longer values are cut, in characters. */
    private static final int SHORT = 40;

    private static final int BEFORE = 12;
    private static final int BEHIND = 26;
    private static final int SHORT_BYTES = 16;

    static Excerpt of(Kind kind, @Nullable Object found, @Nullable Object expected) {
        if (expected instanceof Matcher matcher) {
            return new Excerpt(Text.cell(found), matcher.describe(), Optional.empty());
        }
        if (found instanceof byte[] a && expected instanceof byte[] b && Math.max(a.length, b.length) > SHORT_BYTES) {
            return bytes(a, b);
        }
        if (found instanceof List<?> a && expected instanceof List<?> b && isLengthy(found, expected)) {
            return lists(a, b);
        }
        if (found instanceof String a && expected instanceof String b && isLengthy(a, b)) {
            Optional<Excerpt> inJson = kind == Kind.JSON ? documents(a, b) : Optional.empty();
            return inJson.orElseGet(() -> texts(a, b));
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

    private static Optional<Excerpt> documents(String found, String expected) {
        Json.Document a = Json.read(found).orElse(null);
        Json.Document b = Json.read(expected).orElse(null);
        return a == null || b == null ? Optional.empty() : Optional.of(inDocument("", a.value(), b.value()));
    }

    /** Goes down to the first place at which two documents differ. */
    private static Excerpt inDocument(String path, @Nullable Object found, @Nullable Object expected) {
        if (found instanceof Map<?, ?> a && expected instanceof Map<?, ?> b) {
            Set<Object> names = new LinkedHashSet<>(b.keySet());
            names.addAll(a.keySet());
            for (Object name : names) {
                String below = path.isEmpty() ? String.valueOf(name) : path + "." + name;
                if (!a.containsKey(name) || !b.containsKey(name)) {
                    return new Excerpt(
                            a.containsKey(name) ? below + ": " + Text.brief(a.get(name)) : "no " + below,
                            b.containsKey(name) ? below + ": " + Text.brief(b.get(name)) : "no " + below,
                            Optional.empty());
                }
                if (!Json.same(a.get(name), b.get(name))) {
                    return inDocument(below, a.get(name), b.get(name));
                }
            }
        }
        if (found instanceof List<?> a && expected instanceof List<?> b) {
            for (int i = 0; i < Math.min(a.size(), b.size()); i++) {
                if (!Json.same(a.get(i), b.get(i))) {
                    return inDocument(path + "[" + i + "]", a.get(i), b.get(i));
                }
            }
            return new Excerpt(
                    path + ": " + Words.count(a.size(), "element"),
                    path + ": " + Words.count(b.size(), "element"),
                    Optional.empty());
        }
        String at = path.isEmpty() ? "" : path + ": ";
        if (found instanceof String a && expected instanceof String b && isLengthy(a, b)) {
            Excerpt inText = texts(a, b);
            return new Excerpt(at + inText.found(), at + inText.expected(), inText.place());
        }
        return new Excerpt(at + Text.brief(found), at + Text.brief(expected), Optional.empty());
    }
}
