package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.Expected;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.row.RowNotation;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.regex.PatternSyntaxException;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Rows as a table in Markdown (the tables of GitHub Flavored Markdown, section 4.10). The first line names the columns;
 * a line of dashes below it may stand or not. A plain cell is data, always, without the blanks around it. A cell that is
 * a code span is {@code null}, {@code not null}, {@code any}, {@code pattern REGEX}, {@code between A and B} or
 * {@code one of A, B, …}. {@code \|} stands for a bar in a cell. Stateless and thread-safe.
 */
public final class MarkdownTable implements RowNotation {
    private static final Pattern RULE = Pattern.compile("\\|?\\s*:?-+:?\\s*(\\|\\s*:?-+:?\\s*)*\\|?");
    private static final Pattern NEAR = Pattern.compile("near (.+) within (.+)");
    private static final Map<String, Function<String, Object>> WORDS = words();
    private static final Pattern OF_ROW = Pattern.compile("(\\S+) of (\\S+) (.+)");
    private static final Pattern BETWEEN = Pattern.compile("between (.+) and (.+)");
    private static final Pattern SPAN = Pattern.compile("`+ ?(.*?) ?`+");

    /** Called by the service loader. */
    public MarkdownTable() {}

    @Override
    public boolean recognises(String text) {
        return text.strip().startsWith("|");
    }

    @Override
    public List<Row> read(String text) {
        List<String> names = List.of();
        List<Row> rows = new ArrayList<>();
        int number = 0;
        for (String line : text.lines().toList()) {
            number++;
            if (line.isBlank()) {
                continue;
            }
            if (names.isEmpty()) {
                names = cells(line, number);
            } else if (!RULE.matcher(line.strip()).matches()) {
                rows.add(row(names, line, number));
            }
        }
        if (names.isEmpty()) {
            throw new ZabbetException("The Markdown table is empty; its first line names the columns.");
        }
        return List.copyOf(rows);
    }

    private static Row row(List<String> names, String line, int number) {
        List<String> cells = cells(line, number);
        if (cells.size() != names.size()) {
            throw wrong(
                    line,
                    number,
                    "it has " + Words.count(cells.size(), "cell") + ", and the first line names "
                            + Words.count(names.size(), "column") + ": "
                            + String.join(", ", names));
        }
        List<@Nullable Object> values = new ArrayList<>();
        for (String cell : cells) {
            Matcher span = SPAN.matcher(cell);
            values.add(span.matches() ? special(span.group(1).strip(), line, number) : cell);
        }
        return Row.of(names, values.toArray());
    }

    private static Map<String, Function<String, Object>> words() {
        Map<String, Function<String, Object>> words = new LinkedHashMap<>();
        words.put("below", Expected::below);
        words.put("up to", Expected::upTo);
        words.put("above", Expected::above);
        words.put("from", Expected::from);
        words.put("other than", Expected::otherThan);
        words.put("like", Expected::like);
        words.put("equal to", MarkdownTable::equalTo);
        words.put("json part", Expected::jsonPart);
        return words;
    }

    /** {@code equal to born}, a column of the same row; {@code equal to beds of hut 7}, one of another row. */
    private static Object equalTo(String what) {
        Matcher other = OF_ROW.matcher(what);
        return other.matches()
                ? Expected.equalToColumn(other.group(2), other.group(3), other.group(1))
                : Expected.equalToColumn(what);
    }

    private static @Nullable Object special(String code, String line, int number) {
        if (code.equals("null")) {
            return null;
        }
        if (code.equals("not null")) {
            return Expected.notNull();
        }
        if (code.equals("any")) {
            return Expected.any();
        }
        if (code.startsWith("pattern ")) {
            try {
                return Expected.pattern(code.substring("pattern ".length()));
            } catch (PatternSyntaxException e) {
                throw wrong(line, number, "its pattern is no regular expression: " + e.getDescription());
            }
        }
        if (code.startsWith("one of ")) {
            return Expected.oneOf((Object[]) code.substring("one of ".length()).split("\\s*,\\s*"));
        }
        Matcher between = BETWEEN.matcher(code);
        if (between.matches()) {
            return Expected.between(between.group(1), between.group(2));
        }
        Matcher near = NEAR.matcher(code);
        if (near.matches()) {
            return near(near.group(1), near.group(2), line, number);
        }
        for (Map.Entry<String, Function<String, Object>> word : WORDS.entrySet()) {
            if (code.startsWith(word.getKey() + " ")) {
                return word.getValue()
                        .apply(code.substring(word.getKey().length() + 1).strip());
            }
        }
        throw wrong(
                line,
                number,
                "`" + code + "` is not known. Known are `null`, `not null`, `any`, `pattern …`, `between … and …`,"
                        + " `one of …, …`, `near … within …`, "
                        + WORDS.keySet().stream()
                                .map(word -> "`" + word + " …`")
                                .collect(Collectors.joining(", "))
                        + "; plain data stands without backticks");
    }

    /** A number and how far, or a time and an ISO 8601 duration: {@code near 9.5 within 0.1}. */
    private static Object near(String value, String within, String line, int number) {
        try {
            return within.startsWith("P")
                    ? Expected.near((Object) value, Duration.parse(within))
                    : Expected.near(new BigDecimal(value), new BigDecimal(within));
        } catch (DateTimeParseException | NumberFormatException e) {
            throw wrong(
                    line,
                    number,
                    "`near " + value + " within " + within
                            + "` takes two numbers, or a time and a duration such as PT2S");
        }
    }

    private static List<String> cells(String line, int number) {
        String stripped = line.strip();
        if (!stripped.startsWith("|") || !stripped.endsWith("|") || stripped.length() < 2) {
            throw wrong(line, number, "it does not begin and end with a bar");
        }
        List<String> cells = new ArrayList<>();
        StringBuilder cell = new StringBuilder();
        for (int i = 1; i < stripped.length(); i++) {
            char c = stripped.charAt(i);
            if (c == '\\' && i + 1 < stripped.length() && stripped.charAt(i + 1) == '|') {
                cell.append('|');
                i++;
            } else if (c == '|') {
                cells.add(cell.toString().strip());
                cell.setLength(0);
            } else {
                cell.append(c);
            }
        }
        return cells;
    }

    private static ZabbetException wrong(String line, int number, String why) {
        return new ZabbetException(
                "Line " + number + " of the Markdown table cannot be read: " + why + ".\n  " + line.strip());
    }
}
