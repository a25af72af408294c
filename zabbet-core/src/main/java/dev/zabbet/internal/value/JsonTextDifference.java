package dev.zabbet.internal.value;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Where two long texts of JSON differ: the smallest value that holds all that differs, found without reading the rest. What stands before
 * and behind it is the same, character by character.
 *
 * @param steps where it stands: names, and positions of lists from 0
 * @param before the text of the value before
 * @param after the text of the value after
 */
public record JsonTextDifference(List<Object> steps, String before, String after) {
    private static final int SHORT = 4096; // characters; shorter texts are read whole, which checks them too

    /** A structure that is open where the texts begin to differ. */
    private static final class Frame {
        final boolean list;
        int position;

        /** Where the name of the present member stands, quotes included; -1 before it has ended. */
        int nameFrom = -1;

        int nameTo;

        /** Where the value begins that comes at this place; -1 between two. */
        int value = -1;

        Frame(boolean list) {
            this.list = list;
        }

        Optional<Object> step(char[] text) {
            return list
                    ? Optional.of(position)
                    : Json.read(new String(text, nameFrom, nameTo - nameFrom)).map(Json.Document::value);
        }
    }

    /** Finds the difference; empty if the texts are short, or differ so much that they have to be read whole. */
    public static Optional<JsonTextDifference> of(String before, String after) {
        if (Math.min(before.length(), after.length()) < SHORT) {
            return Optional.empty();
        }
        return of(before.toCharArray(), after.toCharArray());
    }

    private static Optional<JsonTextDifference> of(char[] before, char[] after) {
        int start = Arrays.mismatch(before, after);
        if (start < 0) {
            return Optional.empty();
        }
        int tail = 0;
        int most = Math.min(before.length, after.length) - start;
        while (tail < most && before[before.length - 1 - tail] == after[after.length - 1 - tail]) {
            tail++;
        }
        Deque<Frame> open = new ArrayDeque<>();
        if (!scan(before, start, open)) {
            return Optional.empty();
        }
        while (!open.isEmpty()) {
            int from = open.peek().value;
            int endBefore = from < 0 ? 0 : end(before, from);
            int endAfter = from < 0 ? 0 : end(after, from);
            boolean whole = from >= 0
                    && endBefore >= before.length - tail
                    && endAfter >= after.length - tail
                    && before.length - endBefore == after.length - endAfter;
            if (whole) {
                List<Object> steps = new ArrayList<>();
                open.descendingIterator()
                        .forEachRemaining(one -> one.step(before).ifPresent(steps::add));
                return steps.size() < open.size()
                        ? Optional.empty() // a name that cannot be read
                        : Optional.of(new JsonTextDifference(
                                steps,
                                new String(before, from, endBefore - from),
                                new String(after, from, endAfter - from)));
            }
            open.pop();
        }
        return Optional.empty();
    }

    /** Reads up to a place, and leaves open what has not ended there; false if the text is not understood. */
    private static boolean scan(char[] text, int stop, Deque<Frame> open) {
        Frame frame = null;
        int at = 0;
        while (at < stop) {
            char c = text[at];
            if (c == '{' || c == '[') {
                begin(frame, at);
                frame = new Frame(c == '[');
                open.push(frame);
                at++;
            } else if (c == ':' || isBlank(c)) {
                at++;
            } else if (frame == null) {
                return false; // no structure at all
            } else if (c == '}' || c == ']') {
                open.pop();
                frame = open.peek();
                at++;
            } else if (c == ',') {
                frame.value = -1;
                frame.nameFrom = -1;
                frame.position++;
                at++;
            } else {
                int end = end(text, at);
                if (frame.list || frame.nameFrom >= 0) {
                    frame.value = at;
                } else if (end < stop) {
                    frame.nameFrom = at;
                    frame.nameTo = end;
                }
                at = end;
            }
        }
        return true;
    }

    private static void begin(@Nullable Frame frame, int at) {
        if (frame != null && (frame.list || frame.nameFrom >= 0)) {
            frame.value = at;
        }
    }

    private static boolean isBlank(char c) {
        return c == ' ' || c == '\n' || c == '\t' || c == '\r';
    }

    /** Returns where a value ends, the place behind it; the end of the text if it does not. */
    private static int end(char[] text, int from) {
        int depth = 0;
        int at = from;
        while (at < text.length) {
            char c = text[at];
            if (c == '"') {
                at = endOfText(text, at);
                if (depth == 0) {
                    return at;
                }
            } else if (c == '{' || c == '[') {
                depth++;
                at++;
            } else if (c == '}' || c == ']') {
                if (depth == 0) {
                    return at;
                }
                at++;
                if (--depth == 0) {
                    return at;
                }
            } else if (depth == 0 && (c == ',' || c == ':' || isBlank(c))) {
                return at;
            } else {
                at++;
            }
        }
        return text.length;
    }

    private static int endOfText(char[] text, int from) {
        for (int at = from + 1; at < text.length; at++) {
            char c = text[at];
            if (c == '\\') {
                at++;
            } else if (c == '"') {
                return at + 1;
            }
        }
        return text.length;
    }
}
