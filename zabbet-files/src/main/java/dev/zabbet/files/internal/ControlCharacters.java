package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;

/** Refuses characters that no text holds: control characters but tabs and line breaks, and halves of characters. */
final class ControlCharacters {
    private ControlCharacters() {}

    /**
     * Looks through a text.
     *
     * @throws ZabbetException at the first, with line and column
     */
    static void refuse(String name, String text) {
        int line = 1;
        int column = 1;
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c == '\n' || (c == '\r' && !(i + 1 < text.length() && text.charAt(i + 1) == '\n'))) {
                line++;
                column = 1;
                continue;
            }
            boolean pair = Character.isHighSurrogate(c)
                    && i + 1 < text.length()
                    && Character.isLowSurrogate(text.charAt(i + 1));
            if (pair) {
                i++;
            } else if (isRefused(c)) {
                throw new ZabbetException(name + ", line " + line + ", column " + column + ": the character "
                        + String.format("U+%04X", (int) c)
                        + " cannot stand in a text file. In YAML and JSON it is written \""
                        + String.format("\\u%04x", (int) c) + "\", in double quotes.");
            }
            column++;
        }
    }

    /** All but the printable characters of YAML 1.2.2, section 5.1. */
    private static boolean isRefused(char c) {
        return c < ' '
                ? c != '\t' && c != '\n' && c != '\r'
                : (c >= 0x7F && c < 0xA0 && c != 0x85) || Character.isSurrogate(c) || c >= 0xFFFE;
    }
}
