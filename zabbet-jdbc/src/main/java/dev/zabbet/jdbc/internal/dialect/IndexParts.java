package dev.zabbet.jdbc.internal.dialect;

import java.util.ArrayList;
import java.util.List;

/** Takes the list of an index's columns and expressions apart. */
public final class IndexParts {
    private IndexParts() {}

    /** Splits at commas that stand outside of brackets and quotes. */
    public static List<String> of(String list) {
        List<String> parts = new ArrayList<>();
        int depth = 0;
        int start = 0;
        char quote = 0;
        for (int i = 0; i < list.length(); i++) {
            char c = list.charAt(i);
            if (quote != 0) {
                quote = c == quote ? 0 : quote;
            } else if (c == '\'' || c == '"') {
                quote = c;
            } else if (c == '(' || c == '[') {
                depth++;
            } else if (c == ')' || c == ']') {
                depth--;
            } else if (c == ',' && depth == 0) {
                parts.add(list.substring(start, i).strip());
                start = i + 1;
            }
        }
        parts.add(list.substring(start).strip());
        return parts;
    }
}
