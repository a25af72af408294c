package dev.zabbet.expect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.Counted;
import dev.zabbet.internal.report.RowFilter;
import dev.zabbet.internal.story.Story;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** An expectation on a table as far as it says which rows are looked at, in which order, and what of them counts. */
abstract sealed class TableLook permits TableExpectation {
    final Store store;
    final Table table;
    final long variation;
    final Look look;
    final Story.@Nullable Begun begun;

    TableLook(Store store, Table table, long variation, Look look, Story.@Nullable Begun begun) {
        this.store = store;
        this.table = table;
        this.variation = variation;
        this.look = look;
        this.begun = begun;
    }

    /**
     * Which rows are looked at, and what of them counts.
     *
     * @param where which rows
     * @param text the same in words, after the table's name
     * @param counted what of expected rows counts
     * @param order the columns to order by; none if the order does not count
     * @param most the number of rows at which the order is cut; null for all
     * @param strict whether a column has to keep values just as they are given
     */
    record Look(
            Condition where,
            String text,
            Counted counted,
            List<String> order,
            @Nullable Integer most,
            boolean strict) {
        static final Look ALL = new Look(Condition.all(), "", Counted.ALL, List.of(), null, false);
    }

    private TableExpectation with(Look other) {
        return new TableExpectation(store, table, variation, other, begun);
    }

    /**
     * Looks only at rows in which a column holds a value; for null, in which it is null. The value may be one of the
     * matchers {@code notNull}, {@code below}, {@code upTo}, {@code above}, {@code from},
     * {@code otherThan}, {@code between}, {@code oneOf} and {@code like} of {@link Expected}; the database looks for it.
     *
     * @param column the column's name
     * @param value the value, in any form that the column can hold; null for SQL's NULL
     * @return another expectation, on these only; this one stays as it is
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     * @throws ZabbetException for another matcher, or a value that the column can never hold
     */
    public TableExpectation where(String column, @Nullable Object value) {
        RowFilter wanted = RowFilter.of(table, column, value);
        return looking(
                look.where.and(wanted.condition()),
                look.text.isEmpty() ? " where " + wanted.text() : look.text + " and " + wanted.text());
    }

    /**
     * Looks also at rows in which a column holds a value, beside those looked at already; as {@link #where}.
     *
     * @param column the column's name
     * @param value the value, in any form that the column can hold; null for SQL's NULL
     * @return another expectation, on these only; this one stays as it is
     */
    public TableExpectation orWhere(String column, @Nullable Object value) {
        if (look.where.equals(Condition.all())) {
            throw new ZabbetException("orWhere(\"" + column + "\", …) adds to a where(…); call that first.");
        }
        RowFilter wanted = RowFilter.of(table, column, value);
        return looking(look.where.or(wanted.condition()), look.text + " or " + wanted.text());
    }

    private TableExpectation looking(Condition at, String text) {
        return with(new Look(at, text, look.counted, look.order, look.most, look.strict));
    }

    /**
     * Takes a value for the same only if its column keeps it just as it is given. Otherwise a time that is finer than the
     * column's precision equals what the database keeps of it, and a text that is shorter than its column's fixed width
     * what is filled up with blanks; a report says so.
     *
     * @return another expectation, on these only; this one stays as it is
     */
    public TableExpectation strictly() {
        return with(new Look(look.where, look.text, look.counted, look.order, look.most, true));
    }

    /**
     * Compares only these columns of expected rows: of an object, for example, not all its properties. Of a column of documents a
     * place may be named: {@code "doc.guest.name"}.
     *
     * @param columns at least one
     * @return another expectation, on these only; this one stays as it is
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     * @throws IllegalArgumentException if no column is named
     */
    public TableExpectation select(String... columns) {
        if (columns.length == 0) {
            throw new IllegalArgumentException("select() of " + table.name()
                    + " names no column, so that nothing would count. Its columns are "
                    + String.join(", ", table.columnNames()) + ".");
        }
        List<RowPart> parts =
                Stream.of(columns).map(name -> RowPart.of(table, name)).toList();
        parts.stream().filter(part -> part.path().isPattern()).findFirst().ifPresent(part -> {
            throw new ZabbetException("select(\"" + part.name()
                    + "\") stands for several places; name each, or say which are" + " not meant, by ignoring(…).");
        });
        return with(new Look(look.where, look.text, look.counted.select(parts), look.order, look.most, look.strict));
    }

    /**
     * Counts all columns of expected rows but these, in addition to what is ignored or not selected already. Of a column of
     * documents places may be named, with a star for any name or position: {@code "doc.guests[*].seenAt"}.
     *
     * @param columns at least one
     * @return another expectation, on these only; this one stays as it is
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     * @throws IllegalArgumentException if no column is named, or none would be left
     */
    public TableExpectation ignoring(String... columns) {
        if (columns.length == 0) {
            throw new IllegalArgumentException("ignoring() of " + table.name() + " names no column.");
        }
        Counted counted = look.counted.ignoring(
                Stream.of(columns).map(name -> RowPart.of(table, name)).toList());
        if (table.columns().stream().map(RowPart::of).noneMatch(counted::counts)
                && counted.selected().isEmpty()) {
            throw new IllegalArgumentException("ignoring(" + String.join(", ", columns) + ") leaves no column of "
                    + table.name() + " that counts. To count rows, call count(n).");
        }
        return with(new Look(look.where, look.text, counted, look.order, look.most, look.strict));
    }

    /**
     * Looks at the rows in the order of these columns; prefix a column with '-' for descending order. Nulls come first.
     *
     * @param columns the columns' names, each with a minus before it for descending order
     * @return another expectation, on these only; this one stays as it is
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     */
    public TableExpectation orderedBy(String... columns) {
        List<String> names = new ArrayList<>();
        for (String column : columns) {
            boolean down = column.startsWith("-");
            names.add((down ? "-" : "")
                    + RowPart.of(table, down ? column.substring(1) : column).name());
        }
        return with(new Look(look.where, look.text, look.counted, List.copyOf(names), look.most, look.strict));
    }

    /**
     * Looks at the first rows only.
     *
     * @param rows how many, at least 1
     * @return another expectation, on these only; this one stays as it is
     * @throws ZabbetException without {@link #orderedBy}: rows of a table have no order of their own
     * @throws IllegalArgumentException if {@code rows} is less than 1
     */
    public TableExpectation first(int rows) {
        if (rows < 1) {
            throw new IllegalArgumentException("first(" + rows + ") of " + table.name()
                    + ": the number of rows must be at least 1. To expect none, call empty().");
        }
        if (look.order.isEmpty()) {
            throw new ZabbetException("first(" + rows + ") of " + table.name()
                    + " needs an order: rows of a table have none of their own, so that it could be others next time. Say"
                    + " orderedBy(…) first.");
        }
        return with(new Look(look.where, look.text, look.counted, look.order, rows, look.strict));
    }
}
