package dev.zabbet.internal.memory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Load;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.RowSource;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Consumer;
import java.util.function.Predicate;
import java.util.function.Supplier;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/**
 * Rows in memory that obey the schema as those of a database do: types with their length, precision and scale, not null, unique
 * keys (also of expressions and of some rows), checks, references with what happens on delete and update, deferred ones at commit;
 * numbers, defaults, computed columns. A refusal is a {@link ConstraintException} with the SQLState that a database gives.
 * {@link #notEnforced()} names the constraints that are not understood here, and so not enforced.
 *
 * <p>Thread-safe. Each call is one transaction, unless its thread has {@link #begin begun} one. One transaction at a time changes
 * rows; others wait up to five seconds, and read what was committed.
 *
 * <p>How it works is described with the package.
 */
public final class MemoryStore implements Store, MemoryRows {
    private final MemorySearch search = new MemorySearch();
    private final MemoryTurns turns = new MemoryTurns(this);
    private final List<UnflushedChanges> heldBack = new CopyOnWriteArrayList<>();
    private final Schema schema;
    private final Clock clock;
    final Map<String, MemoryTable> tables = new LinkedHashMap<>();
    final MemoryReferences references;
    private final MemoryWriting writing;
    final MemoryLog log = new MemoryLog();
    private final Map<String, Row> labels = new LinkedHashMap<>();

    @Nullable
    MemoryTransaction open;

    private final Map<String, String> notes = new LinkedHashMap<>();

    private record Point(int size, Map<String, Long> counters, Map<String, Row> labels, Map<String, String> notes)
            implements RewindPoint {}

    /**
     * @param schema the tables
     * @param clock what a default of the present time is taken from
     */
    public MemoryStore(Schema schema, Clock clock) {
        this.schema = schema;
        this.clock = clock;
        schema.tables()
                .forEach(table -> tables.put(table.name(), new MemoryTable(table, new ColumnFilling(table, clock))));
        this.references = new MemoryReferences(schema, tables, tables.values());
        this.writing = new MemoryWriting(schema.enforcesTypes(), log, references);
    }

    @Override
    public Schema schema() {
        return schema;
    }

    @Override
    public Clock clock() {
        return clock;
    }

    @Override
    public boolean isInMemory() {
        return true;
    }

    @Override
    public String description() {
        return "memory";
    }

    /**
     * Returns what is held back in one way, which lives as long as this store. It is sent here before anybody looks at the rows.
     *
     * @param type the way
     * @param first makes it, when it is asked for the first time
     */
    public synchronized <H extends UnflushedChanges> H heldBack(Class<H> type, Supplier<H> first) {
        for (UnflushedChanges known : heldBack) {
            if (type.isInstance(known)) {
                return type.cast(known);
            }
        }
        H made = first.get();
        heldBack.add(made);
        return made;
    }

    @Override
    public void flush() {
        heldBack.forEach(UnflushedChanges::flush);
    }

    @Override
    public void discard() {
        heldBack.forEach(UnflushedChanges::discard);
    }

    @Override
    public Optional<DataSource> dataSource() {
        return Optional.empty();
    }

    /** Returns the constraints that are not understood in memory and so not enforced, each as {@code table: text}. */
    public List<String> notEnforced() {
        return tables.values().stream()
                .flatMap(table -> table.notEnforced().stream())
                .toList();
    }

    synchronized int logSize() {
        return log.size();
    }

    synchronized void undoTo(int size) {
        log.undoTo(size);
    }

    @Override
    public synchronized long reserve(Table table, int count) {
        MemoryTable rows = rows(table);
        long first = rows.counter + 1;
        rows.counter += count;
        return first;
    }

    /**
     * Sets the number that the next row of a table gets.
     *
     * @param next the number, at least 1
     */
    public synchronized void continueFrom(Table table, long next) {
        rows(table).counter = next - 1;
    }

    @Override
    public synchronized void store(Load load) {
        turns.statement(() -> {
            load.inserts().forEach(this::insertAll);
            load.updates().forEach(this::fillAll);
            load.labels().forEach(label -> labels.put(label.table().name() + "\n" + label.label(), label.key()));
            load.notes().forEach(note -> note.text()
                    .ifPresentOrElse(t -> notes.put(note.name(), t), () -> notes.remove(note.name())));
        });
    }

