package dev.zabbet.row;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Json.Document;
import dev.zabbet.internal.value.Text;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.type.CheckReturnValue;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Columns and their values. Immutable and thread-safe. The columns keep the order in which they were given; a value may
 * be null, and in an expected row it may be a matcher.
 */
@CheckReturnValue
public final class Row {
    /** A row with more columns looks them up by a map. */
    private static final int WIDE = 32;

    private final List<String> names;
    private final @Nullable Object[] values;
    private volatile @Nullable Map<String, Integer> places; // of a wide row
    private volatile Map<String, Document> documents = Map.of(); // those that were asked for

    private Row(List<String> names, @Nullable Object[] values) {
        this.names = names;
        this.values = values;
    }

    /**
     * {@return a row of one column; {@link #with} adds others}
     *
     * @param column the column's name
     * @param value the value, or a matcher where the row is an expectation; may be null
     */
    public static Row row(String column, @Nullable Object value) {
        Words.notNull(column, "column", "row");
        return new Row(List.of(column), new @Nullable Object[] {value});
    }

    /**
     * {@return a row of the map's columns, in the map's order}
     *
     * @param columns the values by column; null values are kept
     */
    public static Row of(Map<String, ? extends @Nullable Object> columns) {
        List<String> names = new ArrayList<>();
        List<@Nullable Object> values = new ArrayList<>();
        columns.forEach((name, value) -> {
            names.add(Words.notNull(name, "column", "Row.of"));
            values.add(value);
        });
        return new Row(List.copyOf(names), values.toArray());
    }

    /**
     * {@return a row of the given columns and values}
     *
     * @param columns the columns' names
     * @param values the values, one for each column
     * @throws IllegalArgumentException if there are not as many values as names
     */
    public static Row of(List<String> columns, @Nullable Object... values) {
        if (columns.size() != values.length) {
            throw new IllegalArgumentException(
                    "Row: " + columns.size() + " columns and " + values.length + " values; each column needs one.");
        }
        return new Row(List.copyOf(columns), values.clone());
    }

    /**
     * {@return a row that has this column too, or another value in it}
     *
     * @param column the column's name
     * @param value the value, or a matcher where the row is an expectation; may be null
     */
    public Row with(String column, @Nullable Object value) {
        Words.notNull(column, "column", "Row.with");
        Map<String, @Nullable Object> copy = asMap();
        copy.put(find(column) >= 0 ? names.get(find(column)) : column, value);
        return of(copy);
    }

    /** {@return the names of the columns in their order} */
    public List<String> columns() {
        return names;
    }

    /**
     * {@return whether the row has this column, even if it holds null}
     *
     * @param column the column's name
     */
    public boolean has(String column) {
        return find(column) >= 0;
    }

    /**
     * {@return the value of a column; bytes are a copy}
     *
     * @param column the column's name
     * @throws UnknownNameException if the row has no such column; it suggests the nearest
     */
    public @Nullable Object get(String column) {
        int at = find(column);
        if (at < 0) {
            throw new UnknownNameException("column in this row", column, names);
        }
        return CanonicalForm.copy(values[at]);
    }

    /**
     * {@return the document that a column of JSON holds: a map, a list, text, a number as {@code BigDecimal}, true or false; null
     * where the column or the document is null. It cannot be changed, and is read once}
     *
     * @param column the column's name
     * @throws UnknownNameException if the row has no such column; it suggests the nearest
     * @throws ZabbetException if the column holds something that is no JSON
     */
    public @Nullable Object document(String column) {
        Document known = documents.get(column);
        if (known == null) {
            Object held = get(column);
            known = held == null
                    ? new Document(null)
                    : Json.read(held.toString())
                            .orElseThrow(() ->
                                    new ZabbetException("Column " + column + " holds no JSON: " + Text.of(held) + "."));
            Map<String, Document> more = new HashMap<>(documents);
            more.put(column, known);
            documents = Map.copyOf(more);
        }
        return known.value();
    }

    /**
     * {@return the value of the column at a position; bytes are a copy}
     *
     * @param position the place in {@link #columns()}, from 0
     */
    public @Nullable Object at(int position) {
        return CanonicalForm.copy(values[position]);
    }

    /**
     * {@return the value of a column as a Java type that holds it without loss, for example {@code Integer} or
     * {@code LocalDate}}
     *
     * @param <T> the type of the value
     * @param column the column's name
     * @param type the type of the value that is returned
     * @throws UnknownNameException if the row has no such column
     * @throws ZabbetException if the value is null or no such value
     */
    @SuppressWarnings("unchecked") // the value of a primitive type is of its wrapper class
    public <T> T get(String column, Class<T> type) {
        Object value = get(column);
        if (value == null) {
            throw new ZabbetException("Column " + column + " is null; use get(\"" + column + "\") where it may be.");
        }
        try {
            Class<?> boxed = JavaValue.boxed(type);
            return (T) boxed.cast(Objects.requireNonNull(JavaValue.to(boxed, value)));
        } catch (InexactValueException e) {
            throw new ZabbetException(
                    "Column " + column + " cannot be read as " + type.getSimpleName() + ": " + e.clause() + ".");
        }
    }

    /** {@return the columns and values as a map of its own, in their order} */
    public Map<String, @Nullable Object> asMap() {
        Map<String, @Nullable Object> map = new LinkedHashMap<>();
        for (int i = 0; i < values.length; i++) {
            map.put(names.get(i), CanonicalForm.copy(values[i]));
        }
        return map;
    }

    private int find(String column) {
        int at = names.size() > WIDE ? places().getOrDefault(column, -1) : names.indexOf(column);
        for (int i = 0; at < 0 && i < names.size(); i++) {
            if (names.get(i).equalsIgnoreCase(column)) {
                at = i;
            }
        }
        return at;
    }

    private Map<String, Integer> places() {
        Map<String, Integer> known = places;
        if (known == null) {
            known = new HashMap<>();
            for (int i = names.size() - 1; i >= 0; i--) {
                known.put(names.get(i), i);
            }
            places = known;
        }
        return known;
    }

    /** Two rows are equal if they have the same columns, in any order, with the same values. */
    @Override
    public boolean equals(@Nullable Object other) {
        if (!(other instanceof Row that) || that.names.size() != names.size()) {
            return false;
        }
        for (int i = 0; i < values.length; i++) {
            int at = that.find(names.get(i));
            if (at < 0 || !ValueEquality.values(values[i], that.values[at])) {
                return false;
            }
        }
        return true;
    }

    @Override
    public int hashCode() {
        int hash = names.size();
        for (Object value : values) {
            hash += ValueEquality.hash(value); // the order of the columns does not count
        }
        return hash;
    }

    /** Returns {@code (status=CANCELLED, nights=2)}. */
    @Override
    public String toString() {
        return Collections.unmodifiableMap(asMap()).entrySet().stream()
                .map(e -> e.getKey() + "=" + Text.cell(e.getValue()))
                .collect(Collectors.joining(", ", "(", ")"));
    }
}
