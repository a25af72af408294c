package dev.zabbet.internal.value;

import dev.zabbet.internal.text.Width;
import java.math.BigDecimal;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.format.DateTimeFormatter;
import java.util.HexFormat;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Shows a value to a person: text in quotes, null as null, bytes as hexadecimal. */
public final class Text {
    private static final int MOST_BYTES = 16;
    private static final int MOST_CHARACTERS = 200;
    private static final int BRIEF = 40;

    private Text() {}

    /** Returns the value for a sentence: text stands in single quotes. */
    public static String of(@Nullable Object value) {
        return value instanceof CharSequence || value instanceof Character || value instanceof Enum<?>
                ? "'" + visible(plain(value)) + "'"
                : cell(value);
    }

    /** Returns the value for a cell of a listing: text stands bare unless it could be taken for something else. */
    public static String cell(@Nullable Object value) {
        if (value == null) {
            return "null";
        }
        if (value instanceof byte[] bytes) {
            String hex = HexFormat.of().formatHex(bytes, 0, Math.min(bytes.length, MOST_BYTES));
            return "0x" + hex + (bytes.length > MOST_BYTES ? "… (" + bytes.length + " bytes)" : "");
        }
        if (value instanceof BigDecimal number) {
            return number.toPlainString();
        }
        if (value instanceof LocalDateTime dateTime) {
            return dateTime.toLocalDate() + " " + cell(dateTime.toLocalTime());
        }
        if (value instanceof LocalTime time) {
            return time.getSecond() == 0 && time.getNano() == 0
                    ? time.format(DateTimeFormatter.ofPattern("HH:mm:ss"))
                    : time.toString();
        }
        if (value instanceof List<?> list) {
            return "[" + String.join(", ", list.stream().map(Text::cell).toList()) + "]";
        }
        String text = visible(plain(value));
        boolean ambiguous = text.isEmpty() || text.equals("null") || !text.equals(text.strip());
        return value instanceof CharSequence && ambiguous ? "'" + text + "'" : text;
    }

    /** Returns the value for a listing, cut to what is needed to know it again. */
    public static String brief(@Nullable Object value) {
        return Width.cut(cell(value), BRIEF);
    }

    /** Returns a part of a longer text in single quotes, with a mark on the sides where there is more. */
    public static String part(String text, int from, int to) {
        return "'" + (from > 0 ? "…" : "") + visible(text.substring(from, to)) + (to < text.length() ? "…" : "") + "'";
    }

    private static String visible(String text) {
        StringBuilder shown = new StringBuilder();
        int end = Math.min(text.length(), MOST_CHARACTERS);
        for (int i = 0; i < end; i++) {
            char c = text.charAt(i);
            switch (c) {
                case '\n' -> shown.append("\\n");
                case '\r' -> shown.append("\\r");
                case '\t' -> shown.append("\\t");
                default -> {
                    if (isUnseen(c) || isHalf(text, i)) {
                        shown.append(String.format("\\u%04x", (int) c));
                    } else {
                        shown.append(c);
                    }
                }
            }
        }
        if (end < text.length()) {
            shown.append("… (").append(text.length() - end).append(" more characters)");
        }
        return shown.toString();
    }

    /** Control and formatting characters, and blanks that look like a blank and are none. */
    private static boolean isUnseen(char c) {
        int type = Character.getType(c);
        return type == Character.CONTROL
                || type == Character.FORMAT
                || type == Character.LINE_SEPARATOR
                || type == Character.PARAGRAPH_SEPARATOR
                || (type == Character.SPACE_SEPARATOR && c != ' ');
    }

    private static boolean isHalf(String text, int at) {
        char c = text.charAt(at);
        return (Character.isHighSurrogate(c)
                        && (at + 1 == text.length() || !Character.isLowSurrogate(text.charAt(at + 1))))
                || (Character.isLowSurrogate(c) && (at == 0 || !Character.isHighSurrogate(text.charAt(at - 1))));
    }

    private static String plain(Object value) {
        return value instanceof Enum<?> e ? e.name() : value.toString();
    }
}
