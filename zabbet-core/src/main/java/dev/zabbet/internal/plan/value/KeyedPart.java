package dev.zabbet.internal.plan.value;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The part of a column's values that its table's unique keys look at: the first characters, or the day of a moment. Values
 * that have to be different are different in that part.
 *
 * @param length how many characters or bytes from the start
 * @param seconds how far apart moments have to be
 */
record KeyedPart(int length, int seconds) {
    private static final Pattern BEGINNING =
            Pattern.compile("(?:left|substr|substring)\"?\\([^,]*, *(?:1 *, *)?([0-9]+) *\\)");
    private static final int DAY = 86_400;

    static KeyedPart of(Table table, Column column) {
        int length = Integer.MAX_VALUE;
        int seconds = 1;
        for (var key : table.uniques()) {
            for (String expression : key.expressions()) {
                String text = expression.toLowerCase(Locale.ROOT);
                if (!text.contains(column.sqlName().toLowerCase(Locale.ROOT))) {
                    continue;
                }
                Matcher beginning = BEGINNING.matcher(text);
                if (beginning.find()) {
                    length = Math.min(length, Integer.parseInt(beginning.group(1)));
                }
                seconds = Math.max(seconds, unit(text));
            }
        }
        return new KeyedPart(length, seconds);
    }

    private static int unit(String expression) {
        if (expression.contains("year")) {
            return 366 * DAY;
        }
        if (expression.contains("month") || expression.contains("quarter")) {
            return 31 * DAY * (expression.contains("quarter") ? 3 : 1);
        }
        if (expression.contains("week")) {
            return 7 * DAY;
        }
        if (expression.contains("day") || expression.contains("date")) {
            return DAY;
        }
        if (expression.contains("hour")) {
            return 3600;
        }
        return 60;
    }
}
