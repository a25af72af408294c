package dev.zabbet.internal.document;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Width;
import dev.zabbet.internal.type.DocumentValue;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * What is named of a row: a column, or a place in the document that a column of JSON holds.
 *
 * @param column the column
 * @param path where in its document; the whole one for the column itself
 */
public record RowPart(Column column, DocumentPath path) {

    private static final int MOST_SHOWN = 60; // characters

    public static RowPart of(Column column) {
        return new RowPart(column, DocumentPath.WHOLE);
    }

    /**
     * Reads {@code status}, or {@code doc.guest.name} where {@code doc} is a column of JSON. A column that is called so itself is
     * meant first.
     *
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     * @throws ZabbetException if the column holds no documents, or the path cannot be read
     */
    public static RowPart of(Table table, String name) {
        Optional<Column> whole = table.column(name);
        for (int end = name.length() - 1; whole.isEmpty() && end > 0; end--) {
            if (name.charAt(end) == '.' || name.charAt(end) == '[') {
                Optional<Column> column = table.column(name.substring(0, end));
                if (column.isPresent()) {
                    requireDocuments(table, column.get(), name);
                    return new RowPart(column.get(), DocumentPath.read(name.substring(end), name));
                }
            }
        }
        return of(whole.orElseGet(() -> table.requireColumn(name)));
    }

    private static void requireDocuments(Table table, Column column, String name) {
        if (column.type().kind() != Kind.JSON) {
            String others = table.columns().stream()
                    .filter(c -> c.type().kind() == Kind.JSON)
                    .map(Column::name)
                    .collect(Collectors.joining(", "));
            throw new ZabbetException("No path leads into " + table.name() + "." + column.name() + ": the column is "
                    + column.type().sqlName() + ", and " + name + " needs one of JSON. "
                    + (others.isEmpty() ? "The table has none." : "Columns of JSON: " + others + "."));
        }
    }

    /** Returns the column's name, or that with the path. */
    public String name() {
        return column.name() + path;
    }

    public boolean isColumn() {
        return path.isWhole();
    }

    /** Tells whether it says all that another part says. */
    public boolean covers(RowPart other) {
        return column.name().equals(other.column.name()) && path.covers(other.path);
    }

    /** Returns what a row holds there: of a column its value, of a place in a document what {@link Row#document} holds there. */
    public @Nullable Object in(Row row) {
        return path.isWhole() ? row.get(column.name()) : path.in(document(row));
    }

    /** Tells whether something stands there, if only null. */
    public boolean isIn(Row row) {
        return path.isWhole() || path.isIn(document(row));
    }

    /** Returns the whole document of the column; null if it holds something else: a database need not check that. */
    private @Nullable Object document(Row row) {
        try {
            return row.document(column.name());
        } catch (ZabbetException e) {
            return null;
        }
    }

    /** Returns a row of parts alone, each under its name; what holds others in a document as JSON. */
    public static Row of(List<RowPart> parts, Row row) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (RowPart part : parts) {
            Object held = part.in(row);
            boolean structure = !part.isColumn() && (held instanceof Map || held instanceof List);
            try {
                values.put(part.name(), structure ? Json.write(held) : held);
            } catch (InexactValueException e) {
                throw new IllegalStateException(part.name(), e); // it was read from JSON
            }
        }
        return Row.of(values);
    }

    /**
     * Returns a value of the application as a document holds it.
     *
     * @throws ZabbetException if it is none that JSON can hold
     */
    public @Nullable Object plain(@Nullable Object value) {
        try {
            return Json.read(Json.write(DocumentValue.plain(value)))
                    .orElseThrow()
                    .value();
        } catch (InexactValueException e) {
            throw new ZabbetException("The value of " + name() + " can never stand in a document: " + e.clause() + ".");
        }
    }

    /**
     * Returns a document without places that do not count: names are left out, and elements of a list null, so that those behind
     * them keep their positions.
     *
     * @param document what stands at this part
     */
    public @Nullable Object without(List<RowPart> ignored, @Nullable Object document) {
        return ignored.isEmpty() ? document : without(ignored, path, document);
    }

    private static @Nullable Object without(List<RowPart> ignored, DocumentPath at, @Nullable Object value) {
        if (value instanceof Map<?, ?> map) {
            Map<String, @Nullable Object> kept = new LinkedHashMap<>();
            map.forEach((key, part) -> {
                DocumentPath below = at.name((String) key);
                if (ignored.stream().noneMatch(other -> other.path.covers(below))) {
                    kept.put((String) key, without(ignored, below, part));
                }
            });
            return kept;
        }
        if (value instanceof List<?> list) {
            List<@Nullable Object> kept = new ArrayList<>();
            for (int i = 0; i < list.size(); i++) {
                DocumentPath below = at.at(i);
                boolean counts = ignored.stream().noneMatch(other -> other.path.covers(below));
                kept.add(counts ? without(ignored, below, list.get(i)) : null);
            }
            return kept;
        }
        return value;
    }

    /** Returns what stands in a document for a report: text bare, what holds others as JSON without blanks. */
    public static String shown(@Nullable Object held) {
        try {
            return held instanceof Map || held instanceof List
                    ? Width.cut(Json.write(held), MOST_SHOWN)
                    : Text.brief(held);
        } catch (InexactValueException e) {
            return Text.brief(held);
        }
    }

    /** Returns the type under which a matcher takes what stands in a document. */
    public static DataType type(@Nullable Object held) {
        if (held instanceof BigDecimal) {
            return DataType.of(Kind.DECIMAL, "a number in a document");
        }
        if (held instanceof Boolean) {
            return DataType.of(Kind.BOOLEAN, "true or false in a document");
        }
        return held == null || held instanceof String
                ? DataType.of(Kind.TEXT, "text in a document")
                : DataType.of(Kind.JSON, "a part of a document");
    }
}
