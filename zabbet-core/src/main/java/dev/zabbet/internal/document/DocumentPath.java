package dev.zabbet.internal.document;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.Text;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Where something stands in a document: {@code guest.name}, {@code guests[2].name}, {@code ["odd.name"][0]}. A star stands for
 * any name or position. The empty path is the document itself.
 *
 * @param steps the steps from the document down: a name, a position from 0, or {@link Any}
 */
public record DocumentPath(List<Object> steps) {
    /** The document itself. */
    public static final DocumentPath WHOLE = new DocumentPath(List.of());

    /** A step that any name, or any position, is meant by. */
    public enum Any {
        NAME,
        POSITION
    }

    public DocumentPath {
        steps = List.copyOf(steps);
    }

    /**
     * Reads what follows the name of a column.
     *
     * @param text begins with a dot or a bracket
     * @param whole the name and the path, for messages
     * @throws ZabbetException if it is no path; the message says where
     */
    public static DocumentPath read(String text, String whole) {
        return new Reader(text, whole).read();
    }

    public DocumentPath name(String name) {
        return with(name);
    }

    public DocumentPath at(int position) {
        return with(position);
    }

    private DocumentPath with(Object step) {
        List<Object> longer = new ArrayList<>(steps);
        longer.add(step);
        return new DocumentPath(longer);
    }

    public boolean isWhole() {
        return steps.isEmpty();
    }

    /** Tells whether it stands for several places. */
    public boolean isPattern() {
        return steps.stream().anyMatch(Any.class::isInstance);
    }

    /** Tells whether a path is this one or leads further down from it. */
    public boolean covers(DocumentPath other) {
        if (other.steps.size() < steps.size()) {
            return false;
        }
        for (int i = 0; i < steps.size(); i++) {
            Object own = steps.get(i);
            Object there = other.steps.get(i);
            boolean any =
                    (own == Any.NAME && there instanceof String) || (own == Any.POSITION && there instanceof Integer);
            if (!any && !own.equals(there)) {
                return false;
            }
        }
        return true;
    }

    /** Returns what stands there; null if that is null or not there. */
    public @Nullable Object in(@Nullable Object document) {
        Object value = document;
        for (Object step : steps) {
            if (step instanceof Integer position) {
                value = value instanceof List<?> list && position < list.size() ? list.get(position) : null;
            } else {
                value = value instanceof Map<?, ?> map ? map.get(step) : null;
            }
        }
        return value;
    }

    /** Tells whether something stands there, if only null. */
    public boolean isIn(@Nullable Object document) {
        if (steps.isEmpty()) {
            return true;
        }
        Object last = steps.get(steps.size() - 1);
        Object holder = new DocumentPath(steps.subList(0, steps.size() - 1)).in(document);
        return last instanceof Integer position
                ? holder instanceof List<?> list && position < list.size()
                : holder instanceof Map<?, ?> map && map.containsKey(last);
    }

    /** Returns it as it follows a column's name: {@code .guests[2].name}. */
    @Override
    public String toString() {
        StringBuilder text = new StringBuilder();
        for (Object step : steps) {
            if (step == Any.NAME) {
                text.append(".*");
            } else if (step == Any.POSITION) {
                text.append("[*]");
            } else if (step instanceof Integer position) {
                text.append('[').append(position).append(']');
            } else if (isPlain((String) step)) {
                text.append('.').append(step);
            } else {
                text.append("[\"")
                        .append(((String) step).replace("\\", "\\\\").replace("\"", "\\\""))
                        .append("\"]");
            }
        }
        return text.toString();
    }

    private static boolean isPlain(String name) {
        return !name.isEmpty() && !name.equals("*") && name.chars().noneMatch(c -> ".[]\"\\".indexOf(c) >= 0);
    }

    /** Reads a path from its text. */
    private static final class Reader {
        private final String text;
        private final String whole;
        private int at;

        Reader(String text, String whole) {
            this.text = text;
            this.whole = whole;
        }

        DocumentPath read() {
            List<Object> steps = new ArrayList<>();
            while (at < text.length()) {
                char c = text.charAt(at++);
                if (c == '.') {
                    String name = name();
                    steps.add(name.equals("*") ? Any.NAME : name);
                } else if (c == '[') {
                    steps.add(bracket());
                } else {
                    throw refused("a dot or a bracket stands before each step");
                }
            }
            return new DocumentPath(steps);
        }

        private String name() {
            int end = at;
            while (end < text.length() && ".[]\"".indexOf(text.charAt(end)) < 0) {
                end++;
            }
            if (end == at) {
                throw refused("a name is missing");
            }
            String name = text.substring(at, end);
            at = end;
            return name;
        }

        private Object bracket() {
            Object step;
            if (at < text.length() && text.charAt(at) == '"') {
                step = quoted();
            } else {
                int end = Math.max(at, text.indexOf(']', at));
                String inside = text.substring(at, end);
                boolean position = inside.matches("\\d{1,9}");
                if (!position && !inside.equals("*")) {
                    throw refused("between brackets stands a position from 0, * for any, or a name in double quotes");
                }
                at = end;
                step = position ? (Object) Integer.valueOf(inside) : Any.POSITION;
            }
            if (at >= text.length() || text.charAt(at) != ']') {
                throw refused("a bracket is not closed");
            }
            at++;
            return step;
        }

        private String quoted() {
            StringBuilder name = new StringBuilder();
            for (at++; at < text.length() && text.charAt(at) != '"'; at++) {
                if (text.charAt(at) == '\\' && at + 1 < text.length()) {
                    at++;
                }
                name.append(text.charAt(at));
            }
            at++;
            return name.toString();
        }

        private ZabbetException refused(String why) {
            return new ZabbetException("The path " + Text.of(whole) + " cannot be read at character "
                    + (whole.length() - text.length() + Math.min(at, text.length()) + 1) + ": " + why
                    + ". Paths look like"
                    + " doc.guest.name, doc.guests[2].name or doc[\"odd.name\"].");
        }
    }
}
