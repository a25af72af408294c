package dev.zabbet.internal.check;

import java.util.regex.Pattern;

/** Patterns of SQL's LIKE. */
public final class LikePattern {
    private LikePattern() {}

    /** Returns a pattern as it is with a backslash before what means itself; without a mark nothing is marked. */
    static String escaped(String like, String mark) {
        StringBuilder escaped = new StringBuilder();
        for (int i = 0; i < like.length(); i++) {
            char c = like.charAt(i);
            boolean marks = mark.equals(String.valueOf(c)) && i + 1 < like.length();
            escaped.append(marks || c == '\\' ? "\\" : "").append(marks ? like.charAt(++i) : c);
        }
        return escaped.toString();
    }

    /** Returns the regular expression that matches the same texts, as a whole. */
    public static Pattern of(String like, boolean ignoreCase) {
        StringBuilder regex = new StringBuilder();
        for (int i = 0; i < like.length(); i++) {
            char c = like.charAt(i);
            if (c == '\\' && i + 1 < like.length()) {
                regex.append(Pattern.quote(like.substring(++i, i + 1)));
            } else {
                regex.append(
                        switch (c) {
                            case '%' -> ".*";
                            case '_' -> ".";
                            default -> Pattern.quote(String.valueOf(c));
                        });
            }
        }
        int flags = Pattern.DOTALL | (ignoreCase ? Pattern.CASE_INSENSITIVE | Pattern.UNICODE_CASE : 0);
        return Pattern.compile(regex.toString(), flags);
    }
}