    private void insertAll(RowSource source) {
        MemoryTable table = rows(source.table());
        int[] at = MemorySearch.positions(source);
        for (int r = 0; r < source.size(); r++) {
            @Nullable Object[] values = new @Nullable Object[table.names.size()];
            boolean[] given = new boolean[values.length];
            for (int c = 0; c < at.length; c++) {
                values[at[c]] = source.value(r, c);
                given[at[c]] = true;
            }
            writing.insert(table, values, given);
        }
    }

    private void fillAll(Load.Fill fill) {
        RowSource source = fill.rows();
        MemoryTable table = rows(source.table());
        int[] at = MemorySearch.positions(source);
        for (int r = 0; r < source.size(); r++) {
            @Nullable Object[] key = new @Nullable Object[table.names.size()];
            for (int c = 0; c < fill.keyColumns(); c++) {
                key[at[c]] = source.value(r, c);
            }
            Object found = table.keyOf(key);
            @Nullable Object[] values = MemorySearch.requireRow(table, found).clone();
            for (int c = fill.keyColumns(); c < at.length; c++) {
                values[at[c]] = source.value(r, c);
            }
            writing.replace(table, found, values);
        }
    }

    @Override
    public Row insert(Table table, Row row) {
        return insert(table, row, stored -> {});
    }

    /** @param allowed throws if the row, as it is stored, may not be */
    synchronized Row insert(Table table, Row row, Consumer<Row> allowed) {
        MemoryTable rows = rows(table);
        @Nullable Object[] values = new @Nullable Object[rows.names.size()];
        boolean[] given = new boolean[values.length];
        writing.set(rows, values, given, row);
        @Nullable Object[][] stored = new @Nullable Object[1][];
        turns.statement(() -> {
            stored[0] = writing.insert(rows, values, given, allowed);
        });
        return Row.of(rows.names, stored[0]);
    }

    @Override
    public int update(Table table, Condition where, Row changes) {
        return update(table, where, row -> true, changes, changed -> {});
    }

    /**
     * @param there which of the rows are there for whoever asks
     * @param allowed throws if a row, as it is changed, may not be
     */
    synchronized int update(Table table, Condition where, Predicate<Row> there, Row changes, Consumer<Row> allowed) {
        MemoryTable rows = rows(table);
        turns.awaitTurn();
        List<Object> keys = search.matching(rows, where, there);
        turns.statement(() -> {
            for (Object key : keys) {
                @Nullable Object[] values = rows.get(key);
                if (values != null) { // a cascade may have removed it
                    @Nullable Object[] changed = values.clone();
                    writing.set(rows, changed, new boolean[changed.length], changes);
                    writing.replace(rows, key, changed, allowed);
                }
            }
        });
        return keys.size();
    }

    @Override
    public int delete(Table table, Condition where) {
        return delete(table, where, row -> true);
    }

    /** @param there which of the rows are there for whoever asks */
    synchronized int delete(Table table, Condition where, Predicate<Row> there) {
        MemoryTable rows = rows(table);
        turns.awaitTurn();
        List<Object> keys = search.matching(rows, where, there);
        turns.statement(() -> keys.forEach(key -> writing.delete(rows, key)));
        return keys.size();
    }

    /** Returns the rows as a role sees them. */
    public MemoryRows as(RolePermits permits) {
        return new PermittedRows(this, permits);
    }

    @Override
    public synchronized void clear(List<Table> tables) {
        List<Table> order = new ArrayList<>(schema.storingOrder().tables());
        Collections.reverse(order);
        turns.statement(() -> order.stream().filter(tables::contains).forEach(table -> {
            MemoryTable rows = rows(table);
            List.copyOf(rows.keys()).forEach(key -> writing.delete(rows, key));
        }));
        notes.clear();
    }

    @Override
    public List<Row> rows(Table table, Condition where) {
        return Store.super.rows(table, where);
    }

    @Override
    public boolean holds(Table table, Condition where) {
        return Store.super.holds(table, where);
    }

    @Override
    public synchronized Optional<String> noted(String name) {
        return Optional.ofNullable(notes.get(name));
    }

    @Override
    public synchronized Optional<Row> labelled(Table table, String label) {
        Row key = labels.get(table.name() + "\n" + label);
        if (key == null) {
            return Optional.empty();
        }
        Condition where = Condition.all();
        for (String column : key.columns()) {
            where = where.and(new Condition.Equal(column, key.get(column)));
        }
        return rows(table, where).stream().findFirst();
    }

