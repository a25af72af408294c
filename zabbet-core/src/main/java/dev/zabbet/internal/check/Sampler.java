package dev.zabbet.internal.check;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.atomic.DoubleAccumulator;

/**
 * Makes texts that match a pattern: of LIKE, or a regular expression of the kind that databases share (classes, groups,
 * alternatives, repetition, anchors). What it does not know, such as looking ahead, it does not guess.
 */
public final class Sampler {
    private static final String LETTERS = "abcdefghijklmnopqrstuvwxyz";
    private static final String DIGITS = "0123456789";

    private final Part whole;

    /** Chooses one of so many; two choosers that answer alike give the same text. */
    @FunctionalInterface
    public interface Choice {
        /** Returns a number from 0 to {@code n - 1}. */
        int of(int n);
    }

    private enum Way {
        /** Whatever matches. */
        ANY,
        /** Of fixed length and always by the first alternative, so that other choices are other texts. */
        FIRST_BRANCH,
        /** Of fixed length by all alternatives. */
        ALL_BRANCHES
    }

    private interface Part {
        void write(StringBuilder text, Choice choice, Way way);
    }

    private Sampler(Part whole) {
        this.whole = whole;
    }

    /** Reads a pattern; empty if it holds something that is not known here. */
    public static Optional<Sampler> of(String pattern, boolean regular) {
        try {
            return Optional.of(new Sampler(regular ? new Reader(pattern).read() : like(pattern)));
        } catch (UnknownSyntaxException e) {
            return Optional.empty();
        }
    }

    /** Returns a text that matches. */
    public String any(Choice choice) {
        StringBuilder text = new StringBuilder();
        whole.write(text, choice, Way.ANY);
        return text.toString();
    }

    /** Returns a text that matches and is another for each number, as far as the pattern has room. */
    public String different(long number) {
        // Two alternatives may give one text, so that the choice among them is used only if there is no other.
        DoubleAccumulator room = new DoubleAccumulator((all, n) -> all * n, 1);
        whole.write(
                new StringBuilder(),
                n -> {
                    room.accumulate(n);
                    return 0;
                },
                Way.FIRST_BRANCH);
        AtomicLong rest = new AtomicLong(number);
        StringBuilder text = new StringBuilder();
        whole.write(
                text,
                n -> {
                    return (int) (rest.getAndUpdate(left -> left / n) % n);
                },
                room.get() > number ? Way.FIRST_BRANCH : Way.ALL_BRANCHES);
        return text.toString();
    }

    private static Part like(String pattern) {
        List<Part> parts = new ArrayList<>();
        for (int i = 0; i < pattern.length(); i++) {
            char c = pattern.charAt(i);
            if (c == '\\' && i + 1 < pattern.length()) {
                parts.add(oneOf(String.valueOf(pattern.charAt(++i))));
            } else if (c == '%') {
                parts.add(repeat(oneOf(LETTERS), 1, 3));
            } else {
                parts.add(oneOf(c == '_' ? LETTERS : String.valueOf(c)));
            }
        }
        return sequence(parts);
    }

    private static Part oneOf(String characters) {
        return (text, choice, way) ->
                text.append(characters.charAt(characters.length() == 1 ? 0 : choice.of(characters.length())));
    }

    private static Part sequence(List<Part> parts) {
        return (text, choice, way) -> parts.forEach(part -> part.write(text, choice, way));
    }

    private static Part repeat(Part part, int least, int most) {
        return (text, choice, way) -> {
            int count = way != Way.ANY
                    ? Math.max(least, Math.min(most, 6))
                    : least + (most == least ? 0 : choice.of(Math.min(most - least, 3) + 1));
            for (int i = 0; i < count; i++) {
                part.write(text, choice, way);
            }
        };
    }

    /** Reads a regular expression. */
    private static final class Reader {
        private final String pattern;
        private int at;

        Reader(String pattern) {
            this.pattern = pattern;
        }

        Part read() {
            Part part = alternatives();
            if (at < pattern.length()) {
                throw new UnknownSyntaxException("'" + pattern.charAt(at) + "'");
            }
            return part;
        }

        private Part alternatives() {
            List<Part> choices = new ArrayList<>();
            do {
                choices.add(branch());
            } while (skip('|'));
            return choices.size() == 1
                    ? choices.get(0)
                    : (text, choice, way) -> choices.get(way == Way.FIRST_BRANCH ? 0 : choice.of(choices.size()))
                            .write(text, choice, way);
        }

        private Part branch() {
            List<Part> parts = new ArrayList<>();
            while (at < pattern.length() && pattern.charAt(at) != '|' && pattern.charAt(at) != ')') {
                Part part = atom();
                parts.add(quantified(part));
            }
            return sequence(parts);
        }

