package dev.zabbet.store;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import javax.sql.DataSource;

/**
 * A home of rows. A stage is the only caller; it calls from one thread at a time. Values go in and come out in the form
 * that {@link dev.zabbet.type.Kind} names.
 *
 * <p>An implementation for another home of rows (an application's own API, for example) needs nothing else from Zabbet.
 */
public interface Store extends AutoCloseable {

    /** {@return the tables} Called often, so an implementation should cache them. */
    Schema schema();

    /**
     * {@return whether somebody else may take keys of a table between {@link #reserve} and {@link #store}, so that a refused row
     * is worth another try with other keys}
     *
     * @param table the table
     */
    default boolean sharesKeys(Table table) {
        return false;
    }

    /** {@return the tables as they are now: looks, cheaply, whether somebody has changed them since they were read} */
    default Schema schemaNow() {
        return schema();
    }

    /**
     * Reads the tables again, if somebody has changed them since they were read. Asked when something has failed.
     *
     * @return whether they had been changed
     */
    default boolean readAgain() {
        return false;
    }
    /** {@return whether the rows live in this process's own memory, so that fakes can be made over them} */
    default boolean isInMemory() {
        return false;
    }

    /** {@return what and where this store is, for messages, without a password: {@code "H2 database huts in memory"}} */
    String description();

    /**
     * Reserves consecutive ordinals of a table that no row has had, and with them the values of its identity column if
     * it has one. Called before rows are planned.
     *
     * @param table the table
     * @param count how many, at least 1
     * @return the first of them, at least 1
     */
    long reserve(Table table, int count);

    /**
     * Reserves ordinals of several tables, each as {@link #reserve(Table, int)} does: at once, where that costs less.
     *
     * @param counts how many of which table, each at least 1
     * @return the first of each
     */
    default Map<Table, Long> reserve(Map<Table, Integer> counts) {
        Map<Table, Long> first = new LinkedHashMap<>();
        counts.forEach((table, count) -> first.put(table, reserve(table, count)));
        return first;
    }

    /**
     * Stores rows, all or none.
     *
     * @param load the rows
     * @throws dev.zabbet.error.ZabbetException if one is refused; nothing is stored then
     */
    void store(Load load);

    /**
     * {@return whether a row was refused since a stored one has the same key: by SQL's own code for that, where nothing else is said}
     *
     * @param refusal why a row was refused
     */
    default boolean isTwin(ConstraintException refusal) {
        return refusal.sqlState().equals("23505");
    }

    /**
     * Finds the stored row that was given a label when it was stored, in this process or an earlier one.
     *
     * @param table the table
     * @param label the row's label
     * @return the row; empty if none has the label
     */
    default Optional<Row> labelled(Table table, String label) {
        return Optional.empty();
    }

    /**
     * Finds a text that was kept beside the rows when they were stored, in this process or an earlier one.
     *
     * @param name what the text was kept under
     * @return the text; empty if none was kept
     */
    default Optional<String> noted(String name) {
        return Optional.empty();
    }

    /**
     * Reads the rows for which a condition holds, in key order where the table has a key, and gives each to
     * {@code reader} with all columns in the table's order.
     *
     * @param table the table
     * @param where which rows
     * @param reader gets each row, on the calling thread
     */
    void read(Table table, Condition where, Consumer<Row> reader);

    /**
     * Reads rows as {@link #read} does, so that very many are never held together: each is valid until the reader
     * returns, and made into a row only if the reader asks for that. The reader must not use the store meanwhile.
     *
     * @param table the table
     * @param where which rows
     * @param reader gets each row, on the calling thread; what it gets is valid until it returns
     */
    default void readStreaming(Table table, Condition where, Consumer<RowAtHand> reader) {
        read(table, where, row -> reader.accept(RowAtHand.of(row)));
    }

    /**
     * Reads the rows for which a condition holds into a list, ordered as {@link #read} does.
     *
     * @param table the table
     * @param where which rows
     * @return the rows; the list cannot be changed
     */
    default List<Row> rows(Table table, Condition where) {
        List<Row> rows = new java.util.ArrayList<>();
        read(table, where, rows::add);
        return List.copyOf(rows);
    }

    /**
     * {@return how many rows a table holds}
     *
     * @param table the table
     */
    default long count(Table table) {
        java.util.concurrent.atomic.LongAdder rows = new java.util.concurrent.atomic.LongAdder();
        read(table, Condition.all(), row -> rows.increment());
        return rows.sum();
    }

    /**
     * Deletes all rows of these tables, all or none. Keys go on from where they are.
     *
     * @param tables the tables
     * @throws dev.zabbet.error.ZabbetException if rows of other tables refer to them and would be left behind
     */
    void clear(List<Table> tables);

    /**
     * {@return whether there is a row for which a condition holds}
     *
     * @param table the table
     * @param where which rows
     */
    default boolean holds(Table table, Condition where) {
        java.util.concurrent.atomic.AtomicBoolean found = new java.util.concurrent.atomic.AtomicBoolean();
        read(table, where, row -> found.set(true));
        return found.get();
    }

    /**
     * Evaluates a check constraint for a row that need not be stored, where the store can do so. Asked only about checks
     * that Zabbet does not understand by itself.
     *
     * @param table the table
     * @param check the check
     * @param row the row
     * @return whether the row keeps the check; empty if the store cannot tell
     */
    default Optional<Boolean> keeps(Table table, Check check, Row row) {
        return Optional.empty();
    }

    /**
     * Makes an empty one of what values of a column refer to outside of all tables: a large object of PostgreSQL. Empty if
     * values of the column refer to nothing of the kind.
     *
     * @param table the table
     * @param column the column
     * @return an empty value; empty itself where the column needs none
     */
    default Optional<Object> blank(Table table, Column column) {
        return Optional.empty();
    }

    /** {@return whether arithmetic on decimals is exact here} Where it is not, checks that reckon are left to {@link #keeps}. */
    default boolean isExact() {
        return true;
    }

    /**
     * Has the code under test send to the store what it holds back, where it works in a transaction that is still open, as an
     * object-relational mapper does. Called when an act's code has returned; what it throws counts as thrown by that code.
     */
    default void flush() {}

    /** Forgets what code under test holds back in memory, since it has failed; on a database its own transaction does that. */
    default void discard() {}

    /**
     * Starts to record changes, whichever connection makes them.
     *
     * @return what has changed from now on
     */
    Watch watch();

    /**
     * Notes the present state, so that {@link #rewind} can bring it back. Points nest: the most recent one is the innermost.
     *
     * @return the state to go back to
     */
    RewindPoint mark();

    /**
     * Brings rows, keys and counters back to how they were when the point was noted. The point stays valid; points
     * noted after it do not.
     *
     * @param point the state to go back to
     */
    void rewind(RewindPoint point);

    /**
     * Runs statements on each connection from now on, the store's own among them, if this store is a database; asked before
     * the application gets its source of connections.
     *
     * @param statements statements, run in this order
     * @throws dev.zabbet.error.ZabbetException if the database refuses one
     */
    default void onEachConnection(List<String> statements) {}

    /** {@return the source of connections for the application, if this store is a database} */
    Optional<DataSource> dataSource();

    /**
     * {@return the source of connections for the application under a role, if this store is a database that has roles}
     *
     * @param role the role's name
     */
    default Optional<DataSource> dataSource(String role) {
        return Optional.empty();
    }

    /** Lets go of what the store holds; a database that lives only for this store ends with it. */
    @Override
    void close();
}
