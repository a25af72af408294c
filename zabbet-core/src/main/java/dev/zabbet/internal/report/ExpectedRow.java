package dev.zabbet.internal.report;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.DocumentMatch;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.Proxies;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.row.RowNotation;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Store;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.ServiceLoader;
import org.jspecify.annotations.Nullable;

/** A row as expected: for some columns of a table, or places in their documents, a value or a matcher. */
public final class ExpectedRow {
    final Table table;
    private final Map<RowPart, @Nullable Object> given = new LinkedHashMap<>();
    private final Map<RowPart, @Nullable Object> wanted = new LinkedHashMap<>();
    private final boolean strict;
    private final Counted counted; // of its documents

    private ExpectedRow(Table table, Row row) {
        this(table, row, false, Counted.ALL);
    }

    private ExpectedRow(Table table, Row row, boolean strict, Counted counted) {
        if (row.columns().isEmpty()) {
            throw new ZabbetException("An expected row of " + table.name()
                    + " names no column, so that any row would do. Name one that counts, or count the rows: count(n)"
                    + " of a table, counts(…) of a footprint.");
        }
        this.table = table;
        this.strict = strict;
        this.counted = counted;
        for (String name : row.columns()) {
            RowPart part = RowPart.of(table, name);
            Object value = row.get(name);
            given.put(part, value);
            wanted.put(part, value instanceof Matcher ? value : canonical(table, part, value));
        }
    }

    /** Reads whatever a user may give as rows: rows, maps, objects, text in a notation, or lists of them. */
    public static List<ExpectedRow> of(Table table, @Nullable Object... given) {
        return read(table, false, given);
    }

    /** Reads rows that are expected to be new: of an object that was not stored itself the key is not known yet. */
    public static List<ExpectedRow> ofAdded(Table table, @Nullable Object... given) {
        return read(table, true, given);
    }

    private static List<ExpectedRow> read(Table table, boolean added, @Nullable Object... given) {
        List<ExpectedRow> rows = new ArrayList<>();
        for (Object one : given) {
            if (one == null) {
                throw new NullPointerException("An expected row of " + table.name() + " is null.");
            }
            if (one instanceof String text) {
                notation(text).forEach(row -> rows.add(new ExpectedRow(table, asWritten(table, row))));
            } else if (one instanceof Iterable<?> several) {
                several.forEach(each -> rows.addAll(read(table, added, each)));
            } else {
                rows.add(new ExpectedRow(table, row(table, added, one)));
            }
        }
        return rows;
    }