        private Part atom() {
            char c = pattern.charAt(at++);
            switch (c) {
                case '^', '$':
                    return sequence(List.of());
                case '.':
                    return oneOf(LETTERS);
                case '[':
                    return oneOf(characters());
                case '(':
                    if (skip('?')) {
                        if (!skip(':')) {
                            throw new UnknownSyntaxException("(?");
                        }
                    }
                    Part inner = alternatives();
                    if (!skip(')')) {
                        throw new UnknownSyntaxException("a group that is not closed");
                    }
                    return inner;
                case '\\':
                    return escape();
                default:
                    return oneOf(String.valueOf(c));
            }
        }

        private Part escape() {
            if (at == pattern.length()) {
                throw new UnknownSyntaxException("a backslash at the end");
            }
            char c = pattern.charAt(at++);
            String known = known(c);
            if (known.isEmpty() && "AZzbByYmM".indexOf(c) >= 0) {
                return sequence(List.of());
            }
            if (known.isEmpty() && Character.isLetterOrDigit(c)) {
                throw new UnknownSyntaxException("\\" + c);
            }
            return oneOf(known.isEmpty() ? String.valueOf(c) : known);
        }

        private static String known(char c) {
            return switch (c) {
                case 'd' -> DIGITS;
                case 'w', 'D', 'S' -> LETTERS;
                case 's' -> " ";
                case 'W' -> "-";
                default -> "";
            };
        }

        private String characters() {
            boolean not = skip('^');
            StringBuilder all = new StringBuilder();
            boolean first = true;
            while (at < pattern.length() && (first || pattern.charAt(at) != ']')) {
                first = false;
                if (pattern.startsWith("[:", at)) {
                    int end = pattern.indexOf(":]", at);
                    if (end < 0) {
                        throw new UnknownSyntaxException("[:");
                    }
                    all.append(named(pattern.substring(at + 2, end)));
                    at = end + 2;
                    continue;
                }
                char c = pattern.charAt(at++);
                if (c == '\\' && at < pattern.length()) {
                    char escaped = pattern.charAt(at++);
                    String known = known(escaped);
                    all.append(known.isEmpty() ? String.valueOf(escaped) : known);
                } else if (at + 1 < pattern.length() && pattern.charAt(at) == '-' && pattern.charAt(at + 1) != ']') {
                    char last = pattern.charAt(at + 1);
                    at += 2;
                    for (char each = c; each <= last && all.length() < 300; each++) {
                        all.append(each);
                    }
                } else {
                    all.append(c);
                }
            }
            if (!skip(']')) {
                throw new UnknownSyntaxException("a class that is not closed");
            }
            StringBuilder once = new StringBuilder();
            all.chars().distinct().forEach(c -> once.append((char) c));
            String listed = once.toString();
            if (not) {
                StringBuilder others = new StringBuilder();
                (LETTERS + DIGITS + "-_ ")
                        .chars()
                        .filter(c -> listed.indexOf(c) < 0)
                        .forEach(c -> others.append((char) c));
                return nonEmpty(others.toString());
            }
            return nonEmpty(listed);
        }

        private static String nonEmpty(String characters) {
            if (characters.isEmpty()) {
                throw new UnknownSyntaxException("an empty class");
            }
            return characters;
        }

        private static String named(String name) {
            return switch (name) {
                case "alpha", "lower" -> LETTERS;
                case "upper" -> LETTERS.toUpperCase(java.util.Locale.ROOT);
                case "digit", "xdigit" -> DIGITS;
                case "alnum" -> LETTERS + DIGITS;
                case "space", "blank" -> " ";
                case "punct" -> "-.,";
                default -> throw new UnknownSyntaxException("[:" + name + ":]");
            };
        }

        private Part quantified(Part part) {
            int least = 1;
            int most = 1;
            if (skip('*')) {
                least = 0;
                most = 6;
            } else if (skip('+')) {
                most = 7;
            } else if (skip('?')) {
                least = 0;
            } else if (at < pattern.length() && pattern.charAt(at) == '{') {
                int end = pattern.indexOf('}', at);
                String[] bounds =
                        end < 0 ? new String[0] : pattern.substring(at + 1, end).split(",", -1);
                try {
                    least = Integer.parseInt(bounds[0].strip());
                    if (bounds.length == 1) {
                        most = least;
                    } else if (bounds[1].isBlank()) {
                        most = least + 6;
                    } else {
                        most = Integer.parseInt(bounds[1].strip());
                    }
                } catch (NumberFormatException | ArrayIndexOutOfBoundsException e) {
                    throw new UnknownSyntaxException("{");
                }
                at = end + 1;
            } else {
                return part;
            }
            if (!skip('?')) {
                skip('+');
            }
            return repeat(part, least, most);
        }

        private boolean skip(char c) {
            if (at < pattern.length() && pattern.charAt(at) == c) {
                at++;
                return true;
            }
            return false;
        }
    }
}
