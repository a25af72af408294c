package dev.zabbet.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.ColumnFit;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.Comparator;
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
 * Rows in memory that obey the schema as a database's do: types with their length, precision and scale, not null, unique
 * keys (also of expressions and of some rows), checks, references with what happens on delete and update, deferred ones
 * at commit; numbers, defaults, computed columns. A refusal is a {@link ConstraintException} with the SQLState that a
 * database gives. What changes is kept in a log, so that watching and rewinding cost as much as there are changes.
 *
 * <p>Thread-safe. Each call is one transaction, unless its thread has {@link #begin begun} one. One transaction at a time
 * changes rows; others wait up to five seconds, and read what was committed.
 *
 * <p>{@link #notEnforced()} names the constraints that are not understood here, and so not enforced.
 */
public final class MemoryStore implements Store, MemoryRows {
    private final List<HeldBack> heldBack = new CopyOnWriteArrayList<>();
    private static final long PATIENCE = 5_000; // milliseconds

    private final Schema schema;
    private final Clock clock;
    private final Map<String, MemoryTable> tables = new LinkedHashMap<>();
    private final MemoryReferences references;
    private final MemoryLog log = new MemoryLog();
    private final Map<String, Row> labels = new LinkedHashMap<>();
    private @Nullable MemoryTransaction open;

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
    public String description() {
        return "memory";
    }

    /**
     * Returns what is held back in one way, which lives as long as this store. It is sent here before anybody looks at the rows.
     *
     * @param type the way
     * @param first makes it, when it is asked for the first time
     */
    public synchronized <H extends HeldBack> H heldBack(Class<H> type, Supplier<H> first) {
        for (HeldBack known : heldBack) {
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
        heldBack.forEach(HeldBack::flush);
    }

    @Override
    public void discard() {
        heldBack.forEach(HeldBack::discard);
    }

    @Override
    public Optional<DataSource> dataSource() {
        return Optional.empty();
    }

    /** Returns the constraints that are not understood in memory and so not enforced, each as {@code table: text}. */
    public List<String> notEnforced() {
        List<String> found = new ArrayList<>();
        for (MemoryTable table : tables.values()) {
            table.checks.stream()
                    .filter(c -> c.trouble().isPresent())
                    .forEach(c -> found.add(
                            table.table.name() + ": check " + c.check().text()));
            table.table.uniques().stream()
                    .filter(key -> table.uniques.stream().noneMatch(index -> index.key.equals(key)))
                    .forEach(key -> found.add(table.table.name() + ": unique " + String.join(", ", key.expressions())
                            + key.condition().map(c -> " where " + c).orElse("")));
        }
        return found;
    }

    /**
     * Begins a transaction of the current thread.
     *
     * @throws ZabbetException if the thread has one open already, or another thread's is still open after five seconds
     */
    @Override
    public synchronized MemoryTransaction begin() {
        if (open != null && open.isMine()) {
            throw new ZabbetException("This thread has a transaction open already; commit it or roll it back first.");
        }
        awaitTurn();
        MemoryTransaction begun = new MemoryTransaction(this, log.size());
        open = begun;
        return begun;
    }

    /** Returns the transaction that the current thread has open. */
    @Override
    public synchronized Optional<MemoryTransaction> transaction() {
        return Optional.ofNullable(open).filter(MemoryTransaction::isMine);
    }

    synchronized void commit(MemoryTransaction transaction) {
        try {
            references.require(log.since(transaction.start()), true);
            log.commit();
        } catch (ConstraintException e) {
            log.undoTo(transaction.start());
            throw e;
        } finally {
            ended();
        }
    }

    synchronized void rollback(MemoryTransaction transaction) {
        log.undoTo(transaction.start());
        ended();
    }

    private void ended() {
        log.rolledBack(tables.values());
        open = null;
        notifyAll();
    }

    synchronized int logSize() {
        return log.size();
    }

    synchronized void undoTo(int size) {
        log.undoTo(size);
    }

    /** Waits until no other thread has a transaction open. */
    private void awaitTurn() {
        long until = System.nanoTime() + PATIENCE * 1_000_000;
        while (open != null && !open.isMine()) {
            long left = (until - System.nanoTime()) / 1_000_000;
            if (left <= 0) {
                throw new ZabbetException("Waited " + PATIENCE / 1000 + " seconds for " + open.describe()
                        + ". Let it commit or roll back.");
            }
            try {
                wait(left);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new ZabbetException("Interrupted while waiting for " + open.describe() + ".", e);
            }
        }
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
        statement(() -> {
            load.inserts().forEach(this::insertAll);
            load.updates().forEach(this::fillAll);
            load.labels().forEach(label -> labels.put(label.table().name() + "\n" + label.label(), label.key()));
            load.notes().forEach(note -> note.text()
                    .ifPresentOrElse(t -> notes.put(note.name(), t), () -> notes.remove(note.name())));
        });
    }

    private void insertAll(RowSource source) {
        MemoryTable table = rows(source.table());
        int[] at = positions(source);
        for (int r = 0; r < source.size(); r++) {
            @Nullable Object[] values = new @Nullable Object[table.names.size()];
            boolean[] given = new boolean[values.length];
            for (int c = 0; c < at.length; c++) {
                values[at[c]] = source.value(r, c);
                given[at[c]] = true;
            }
            insert(table, values, given);
        }
    }

    private void fillAll(Load.Fill fill) {
        RowSource source = fill.rows();
        MemoryTable table = rows(source.table());
        int[] at = positions(source);
        for (int r = 0; r < source.size(); r++) {
            @Nullable Object[] key = new @Nullable Object[table.names.size()];
            for (int c = 0; c < fill.keyColumns(); c++) {
                key[at[c]] = source.value(r, c);
            }
            Object found = table.keyOf(key);
            @Nullable Object[] values = requireRow(table, found).clone();
            for (int c = fill.keyColumns(); c < at.length; c++) {
                values[at[c]] = source.value(r, c);
            }
            replace(table, found, values);
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
        set(rows, values, given, row);
        @Nullable Object[][] stored = new @Nullable Object[1][];
        statement(() -> {
            stored[0] = insert(rows, values, given, allowed);
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
        awaitTurn();
        List<Object> keys = matching(rows, where, there);
        statement(() -> {
            for (Object key : keys) {
                @Nullable Object[] values = rows.get(key);
                if (values != null) { // a cascade may have removed it
                    @Nullable Object[] changed = values.clone();
                    set(rows, changed, new boolean[changed.length], changes);
                    replace(rows, key, changed, allowed);
                }
            }
        });
        return keys.size();
    }

    private List<Object> matching(MemoryTable table, Condition where, Predicate<Row> there) {
        List<Object> keys = matching(table, where, true);
        keys.removeIf(key -> !there.test(Row.of(table.names, requireRow(table, key))));
        return keys;
    }

    private void set(MemoryTable table, @Nullable Object[] values, boolean[] given, Row row) {
        List<String> names = row.columns();
        for (int i = 0; i < names.size(); i++) {
            int at = table.table.requirePosition(names.get(i));
            Column column = table.table.columns().get(at);
            if (column.isComputed()) {
                throw MemoryConstraints.refused(
                        table, column.name() + " is computed and cannot be written", "428C9", null, values);
            }
            values[at] = row.at(i);
            given[at] = true;
        }
        for (int i = 0; i < values.length; i++) {
            if (given[i] || row.has(table.names.get(i))) {
                try {
                    values[i] = ColumnFit.of(table.table.columns().get(i), values[i]);
                } catch (ColumnFit.Misfit e) {
                    if (schema.enforcesTypes()) {
                        throw MemoryConstraints.refused(table, e.clause(), e.sqlState, null, values);
                    }
                }
            }
        }
    }

    @Override
    public int delete(Table table, Condition where) {
        return delete(table, where, row -> true);
    }

    /** @param there which of the rows are there for whoever asks */
    synchronized int delete(Table table, Condition where, Predicate<Row> there) {
        MemoryTable rows = rows(table);
        awaitTurn();
        List<Object> keys = matching(rows, where, there);
        statement(() -> keys.forEach(key -> delete(rows, key)));
        return keys.size();
    }

    /** Returns the rows as a role sees them. */
    public MemoryRows as(Permits permits) {
        return new PermittedRows(this, permits);
    }

    @Override
    public synchronized void clear(List<Table> tables) {
        List<Table> order = new ArrayList<>(schema.storingOrder().tables());
        Collections.reverse(order);
        statement(() -> order.stream().filter(tables::contains).forEach(table -> {
            MemoryTable rows = rows(table);
            List.copyOf(rows.keys()).forEach(key -> delete(rows, key));
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
        Condition where = Condition.ALL;
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
        List<Object> keys = matching(rows, where, current);
        if (keys.size() > 1) {
            keys.sort(MemoryStore::compareKeys);
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
            public void close() {}
        };
    }

    private synchronized List<Change> changesSince(int from) {
        if (open != null && log.size() > log.committed()) {
            throw new ZabbetException(
                    "A transaction with changes is still open, so that what it leaves cannot be told yet: "
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
        ended();
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

    /** Does one statement, all or nothing; outside of a transaction it is committed at once. */
    private void statement(Runnable work) {
        awaitTurn();
        int before = log.size();
        try {
            work.run();
            references.require(log.since(before), false);
            if (open == null) {
                references.require(log.since(before), true);
                log.commit();
            }
        } catch (RuntimeException e) {
            log.undoTo(before);
            if (open == null) {
                log.rolledBack(tables.values());
            }
            throw e;
        }
    }

    private @Nullable Object[] insert(MemoryTable table, @Nullable Object[] values, boolean[] given) {
        return insert(table, values, given, row -> {});
    }

    /** Rights are tested before constraints, as PostgreSQL does it. */
    private @Nullable Object[] insert(
            MemoryTable table, @Nullable Object[] values, boolean[] given, Consumer<Row> allowed) {
        for (int i = 0; i < values.length; i++) {
            Column column = table.table.columns().get(i);
            if (column.isNumbered()) {
                if (values[i] == null) {
                    values[i] = column.generation() == Generation.SEQUENCE && given[i] ? null : nextNumber(table);
                } else if (values[i] instanceof Long number) {
                    table.counter = Math.max(table.counter, number);
                }
            } else if (!given[i] && table.filling.hasDefault(i)) {
                values[i] = table.filling.defaultOf(i);
            }
        }
        table.filling.compute(values);
        allowed.accept(Row.of(table.names, values));
        MemoryConstraints.require(table, null, values, schema.enforcesTypes());
        Object key = table.keyOf(values);
        if (table.has(key)) {
            throw MemoryConstraints.duplicateKey(table, key, values);
        }
        log.put(table, key, values);
        return values;
    }

    private static Long nextNumber(MemoryTable table) {
        return ++table.counter;
    }

    private void replace(MemoryTable table, Object key, @Nullable Object[] values) {
        replace(table, key, values, row -> {});
    }

    private void replace(MemoryTable table, Object key, @Nullable Object[] values, Consumer<Row> allowed) {
        @Nullable Object[] before = requireRow(table, key);
        table.filling.compute(values);
        allowed.accept(Row.of(table.names, values));
        MemoryConstraints.require(table, key, values, schema.enforcesTypes());
        Object newKey = table.isKeyed() ? table.keyOf(values) : key;
        if (newKey.equals(key)) {
            log.put(table, key, values);
        } else {
            if (table.has(newKey)) {
                throw MemoryConstraints.duplicateKey(table, newKey, values);
            }
            log.remove(table, key);
            log.put(table, newKey, values);
        }
        references.follow(table, before, values, editor);
    }

    private void delete(MemoryTable table, Object key) {
        @Nullable Object[] before = table.get(key);
        if (before != null) { // a cascade may have removed it
            log.remove(table, key);
            references.follow(table, before, null, editor);
        }
    }

    private final MemoryReferences.Editor editor = new MemoryReferences.Editor() {
        @Override
        public void replace(MemoryTable table, Object key, @Nullable Object[] values) {
            MemoryStore.this.replace(table, key, values);
        }

        @Override
        public void delete(MemoryTable table, Object key) {
            MemoryStore.this.delete(table, key);
        }
    };

    private List<Object> matching(MemoryTable table, Condition where, boolean current) {
        Optional<Collection<Object>> found = current ? byIndex(table, where) : Optional.empty();
        Collection<Object> candidates = found.orElseGet(() -> current ? table.keys() : table.committedKeys());
        List<Object> keys = new ArrayList<>();
        for (Object key : candidates) {
            @Nullable Object[] row = current ? table.get(key) : table.committed(key);
            if (row != null && Matching.holds(where, column -> row[table.table.requirePosition(column)])) {
                keys.add(key);
            }
        }
        return keys;
    }

    /** Finds candidates by the columns that have to equal a value, if there are such. */
    private static Optional<Collection<Object>> byIndex(MemoryTable table, Condition where) {
        List<Condition> parts = where instanceof Condition.And and ? and.parts() : List.of(where);
        Map<String, Object> equal = new LinkedHashMap<>();
        for (Condition part : parts) {
            if (part instanceof Condition.Equal e && e.value() != null) {
                Column column = table.table.requireColumn(e.column());
                boolean looksUp =
                        switch (column.type().kind()) {
                            case INTEGER, TEXT, UUID, DATE, ENUM, BOOLEAN -> true;
                            default -> false;
                        };
                if (looksUp) {
                    equal.put(column.name(), e.value());
                }
            }
        }
        if (equal.isEmpty() || table.size() < 8) {
            return Optional.empty();
        }
        List<String> key = table.table.keyColumns();
        if (!key.isEmpty() && equal.keySet().containsAll(key)) {
            Object sought = key.size() == 1
                    ? MemoryTable.lookup(equal.get(key.get(0)))
                    : key.stream().map(c -> MemoryTable.lookup(equal.get(c))).toList();
            return Optional.of(table.has(sought) ? List.of(sought) : List.of());
        }
        Map.Entry<String, Object> first = equal.entrySet().iterator().next();
        return Optional.of(table.find(
                new int[] {table.table.requirePosition(first.getKey())}, MemoryTable.lookup(first.getValue())));
    }

    @SuppressWarnings({"unchecked", "rawtypes"})
    private static int compareKeys(Object a, Object b) {
        if (a instanceof List<?> x && b instanceof List<?> y) {
            for (int i = 0; i < Math.min(x.size(), y.size()); i++) {
                int order = compareKeys(x.get(i), y.get(i));
                if (order != 0) {
                    return order;
                }
            }
            return x.size() - y.size();
        }
        return a instanceof Comparable c && a.getClass() == b.getClass()
                ? c.compareTo(b)
                : Comparator.<String>naturalOrder().compare(a.toString(), b.toString());
    }

    private static @Nullable Object[] requireRow(MemoryTable table, Object key) {
        @Nullable Object[] row = table.get(key);
        if (row == null) {
            throw new ZabbetException("There is no " + table.table.name() + " with key " + Text.cell(key) + ".");
        }
        return row;
    }

    private MemoryTable rows(Table table) {
        MemoryTable rows = tables.get(table.name());
        if (rows == null) {
            throw new ZabbetException(
                    "Table " + Words.notNull(table, "table", "MemoryStore").name() + " is not of this store's schema.");
        }
        return rows;
    }

    private static int[] positions(RowSource source) {
        return source.columns().stream()
                .mapToInt(c -> source.table().requirePosition(c.name()))
                .toArray();
    }
}
