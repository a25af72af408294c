package dev.zabbet.internal.text;

/**
 * Text that a terminal only prints: a name may hold control characters (ECMA-48 sequences move the cursor, set titles, clear
 * the screen) or turn the direction of what follows (Unicode Standard Annex 9). They are shown as escapes.
 */
public final class Printable {
    private Printable() {}

    /** Returns a text in which such characters are shown as {@code \\u001b}; line breaks stay. */
    public static String of(String text) {
        int at = 0;
        while (at < text.length() && !isEscaped(text.charAt(at))) {
            at++;
        }
        if (at == text.length()) {
            return text;
        }
        StringBuilder shown = new StringBuilder(text.length() + 16).append(text, 0, at);
        for (; at < text.length(); at++) {
            char c = text.charAt(at);
            if (isEscaped(c)) {
                shown.append(String.format("\\u%04x", (int) c));
            } else {
                shown.append(c);
            }
        }
        return shown.toString();
    }

    private static boolean isEscaped(char c) {
        return c < ' '
                ? c != '\n' && c != '\t'
                : (c >= 0x7F && c < 0xA0) || (c >= 0x202A && c <= 0x202E) || (c >= 0x2066 && c <= 0x2069);
    }
}
