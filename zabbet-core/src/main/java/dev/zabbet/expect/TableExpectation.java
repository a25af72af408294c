package dev.zabbet.expect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.report.SoftDeletion;
import dev.zabbet.internal.story.LooseEnd;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Store;
import java.util.List;
import java.util.Objects;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What should be stored in a table. Each method looks at the table as it is at that moment and throws an
 * {@link AssertionError} if the expectation does not hold; otherwise it returns this, so that expectations can be
 * chained.
 *
 * <p>A row is given as a {@link Row} or a map (only the columns named count), as an object (all its properties count),
 * as text in a notation (a table in Markdown), or as a list of these. Values are compared as the column's type:
 * {@code 2}, {@code "2"} and {@code 2.00} are the same number.
 *
 * <p>Immutable: {@link #where} returns another expectation.
 */
public final class TableExpectation extends TableLook {
    TableExpectation(Store store, Table table, long variation, Look look, Story.@Nullable Begun begun) {
        super(store, table, variation, look, begun);
    }

    /**
     * Begins an expectation on all rows of a table; {@code Stage.expect} is the usual way.
     *
     * @param store the store that is asked
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param variation the number that reports name
     * @return the expectation, to be gone on with
     */
    public static TableExpectation on(Store store, String table, long variation) {
        Table found = store.schemaNow().require(table);
        Story story = Stories.of(store);
        return new TableExpectation(
                store,
                found,
                variation,
                Look.ALL,
                story == null ? null : story.begin(LooseEnd.Kind.EXPECTATION, "expect(\"" + found.name() + "\")"));
    }

    /**
     * Expects these rows and no others, in this order.
     *
     * @param rows the expected rows: maps, {@link dev.zabbet.row.Row}s, objects, or a table in Markdown; at least one
     * @return this expectation
     * @throws ZabbetException without {@link #orderedBy}
     */
    public TableExpectation holdsInOrder(Object... rows) {
        if (look.order().isEmpty()) {
            throw new ZabbetException("holdsInOrder(…) of " + table.name()
                    + " needs an order: rows of a table have none of their own. Say orderedBy(…) first.");
        }
        return ask("holdsInOrder(…)", compared -> compared.inOrder(rows));
    }

    /**
     * Expects that no two rows hold the same in these columns; rows with a null among them do not count.
     *
     * @param columns the columns' names
     * @return this expectation
     * @throws dev.zabbet.error.UnknownNameException if the table has no such column
     */
    public TableExpectation unique(String... columns) {
        List<String> names =
                Stream.of(columns).map(c -> table.requireColumn(c).name()).toList();
        return ask("unique(" + String.join(", ", names) + ")", compared -> compared.unique(names));
    }

    /**
     * {@return the only row looked at}
     *
     * @throws AssertionError unless there is exactly one
     */
    public Row one() {
        AtomicReference<@Nullable Row> found = new AtomicReference<>();
        ask("one()", compared -> found.compareAndSet(null, compared.one()));
        return handedOut(found);
    }

    /**
     * {@return the row with this key}
     *
     * @param key the key; of a key of several columns a list in key order, or a row
     * @throws AssertionError if there is none
     */
    public Row one(Object key) {
        AtomicReference<@Nullable Row> found = new AtomicReference<>();
        ask("one(" + key + ")", compared -> found.compareAndSet(null, compared.one(key)));
        return handedOut(found);
    }

    /**
     * Expects that the row with this key is there and soft-deleted: the column that says when is not null. That is the one
     * column of times that may be null and is named like deleted, removed, cancelled or archived.
     *
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @return this expectation
     * @throws ZabbetException if no column, or more than one, is named like that
     */
    public TableExpectation softDeleted(Object key) {
        return softDeleted(key, SoftDeletion.column(table));
    }

    /**
     * Expects that the row with this key is there and soft-deleted by this column.
     *
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @param column the column's name
     * @return this expectation
     */
    public TableExpectation softDeleted(Object key, String column) {
        String name = table.requireColumn(column).name();
        return ask("softDeleted(" + key + ")", compared -> compared.softDeleted(key, name));
    }

    /**
     * Expects that each of these rows is stored, a row of its own for each; others may be stored too.
     *
     * @param rows the expected rows: maps, {@link dev.zabbet.row.Row}s, objects, or a table in Markdown; at least one
     * @return this expectation
     */
    public TableExpectation holds(Object... rows) {
        return ask("holds(…)", compared -> compared.compare(false, rows));
    }

    /**
     * Expects that these rows are stored and no others.
     *
     * @param rows the expected rows: maps, {@link dev.zabbet.row.Row}s, objects, or a table in Markdown; at least one
     * @return this expectation
     */
    public TableExpectation holdsOnly(Object... rows) {
        return ask("holdsOnly(…)", compared -> compared.compare(true, rows));
    }

    /**
     * Expects that no stored row is like one of these.
     *
     * @param rows the expected rows: maps, {@link dev.zabbet.row.Row}s, objects, or a table in Markdown; at least one
     * @return this expectation
     */
    public TableExpectation holdsNoneOf(Object... rows) {
        return ask("holdsNoneOf(…)", compared -> compared.noneOf(rows));
    }

    /**
     * Expects this number of stored rows.
     *
     * @param rows how many, from 0
     * @return this expectation
     */
    public TableExpectation count(long rows) {
        return ask("count(" + rows + ")", compared -> compared.count(rows));
    }

    /**
     * Expects that no row is stored.
     *
     * @return this expectation
     */
    public TableExpectation empty() {
        return count(0);
    }

    /** {@return the stored rows that this is about, in order} */
    public List<Row> rows() {
        ended();
        reads("rows()");
        return List.copyOf(new TableComparison(this).stored());
    }

    /**
     * Expects these rows and no others, very many of them: both sides are read in key order, one row at a time, and never
     * held. Each expected row gives its key, and they come in its order.
     *
     * @param rows in any form that {@link #holds} takes; the stream is closed
     * @return this expectation
     * @throws ZabbetException if a row is out of order or without its key, or the key is one that databases order each in
     *     their own way
     */
    public TableExpectation holdsOnlyInKeyOrder(Stream<?> rows) {
        ended();
        reads("holdsOnlyInKeyOrder(…)");
        new TableComparison(this).holdsOnlyInKeyOrder(rows);
        return this;
    }

    /** What is asked can be asked again, of rows that are somewhat different. */
    private TableExpectation ask(String how, Consumer<TableComparison> question) {
        ended();
        Story.expect(
                store,
                table.name() + look.text() + ": " + how,
                table,
                view -> question.accept(new TableComparison(new TableExpectation(view, table, variation, look, null))));
        return this;
    }

    private void ended() {
        if (begun != null) {
            begun.ended();
        }
    }

    private Row handedOut(AtomicReference<@Nullable Row> found) {
        reads("the row");
        return Objects.requireNonNull(found.get());
    }

    private void reads(String how) {
        Story story = Stories.of(store);
        if (story != null) {
            story.reads(table.name() + look.text() + ": " + how, table);
        }
    }
}
