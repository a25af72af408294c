package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.Expected;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.Matchers;
import dev.zabbet.internal.report.RowFilter;
import dev.zabbet.schema.Table;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * A condition as it is written on the command line and in requests: {@code status=CANCELLED}, {@code nights>=3}, or a column and the words of
 * a table in Markdown: {@code nights between 1 and 3}, {@code note not null}.
 */
public final class WrittenCondition {
    private static final Pattern COMPARED = Pattern.compile("(.+?)\\s*(<>|<=|>=|=|<|>)\\s*(.*)", Pattern.DOTALL);
    private static final Pattern WORDS = Pattern.compile("(\\S+)\\s+(.+)", Pattern.DOTALL);

    private WrittenCondition() {}

    /** A column or a place in its document, and the value or matcher that it is compared with. */
    public record Part(String column, @Nullable Object value) {}

    public static RowFilter of(Table table, String text) {
        Part part = part(table, text);
        return RowFilter.of(table, part.column(), part.value());
    }

    public static Part part(Table table, String text) {
        Matcher compared = COMPARED.matcher(text.strip());
        if (compared.matches() && !compared.group(1).contains(" ")) {
            String column = column(table, compared.group(1));
            Object value = value(compared.group(2), unquoted(compared.group(3)), text);
            return new Part(column, Matchers.AsWritten.of(table, column, value));
        }
        Matcher words = WORDS.matcher(text.strip());
        if (!words.matches()) {
            throw wrong(text);
        }
        return new Part(column(table, words.group(1)), inWords(words.group(2), text));
    }

    /** The table's name may stand before the column's. */
    private static String column(Table table, String name) {
        int end = table.name().length();
        boolean prefixed = name.length() > end + 1
                && name.charAt(end) == '.'
                && name.substring(0, end).equalsIgnoreCase(table.name())
                && table.column(name).isEmpty();
        return RowPart.of(table, prefixed ? name.substring(end + 1) : name).name();
    }

    /** Whoever is used to SQL puts texts and dates in quotes. */
    private static String unquoted(String value) {
        boolean quoted = value.length() > 1 && value.startsWith("'") && value.endsWith("'");
        return quoted ? value.substring(1, value.length() - 1).replace("''", "'") : value;
    }

    private static @Nullable Object value(String operator, String value, String text) {
        boolean isNull = value.equalsIgnoreCase("null");
        if (isNull && !operator.equals("=") && !operator.equals("<>")) {
            throw new ZabbetException("The condition \"" + text
                    + "\" compares with null, which holds for no row. Write COLUMN=null or COLUMN<>null.");
        }
        return switch (operator) {
            case "=" -> isNull ? null : value;
            case "<>" -> isNull ? Expected.notNull() : Expected.otherThan(value);
            case "<" -> Expected.below(value);
            case "<=" -> Expected.upTo(value);
            case ">" -> Expected.above(value);
            default -> Expected.from(value);
        };
    }

    private static @Nullable Object inWords(String words, String text) {
        if (words.contains("`") || words.contains("|") || words.contains("\n")) {
            throw wrong(text);
        }
        try {
            return new MarkdownTable()
                    .read("| it |\n| `" + words + "` |")
                    .get(0)
                    .get("it");
        } catch (ZabbetException e) {
            throw wrong(text);
        }
    }

    private static ZabbetException wrong(String text) {
        return new ZabbetException(
                "\"" + text + "\" is no condition. Write COLUMN=VALUE, with <>, <, <=, > or >= in the"
                        + " place of =, or words: \"nights between 1 and 3\", \"status one of REQUESTED, DONE\", \"name like Edel%\","
                        + " \"note null\", \"note not null\".");
    }
}
