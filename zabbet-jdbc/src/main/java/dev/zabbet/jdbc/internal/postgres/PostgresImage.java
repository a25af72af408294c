package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HexFormat;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/**
 * Reads the text of a whole row, as the journal keeps it: the server's form of composite values (its documentation,
 * "Composite Type Input and Output Syntax"), with the settings that the journal's function fixes. Only values whose text
 * says the same as the driver does; the others are asked for.
 */
final class PostgresImage {
    private static final Set<Kind> READ = EnumSet.of(
            Kind.BOOLEAN,
            Kind.INTEGER,
            Kind.DECIMAL,
            Kind.FLOAT,
            Kind.TEXT,
            Kind.FIXED_TEXT,
            Kind.ENUM,
            Kind.JSON,
            Kind.BYTES,
            Kind.DATE,
            Kind.TIME,
            Kind.TIMESTAMP,
            Kind.INSTANT,
            Kind.UUID);

    private static final DateTimeFormatter MOMENT = new DateTimeFormatterBuilder()
            .append(DateTimeFormatter.ISO_LOCAL_DATE)
            .appendLiteral(' ')
            .append(DateTimeFormatter.ISO_LOCAL_TIME)
            .appendOffset("+HH:mm:ss", "+00")
            .toFormatter(Locale.ROOT);

    private PostgresImage() {}

    /** Tells whether rows of a table can be read from their text. */
    static boolean canRead(Table table) {
        return table.columns().stream()
                .allMatch(column -> READ.contains(column.type().kind()));
    }

    /** Returns the row; null if one of its values has to be asked for: an infinite date, for example. */
    static @Nullable Row row(Table table, String text) {
        List<@Nullable String> fields = fields(text);
        if (fields.size() != table.columns().size()) {
            return null;
        }
        @Nullable Object[] values = new @Nullable Object[fields.size()];
        for (int i = 0; i < values.length; i++) {
            String field = fields.get(i);
            try {
                values[i] = field == null ? null : value(table.columns().get(i), field);
            } catch (DateTimeException | IllegalArgumentException e) {
                return null;
            }
        }
        return Row.of(table.columnNames(), values);
    }

    private static Object value(Column column, String text) {
        switch (column.type().kind()) {
            case BOOLEAN:
                return text.equals("t");
            case INTEGER:
                return Long.valueOf(text);
            case DECIMAL:
                return Character.isLetter(text.charAt(text.length() - 1)) ? (Object) text : new BigDecimal(text);
            case FLOAT:
                return Double.valueOf(text);
            case FIXED_TEXT:
                return text.stripTrailing();
            case BYTES:
                return HexFormat.of().parseHex(text, 2, text.length());
            case DATE:
                return LocalDate.parse(text);
            case TIME:
                return LocalTime.parse(text);
            case TIMESTAMP:
                return LocalDateTime.parse(text.replace(' ', 'T'));
            case INSTANT:
                return OffsetDateTime.parse(text, MOMENT).toInstant();
            case UUID:
                return UUID.fromString(text);
            default:
                return text;
        }
    }

    private static List<@Nullable String> fields(String text) {
        List<@Nullable String> fields = new ArrayList<>();
        StringBuilder field = new StringBuilder();
        boolean quoted = false;
        boolean there = false; // an empty field is null, and one of two quotes is empty
        for (int i = 1; i < text.length(); i++) {
            char c = text.charAt(i);
            if (quoted) {
                if (c == '\\' || (c == '"' && text.charAt(i + 1) == '"')) {
                    field.append(text.charAt(++i));
                } else if (c == '"') {
                    quoted = false;
                } else {
                    field.append(c);
                }
            } else if (c == '"') {
                quoted = true;
                there = true;
            } else if (c == ',' || i == text.length() - 1) {
                fields.add(there || field.length() > 0 ? field.toString() : null);
                field.setLength(0);
                there = false;
            } else {
                field.append(c);
            }
        }
        return fields;
    }
}
