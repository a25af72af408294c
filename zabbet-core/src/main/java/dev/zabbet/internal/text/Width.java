package dev.zabbet.internal.text;

/**
 * How much room text takes on a terminal: East Asian wide and full-width characters and pictures take two cells (Unicode
 * Standard Annex 11), marks that stand on the letter before none.
 */
public final class Width {
    private Width() {}

    /** Returns the cells that a line of text takes. */
    public static int of(String text) {
        return text.codePoints().map(Width::of).sum();
    }

    /** Returns the text, cut with a mark where it would take more cells than {@code most}. */
    public static String cut(String text, int most) {
        if (of(text) <= most) {
            return text;
        }
        StringBuilder kept = new StringBuilder();
        int room = most - 1;
        int[] points = text.codePoints().toArray();
        for (int i = 0; i < points.length && of(points[i]) <= room; i++) {
            room -= of(points[i]);
            kept.appendCodePoint(points[i]);
        }
        return kept.append('…').toString();
    }

    private static int of(int point) {
        int type = Character.getType(point);
        if (type == Character.NON_SPACING_MARK || type == Character.ENCLOSING_MARK || type == Character.FORMAT) {
            return 0;
        }
        boolean wide = point >= 0x1100
                && (point <= 0x115F // Hangul Jamo
                        || (point >= 0x2E80 && point <= 0xA4CF && point != 0x303F) // CJK, kana, Yi
                        || (point >= 0xA960 && point <= 0xA97C)
                        || (point >= 0xAC00 && point <= 0xD7A3) // Hangul
                        || (point >= 0xF900 && point <= 0xFAFF) // CJK compatibility
                        || (point >= 0xFE30 && point <= 0xFE6F)
                        || (point >= 0xFF00 && point <= 0xFF60) // full-width forms
                        || (point >= 0xFFE0 && point <= 0xFFE6)
                        || (point >= 0x1F300 && point <= 0x1FAFF) // pictures
                        || (point >= 0x20000 && point <= 0x3FFFD));
        return wide ? 2 : 1;
    }
}