    @Override
    public synchronized void read(Table table, Condition where, Consumer<Row> reader) {
        flush();
        MemoryTable rows = rows(table);
        boolean current = seesCurrent(rows);
        List<Object> keys = search.matching(rows, where, current);
        if (keys.size() > 1) {
            keys.sort(MemorySearch::compareKeys);
        }
        for (Object key : keys) {
            @Nullable Object[] row = current ? rows.get(key) : rows.committed(key);
            if (row != null) {
                reader.accept(Row.of(rows.names, row));
            }
        }
    }

    /** Finds the row of a table that has this key, a single value. */
    @Override
    public synchronized Optional<Row> find(Table table, Object key) {
        MemoryTable rows = rows(table);
        Object sought = MemoryTable.lookup(key);
        @Nullable Object[] row = seesCurrent(rows) ? rows.get(sought) : rows.committed(sought);
        return row == null ? Optional.empty() : Optional.of(Row.of(rows.names, row));
    }

    @Override
    public synchronized long count(Table table) {
        flush();
        MemoryTable rows = rows(table);
        return seesCurrent(rows) ? rows.size() : rows.committedKeys().size();
    }

    @Override
    public Optional<Boolean> keeps(Table table, dev.zabbet.schema.Check check, Row row) {
        return rows(table).checks.stream()
                .filter(c -> c.check().equals(check))
                .findFirst()
                .map(c -> c.evaluate(i -> row.get(table.columns().get(i).name())))
                .filter(verdict -> verdict != Verdict.NOT_UNDERSTOOD)
                .map(verdict -> verdict == Verdict.KEPT);
    }

    private boolean seesCurrent(MemoryTable rows) {
        return open == null || open.isMine() || !rows.isTouched();
    }

    @Override
    public synchronized Watch watch() {
        flush();
        int from = log.committed();
        return new Watch() {
            @Override
            public List<Change> changes() {
                return changesSince(from);
            }

            @Override
            public void takeBack() {
                takeBackTo(from);
            }

            @Override
            public void close() {}
        };
    }

    /** Forgets what the code under test holds back: the rows it is about may be gone. */
    private synchronized void takeBackTo(int from) {
        discard();
        turns.awaitTurn();
        log.undoTo(from);
        turns.ended();
    }

    private synchronized List<Change> changesSince(int from) {
        if (open != null && log.size() > log.committed()) {
            throw new ZabbetException("A transaction with changes is still open, so its effect is not yet known: "
                    + open.describe() + ".\nLet the code under test commit or roll back before the act ends.");
        }
        return log.changesSince(from, schema);
    }

    @Override
    public synchronized RewindPoint mark() {
        flush();
        Map<String, Long> counters = new LinkedHashMap<>();
        tables.forEach((name, table) -> counters.put(name, table.counter));
        return new Point(log.size(), counters, Map.copyOf(labels), Map.copyOf(notes));
    }

    /** Brings rows and counters back; a transaction that is still open is rolled back. */
    @Override
    public synchronized void rewind(RewindPoint point) {
        discard();
        Point to = (Point) point;
        if (open != null) {
            open.abandon();
        }
        log.undoTo(to.size());
        turns.ended();
        labels.clear();
        labels.putAll(to.labels());
        notes.clear();
        notes.putAll(to.notes());
        to.counters().forEach((name, counter) -> rows(schema.require(name)).counter = counter);
    }

    @Override
    public synchronized void close() {
        tables.values().forEach(MemoryTable::clear);
        log.clear();
    }

    private MemoryTable rows(Table table) {
        MemoryTable rows = tables.get(table.name());
        if (rows == null) {
            throw new ZabbetException(
                    "Table " + Words.notNull(table, "table", "MemoryStore").name() + " is not of this store's schema.");
        }
        return rows;
    }

    /**
     * Begins a transaction of the current thread.
     *
     * @throws ZabbetException if the thread has one open already, or another thread's is still open after five seconds
     */
    @Override
    public synchronized MemoryTransaction begin() {
        return turns.begin();
    }

    /** Returns the transaction that the current thread has open. */
    @Override
    public synchronized Optional<MemoryTransaction> transaction() {
        return turns.transaction();
    }

    synchronized void commit(MemoryTransaction transaction) {
        turns.commit(transaction);
    }

    synchronized void rollback(MemoryTransaction transaction) {
        turns.rollback(transaction);
    }
}