    private static Row asWritten(Table table, Row row) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        row.columns().forEach(name -> values.put(name, Matchers.AsWritten.of(table, name, row.get(name))));
        return Row.of(values);
    }

    private static List<Row> notation(String text) {
        List<RowNotation> known = new ArrayList<>();
        ServiceLoader.load(RowNotation.class, ExpectedRow.class.getClassLoader())
                .forEach(known::add);
        return known.stream()
                .filter(notation -> notation.recognises(text))
                .findFirst()
                .orElseThrow(() -> new ZabbetException("Rows given as text are read as a table in Markdown"
                        + (known.isEmpty() ? " by the module zabbet-files, which is not on the class path" : "")
                        + "; this begins with "
                        + Text.of(text.strip().lines().findFirst().orElse(""))
                        + ". Write | column | column | in the first line."))
                .read(text);
    }

    @SuppressWarnings("unchecked")
    private static Row row(Table table, boolean added, Object given) {
        if (given instanceof Row row) {
            return row;
        }
        if (given instanceof Map<?, ?> map) {
            return Row.of((Map<String, ?>) map);
        }
        if (JavaValue.kindOf(given.getClass()) != Kind.OTHER) {
            throw new ZabbetException("An expected row of " + table.name()
                    + " can be a Row, a map, an object or a table in Markdown, not the single value " + Text.of(given)
                    + ".");
        }
        Object real = Proxies.real(given);
        TypeShape<Object> shape = ColumnMapping.laidOut(TypeShape.of((Class<Object>) real.getClass()), table, Map.of());
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (Prop prop : shape.properties()) {
            Optional<Column> found = ColumnMapping.column(table, prop, Map.of());
            if (found.isEmpty() && shape.isEntity()) {
                continue; // a provider keeps it somewhere else
            }
            Column column = found.orElseThrow(() -> new UnknownNameException(
                    "column of table " + table.name() + " for property "
                            + shape.type().getSimpleName() + "::" + prop.name(),
                    prop.name(),
                    table.columnNames()));
            Object value = shape.readStored(real, prop);
            if (!ColumnMapping.isReferring(column, prop) && !(added && isUnsetKey(table, column, value))) {
                values.put(column.name(), value);
            }
        }
        return Row.of(values);
    }

    /** Tells whether the key of an object says that the object has not been stored: nothing, or a number that is none. */
    private static boolean isUnsetKey(Table table, Column column, @Nullable Object value) {
        boolean none = column.isNumbered() && value instanceof Number number && number.longValue() == 0;
        return table.keyColumns().contains(column.name()) && (value == null || none);
    }

    private static @Nullable Object canonical(Table table, RowPart part, @Nullable Object value) {
        if (part.path().isPattern()) {
            throw new ZabbetException(
                    "The path " + part.name() + " stands for several places, and so can hold no one value"
                            + " of an expected row. Name one place, or expect a part of the document by jsonPart.");
        }
        return part.isColumn() ? canonical(table, part.column(), value) : part.plain(value);
    }

    static @Nullable Object canonical(Table table, Column column, @Nullable Object value) {
        try {
            return CanonicalForm.of(column.type(), value);
        } catch (InexactValueException e) {
            if (value instanceof Number && column.type().kind() == Kind.DECIMAL) {
                return value;
            }
            throw new ZabbetException("The expected value of " + table.name() + "." + column.name()
                    + " can never be stored: the column is " + column.type().sqlName() + ", and " + e.clause() + ".");
        }
    }

    /** Returns the same row with only what counts of it. */
    public ExpectedRow only(Counted counts) {
        Map<String, @Nullable Object> kept = new LinkedHashMap<>();
        given.forEach((part, value) -> {
            if (counts.counts(part)) {
                kept.put(part.name(), value);
            } else if (!(value instanceof Matcher)) {
                for (RowPart below : counts.below(part)) {
                    List<Object> steps = below.path().steps();
                    DocumentPath rest =
                            new DocumentPath(steps.subList(part.path().steps().size(), steps.size()));
                    kept.put(below.name(), document(part).map(rest::in).orElse(null));
                }
            }
        });
        if (kept.isEmpty()) {
            throw new ZabbetException("No column that counts is in the expected row " + describe() + ".");
        }
        return new ExpectedRow(table, Row.of(kept), strict, counts);
    }

    /** Returns the document that is expected at a part; empty if it is null, or text that is no JSON. */
    private Optional<Object> document(RowPart part) {
        Object value = wanted.get(part);
        return part.isColumn() && value != null
                ? Json.read(value.toString()).map(Json.Document::value)
                : Optional.ofNullable(value);
    }

    /** Returns the same row, whose values the columns have to keep just as they are given. */
    public ExpectedRow strictly() {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        given.forEach((part, value) -> values.put(part.name(), value));
        return new ExpectedRow(table, Row.of(values), true, counted);
    }

    /** Returns the same row with values where it names columns of other rows. */
    public ExpectedRow resolved(Store store) {
        if (given.values().stream().noneMatch(value -> value instanceof Matchers.OfRow)) {
            return this;
        }
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        given.forEach((part, value) ->
                values.put(part.name(), value instanceof Matchers.OfRow other ? other.resolved(store) : value));
        return new ExpectedRow(table, Row.of(values), strict, counted);
    }

    boolean isStrict() {
        return strict;
    }

    boolean hasMatchers() {
        return wanted.values().stream().anyMatch(value -> value instanceof Matcher);
    }

    /** Tells whether it names columns alone, and no place in a document. */
    boolean isFlat() {
        return wanted.keySet().stream().allMatch(RowPart::isColumn) && !counted.hasPlaces();
    }

    /** Returns what a stored row that is just like this holds in the columns that count. */
    Row plain() {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        wanted.forEach((part, value) -> values.put(part.name(), value));
        return Row.of(values);
    }

    int size() {
        return wanted.size();
    }

    /** Returns what of a stored row is not as expected, in the order of the expectation. */
    public List<RowPart> differences(Row stored) {
        List<RowPart> different = new ArrayList<>();
        wanted.forEach((part, value) -> {
            if (!matches(part, value, stored)) {
                different.add(part);
            }
        });
        return different;
    }

    public boolean matches(Row stored) {
        for (Map.Entry<RowPart, @Nullable Object> entry : wanted.entrySet()) {
            if (!matches(entry.getKey(), entry.getValue(), stored)) {
                return false;
            }
        }
        return true;
    }

    private boolean matches(RowPart part, @Nullable Object wanted, Row row) {
        Object stored = part.in(row);
        List<RowPart> ignored = counted.ignoredIn(part);
        if (!(wanted instanceof Matcher) && !ignored.isEmpty()) {
            return Json.same(
                    part.without(ignored, document(part).orElse(null)),
                    part.without(
                            ignored,
                            part.isColumn() ? row.document(part.column().name()) : stored));
        }
        if (!part.isColumn()) {
            return wanted instanceof Matcher matcher
                    ? DocumentMatch.matches(matcher, stored, row)
                    : Json.same(wanted, stored);
        }
        Column column = part.column();
        if (wanted instanceof Matcher matcher) {
            return matcher.matches(column.type(), stored, row);
        }
        return ValueEquality.asStored(column.type(), wanted, stored)
                && (!strict || StoredForm.of(column, given.get(part), stored).isEmpty());
    }

    /** Tells whether the expectation gives the key, so that only the row with this key can be meant. */
    boolean hasKey() {
        List<String> key = table.keyColumns();
        return !key.isEmpty()
                && key.stream().allMatch(k -> wanted.entrySet().stream()
                        .anyMatch(e -> e.getKey().name().equals(k)
                                && e.getKey().isColumn()
                                && !(e.getValue() instanceof Matcher)));
    }

    boolean sameKey(Row stored) {
        return table.keyColumns().stream().allMatch(k -> {
            RowPart part = RowPart.of(table.requireColumn(k));
            return matches(part, wanted.get(part), stored);
        });
    }

    /** Returns what a difference in a column looks like, if it looks like one that has often been met. */
    Optional<String> knownDifference(RowPart part, Row stored) {
        if (!part.isColumn() || wanted.get(part) instanceof Matcher) {
            return Optional.empty();
        }
        Column column = part.column();
        boolean key = table.keyColumns().contains(column.name());
        Optional<String> kept =
                strict ? StoredForm.of(column, given.get(part), stored.get(column.name())) : Optional.empty();
        return kept.isPresent() ? kept : KnownDifference.of(column, key, wanted.get(part), stored.get(column.name()));
    }

    /** Returns what a report shows of a part that differs: of two documents each place at which they do. */
    List<Excerpt.Named> excerpts(RowPart part, Row stored) {
        Object value = wanted.get(part);
        if (value instanceof Matcher matcher) {
            String held =
                    part.isColumn() ? Text.cell(DisplayValue.of(part.column(), part.in(stored))) : shown(part, stored);
            return List.of(new Excerpt.Named(part, new Excerpt(held, matcher.describe(), Optional.empty())));
        }
        boolean documents = part.column().type().kind() == Kind.JSON
                && (!part.isColumn() || (isJson(value) && isJson(part.in(stored))));
        if (!documents) {
            Column column = part.column();
            return List.of(new Excerpt.Named(
                    part,
                    Excerpt.of(DisplayValue.of(column, stored.get(column.name())), DisplayValue.of(column, value))));
        }
        return Excerpt.ofDocuments(part, stored, document(part).orElse(null), counted.ignoredIn(part));
    }

    private static boolean isJson(@Nullable Object held) {
        return held == null || Json.read(held.toString()).isPresent();
    }

    /** Returns what a stored row holds there, for a report. */
    static String shown(RowPart part, Row stored) {
        if (part.isColumn()) {
            return Text.brief(
                    DisplayValue.of(part.column(), stored.get(part.column().name())));
        }
        return part.isIn(stored) ? RowPart.shown(part.in(stored)) : Excerpt.NOT_THERE;
    }

    /** Returns what the column made of the value on the way, though both are considered equal. */
    Optional<String> kept(RowPart part, Row stored) {
        return wanted.get(part) instanceof Matcher || !part.isColumn()
                ? Optional.empty()
                : StoredForm.of(part.column(), given.get(part), part.in(stored));
    }

    String wanted(RowPart part) {
        Object value = wanted.get(part);
        if (value instanceof Matcher matcher) {
            return matcher.describe();
        }
        return part.isColumn() ? Text.brief(DisplayValue.of(part.column(), value)) : RowPart.shown(value);
    }

    public List<RowPart> parts() {
        return List.copyOf(wanted.keySet());
    }

    /** Returns {@code status=CANCELLED, nights=2}. */
    public String describe() {
        List<String> parts = new ArrayList<>();
        wanted.keySet().forEach(part -> parts.add(part.name() + "=" + wanted(part)));
        return String.join(", ", parts);
    }

    /** Returns a key by columns; it is a value, a list in key order, or a row. */
    public static Map<String, Object> key(Table table, Object key) {
        List<String> columns = table.keyColumns();
        if (columns.isEmpty()) {
            throw new ZabbetException("Table " + table.name() + " has no primary key; leave the key out: changed(\""
                    + table.name() + "\", row).");
        }
        List<?> values;
        if (key instanceof Row row) {
            values = columns.stream().map(row::get).toList();
        } else if (key instanceof List<?> list) {
            values = list;
        } else {
            values = List.of(key);
        }
        if (values.size() != columns.size()) {
            throw new ZabbetException("The key of " + table.name() + " is (" + String.join(", ", columns) + "); "
                    + Words.count(values.size(), "value") + " given.");
        }
        Map<String, Object> keyed = new LinkedHashMap<>();
        for (int i = 0; i < values.size(); i++) {
            @Nullable Object value = canonical(table, table.requireColumn(columns.get(i)), values.get(i));
            keyed.put(columns.get(i), Words.notNull(value, "key", "changed"));
        }
        return keyed;
    }
}
