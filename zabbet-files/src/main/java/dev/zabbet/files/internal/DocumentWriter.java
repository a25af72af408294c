package dev.zabbet.files.internal;

import dev.zabbet.row.Row;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SeedValue;
import java.time.Period;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Writes a seed as a row document in YAML, so that it reads back as the same rows. */
public final class DocumentWriter {
    private static final Pattern DATE = Pattern.compile("\\d{4}-\\d{2}-\\d{2}(T\\d{2}:\\d{2}(:\\d{2}(\\.\\d+)?)?Z?)?");

    private DocumentWriter() {}

    public static String yaml(Seed seed) {
        StringBuilder text = new StringBuilder();
        seed.clock().ifPresent(clock -> text.append("clock: ").append(clock).append("\n"));
        text.append(use(seed.storedTables()));
        Map<String, List<SeedRow>> tables = new LinkedHashMap<>();
        seed.rows().forEach(row -> tables.computeIfAbsent(row.table(), t -> new ArrayList<>())
                .add(row));
        if (!tables.isEmpty()) {
            text.append("tables:\n");
        }
        tables.forEach((table, rows) -> {
            text.append(table(table));
            boolean labelled = rows.stream().allMatch(row -> row.label().isPresent());
            boolean mixed =
                    !labelled && rows.stream().anyMatch(row -> row.label().isPresent());
            if (mixed) {
                throw new dev.zabbet.error.ZabbetException("Rows of " + table
                        + " with labels and without cannot stand in one document. Give all of them labels, or none.");
            }
            rows.forEach(row -> text.append(line(row)));
        });
        return text.toString();
    }

    /** The part that tells which tables' rows may be there already; empty if none. */
    static String use(Collection<String> tables) {
        return tables.isEmpty()
                ? ""
                : tables.stream()
                        .map(table -> quoted(table) + ": stored")
                        .collect(Collectors.joining(", ", "use: {", "}\n"));
    }

    /** The line that begins a table. */
    static String table(String name) {
        return "  " + quoted(name) + ":\n";
    }

    /** The line of a row. */
    static String line(SeedRow row) {
        String values = of(row.values());
        return "    " + row.label().map(label -> quoted(label) + ": ").orElse("- ")
                + (row.times() > 1 ? "{repeat: " + row.times() + ", of: " + values + "}" : values) + "\n";
    }

    private static String of(Row row) {
        return row.columns().stream()
                .map(column -> quoted(column) + ": " + value(row.get(column)))
                .collect(Collectors.joining(", ", "{", "}"));
    }

    static String value(@Nullable Object value) {
        if (value == null) {
            return "null";
        }
        if (value instanceof SeedValue.RowRef ref) {
            return "{row: " + quoted(ref.label()) + "}";
        }
        if (value instanceof SeedValue.Stored stored) {
            return "{stored: " + of(stored.key()) + "}";
        }
        if (value instanceof SeedValue.InFile file) {
            return "{file: " + quoted(file.where()) + "}";
        }
        if (value instanceof SeedValue.FromClock from) {
            boolean days = from.amount() instanceof Period period && period.getMonths() == 0 && period.getYears() == 0;
            return days ? "{plusDays: " + ((Period) from.amount()).getDays() + "}" : "{after: " + from.amount() + "}";
        }
        if (value instanceof SeedValue.InTurn inTurn) {
            return "{inTurn: "
                    + inTurn.values().stream().map(DocumentWriter::value).collect(Collectors.joining(", ", "[", "]"))
                    + "}";
        }
        if (value instanceof SeedValue.Made || value instanceof SeedValue.AnyStored) {
            return value.toString();
        }
        if (value instanceof SeedValue.Nested nested) {
            String document = document(nested.value());
            return looksWorkedOut(nested.value()) ? "{literal: " + document + "}" : document;
        }
        if (value instanceof List<?> list) {
            return list.stream().map(DocumentWriter::value).collect(Collectors.joining(", ", "[", "]"));
        }
        if (value instanceof Number || value instanceof Boolean) {
            return value.toString();
        }
        return quoted(value instanceof byte[] bytes ? "0x" + HexFormat.of().formatHex(bytes) : value.toString());
    }

    /** Returns a document as YAML has it: names plain where they can be, text always in quotes where it could be a number. */
    private static String document(@Nullable Object value) {
        if (value instanceof SeedValue said) {
            return value(said);
        }
        if (value instanceof Map<?, ?> map) {
            return map.entrySet().stream()
                    .map(entry -> quoted((String) entry.getKey()) + ": " + document(entry.getValue()))
                    .collect(Collectors.joining(", ", "{", "}"));
        }
        if (value instanceof List<?> list) {
            return list.stream().map(DocumentWriter::document).collect(Collectors.joining(", ", "[", "]"));
        }
        if (value instanceof String text) {
            return text.equals("true") || text.equals("false") ? "\"" + text + "\"" : quoted(text);
        }
        return String.valueOf(value);
    }

    /** Tells whether a part of a document would be read as something that is worked out. */
    static boolean looksWorkedOut(@Nullable Object value) {
        if (value instanceof Map<?, ?> map) {
            boolean own = map.size() == 1
                    && DocumentValues.SEED_WORDS.contains(
                            map.keySet().iterator().next());
            return own || map.values().stream().anyMatch(DocumentWriter::looksWorkedOut);
        }
        return value instanceof List<?> list && list.stream().anyMatch(DocumentWriter::looksWorkedOut);
    }

    /** Words of ASCII letters, digits and underscores, with single hyphens between. */
    private static boolean isPlain(String text) {
        boolean before = false; // whether a letter, digit or underscore stands before
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            boolean letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
            boolean inside = letter || (c >= '0' && c <= '9') || c == '_';
            if (i == 0 ? !letter : !inside && (c != '-' || !before)) {
                return false;
            }
            before = inside;
        }
        return before && !text.equalsIgnoreCase("null");
    }

    /** Plain where nothing can be taken for anything else, in double quotes otherwise. */
    private static String quoted(String text) {
        boolean digit = !text.isEmpty() && text.charAt(0) >= '0' && text.charAt(0) <= '9';
        if (digit ? DATE.matcher(text).matches() : isPlain(text)) {
            return text;
        }
        StringBuilder quoted = new StringBuilder("\"");
        text.codePoints().forEach(c -> {
            if (c == '"' || c == '\\') {
                quoted.append('\\').appendCodePoint(c);
            } else if (c < ' ' || c == 0x7f || (c >= 0x80 && c < 0xa0) || c == 0x2028 || c == 0x2029 || c == 0xfeff) {
                quoted.append(String.format("\\u%04x", c));
            } else if (Character.getType(c) == Character.SURROGATE || c == 0xfffe || c == 0xffff) {
                quoted.append(String.format("\\u%04x", c));
            } else {
                quoted.appendCodePoint(c);
            }
        });
        return quoted.append('"').toString();
    }
}
