package dev.zabbet.jdbc.internal.store;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Load;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.RowAtHand;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/**
 * Rows in a database, seen from inside the caller's transaction while there is one, and from outside otherwise. A store of
 * its own stands for each transaction ({@link JdbcStore#within}); it ends without a word when the transaction does.
 */
public final class CallerStore implements Store {
    private final JdbcStore outside;
    private final CallerTransaction caller;
    private @Nullable JdbcStore inside;
    private @Nullable Object identity; // of the transaction that the store is inside of
    private @Nullable Thread thread; // that it is open on
    private boolean flushing;

    /**
     * A state of one of the stores.
     *
     * @param of the store that it is of
     */
    private record Point(JdbcStore of, RewindPoint point) implements RewindPoint {}

    private CallerStore(JdbcStore outside, CallerTransaction caller) {
        this.outside = outside;
        this.caller = caller;
    }

    /**
     * Opens a stage on a database, for tests whose transactions somebody else begins and ends. While such a transaction is
     * open, the stage works inside it: it sees what was not committed, what it stores goes when the transaction is rolled back,
     * and a rewind is a rollback to a savepoint. Otherwise it works as on any database.
     *
     * @param caller tells of the transaction
     * @param keySequences the sequences that the application takes keys from itself, by the names of tables
     * @throws ZabbetException as {@code Jdbc.stage(DataSource)}
     */
    public static Stage stage(DataSource dataSource, CallerTransaction caller, Map<String, String> keySequences) {
        return Stage.on(clock -> new CallerStore(
                StoreOpening.open(dataSource, JdbcStore.AtEnd.KEEP, null, Map.copyOf(keySequences)), caller));
    }

    /** Returns the store that knows the database by a connection of its own. */
    public JdbcStore outside() {
        return outside;
    }

    /** Returns the store to ask now; what the code under test holds back is in the database then. */
    private synchronized JdbcStore now() {
        JdbcStore store = current();
        if (store != outside && !flushing) {
            flush();
        }
        return store;
    }

    private synchronized JdbcStore current() {
        CallerTransaction.Open open = caller.open().orElse(null);
        JdbcStore known = inside;
        Thread entered = thread;
        if (open == null && entered != null && entered != Thread.currentThread()) {
            throw new ZabbetException(
                    "The stage was called on thread " + Thread.currentThread().getName()
                            + ", and the test's transaction is open on thread " + entered.getName()
                            + ". What it holds is seen there only: call the stage on that thread, or end the transaction first.");
        }
        if (open != null && known != null && identity == open.identity()) {
            return known;
        }
        if (known != null) {
            inside = null;
            identity = null;
            thread = null;
            outside.leaveTransaction();
        }
        if (open == null) {
            return outside;
        }
        try {
            JdbcStore store = outside.within(open.connection());
            inside = store;
            identity = open.identity();
            thread = Thread.currentThread();
            return store;
        } catch (SQLException e) {
            throw new ZabbetException("The transaction of the test cannot be used: " + e.getMessage(), e);
        }
    }

    @Override
    public void flush() {
        if (current() == outside) {
            return;
        }
        flushing = true;
        try {
            caller.flush();
        } finally {
            flushing = false;
        }
    }

    @Override
    public Schema schema() {
        return outside.schema();
    }

    @Override
    public Schema schemaNow() {
        return now().schemaNow();
    }

    @Override
    public boolean readAgain() {
        return now().readAgain();
    }

    @Override
    public boolean isInMemory() {
        return outside.isInMemory();
    }

    @Override
    public String description() {
        return outside.description();
    }

    @Override
    public boolean sharesKeys(Table table) {
        return outside.sharesKeys(table);
    }

    @Override
    public long reserve(Table table, int count) {
        return now().reserve(table, count);
    }

    @Override
    public Map<Table, Long> reserve(Map<Table, Integer> counts) {
        return now().reserve(counts);
    }

    @Override
    public void store(Load load) {
        now().store(load);
    }

    @Override
    public boolean isTwin(ConstraintException refusal) {
        return outside.isTwin(refusal);
    }

    @Override
    public Optional<Row> labelled(Table table, String label) {
        return now().labelled(table, label);
    }

    @Override
    public Optional<String> noted(String name) {
        return now().noted(name);
    }

    @Override
    public void read(Table table, Condition where, Consumer<Row> reader) {
        now().read(table, where, reader);
    }

    @Override
    public void readStreaming(Table table, Condition where, Consumer<RowAtHand> reader) {
        now().readStreaming(table, where, reader);
    }

    @Override
    public long count(Table table) {
        return now().count(table);
    }

    @Override
    public void clear(List<Table> tables) {
        now().clear(tables);
    }

    @Override
    public boolean holds(Table table, Condition where) {
        return now().holds(table, where);
    }

    @Override
    public Optional<Boolean> keeps(Table table, Check check, Row row) {
        return now().keeps(table, check, row);
    }

    @Override
    public Optional<Object> blank(Table table, Column column) {
        return outside.blank(table, column);
    }

    @Override
    public boolean isExact() {
        return outside.isExact();
    }

    @Override
    public Watch watch() {
        JdbcStore begun = now();
        Watch watch = begun.watch();
        return new Watch() {
            @Override
            public List<Change> changes() {
                if (current() != begun) {
                    throw new ZabbetException(
                            begun == outside
                                    ? "The test's transaction began inside the act, so that what the act left is not known"
                                            + " from what it found. Begin it before, or end it in the act as well."
                                    : "The test's transaction ended inside the act, and the knowledge of what changed with"
                                            + " it. End it before the act (with Spring: TestTransaction.end()).");
                }
                return watch.changes();
            }

            @Override
            public void takeBack() {
                watch.takeBack();
                caller.takenBack();
            }

            @Override
            public void close() {
                watch.close();
            }
        };
    }

    @Override
    public RewindPoint mark() {
        JdbcStore store = now();
        Point point = new Point(store, store.mark());
        if (store == outside) {
            outside.dataSource(); // whoever takes keys next does it without asking the stage
        }
        return point;
    }

    @Override
    public void rewind(RewindPoint point) {
        Point to = (Point) point;
        JdbcStore store = now();
        if (to.of() != store) {
            throw new ZabbetException(
                    to.of() == outside
                            ? "This point was noted outside of the transaction that the test runs in, which has to end before"
                                    + " the rows can be brought back to it."
                            : "The transaction that this point was noted in is over; nothing of it can be brought back.");
        }
        store.rewind(to.point());
        if (store != outside) {
            caller.takenBack();
        }
    }

    @Override
    public void onEachConnection(List<String> statements) {
        now().onEachConnection(statements);
    }

    /** The application takes its connections as it always does. */
    @Override
    public Optional<DataSource> dataSource() {
        return current() == outside ? outside.dataSource() : Optional.of(outside.plainDataSource());
    }

    @Override
    public Optional<DataSource> dataSource(String role) {
        return outside.dataSource(role);
    }

    @Override
    public void close() {
        outside.close();
    }
}
