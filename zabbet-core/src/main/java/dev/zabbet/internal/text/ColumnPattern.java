package dev.zabbet.internal.text;

import java.util.List;
import java.util.regex.Pattern;

/** Columns named with their tables, as users write them: {@code guest.email}, {@code *.booked_at}, {@code guest.profile.phone}. */
public final class ColumnPattern {
    private ColumnPattern() {}

    /** Tells whether a text names a column with its table. */
    public static boolean isOne(String text) {
        int dot = text.indexOf('.');
        return dot > 0 && dot < text.length() - 1;
    }

    /**
     * Tells whether a column is meant, or the column whose documents a place is in.
     *
     * @param column the column with its table, and the path inside of its documents
     */
    public static boolean matches(String pattern, String column) {
        return isMatch(regex(pattern) + "(\\..*)?", column);
    }

    /** Tells whether a column is meant, and nothing inside of its documents. */
    public static boolean isColumn(String pattern, String column) {
        return isMatch(regex(pattern), column);
    }

    private static boolean isMatch(String regex, String column) {
        return Pattern.compile(regex, Pattern.CASE_INSENSITIVE | Pattern.UNICODE_CASE)
                .matcher(column)
                .matches();
    }

    private static String regex(String pattern) {
        StringBuilder regex = new StringBuilder();
        for (String part : List.of(pattern.split("(?<=\\*)|(?=\\*)"))) {
            regex.append(part.equals("*") ? ".*" : Pattern.quote(part));
        }
        return regex.toString();
    }
}
