package dev.zabbet.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.value.Canon;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.DataType;
import dev.zabbet.schema.Kind;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.time.Clock;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Consumer;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/**
 * Rows in memory, under the schema's constraints: not null, length, unique, checks and references. Thread-safe; every
 * call is one transaction. What changes is kept in a log, so that watching and rewinding cost as much as there are
 * changes.
 *
 * <p>A check whose condition cannot be evaluated here is not enforced.
 */
public final class MemoryStore implements Store {
    private final Schema schema;
    private final Clock clock;
    private final Map<String, MemoryTable> tables = new LinkedHashMap<>();
    private final List<Entry> log = new ArrayList<>();

    private record Entry(
            MemoryTable table,
            Object key,
            @Nullable Object @Nullable [] before,
            @Nullable Object @Nullable [] after) {}

    private record Point(int size, Map<String, Long> counters) implements RewindPoint {}

    /**
     * @param schema the tables
     * @param clock what a default of the present time is taken from
     */
    public MemoryStore(Schema schema, Clock clock) {
        this.schema = schema;
        this.clock = clock;
        schema.tables().forEach(table -> tables.put(table.name(), new MemoryTable(table)));
    }

    @Override
    public Schema schema() {
        return schema;
    }

    @Override
    public String description() {
        return "memory";
    }

    @Override
    public Optional<DataSource> dataSource() {
        return Optional.empty();
    }

    @Override
    public synchronized long reserve(Table table, int count) {
        MemoryTable rows = rows(table);
        long first = rows.counter + 1;
        rows.counter += count;
        return first;
    }

    @Override
    public synchronized void store(Load load) {
        atomically(() -> {
            for (RowSource source : load.inserts()) {
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
            for (Load.Fill fill : load.updates()) {
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
        });
    }

    /**
     * Stores one row; columns left out get their number, default or null. Values may have any form that converts
     * exactly.
     *
     * @return the row as stored, with all columns
     * @throws ConstraintException if a constraint refuses it
     */
    public synchronized Row insert(Table table, Row row) {
        MemoryTable rows = rows(table);
        @Nullable Object[] values = new @Nullable Object[rows.names.size()];
        boolean[] given = new boolean[values.length];
        for (String name : row.columns()) {
            int at = table.requirePosition(name);
            values[at] = canonical(table, at, row.get(name));
            given[at] = true;
        }
        @Nullable Object[][] stored = new @Nullable Object[1][];
        atomically(() -> stored[0] = insert(rows, values, given));
        return Row.of(rows.names, stored[0]);
    }

    /**
     * Changes columns of all rows for which a condition holds.
     *
     * @return how many rows were changed
     * @throws ConstraintException if a constraint refuses one; nothing is changed then
     */
    public synchronized int update(Table table, Condition where, Row changes) {
        MemoryTable rows = rows(table);
        List<Object> keys = matching(rows, where);
        atomically(() -> {
            for (Object key : keys) {
                @Nullable Object[] values = requireRow(rows, key).clone();
                for (String name : changes.columns()) {
                    int at = table.requirePosition(name);
                    values[at] = canonical(table, at, changes.get(name));
                }
                replace(rows, key, values);
            }
        });
        return keys.size();
    }

    /**
     * Deletes all rows for which a condition holds.
     *
     * @return how many rows were deleted
     * @throws ConstraintException if another row refers to one of them; nothing is deleted then
     */
    public synchronized int delete(Table table, Condition where) {
        MemoryTable rows = rows(table);
        List<Object> keys = matching(rows, where);
        atomically(() -> {
            for (Object key : keys) {
                @Nullable Object[] before = requireRow(rows, key);
                rows.remove(key);
                log.add(new Entry(rows, key, before, null));
            }
        });
        return keys.size();
    }

    @Override
    public synchronized void clear(List<Table> tables) {
        List<Table> order = new ArrayList<>(schema.storingOrder().tables());
        Collections.reverse(order);
        atomically(() -> order.stream().filter(tables::contains).forEach(table -> delete(table, Condition.ALL)));
    }

    @Override
    public synchronized void read(Table table, Condition where, Consumer<Row> reader) {
        MemoryTable rows = rows(table);
        List<Object> keys = matching(rows, where);
        keys.sort(MemoryStore::compareKeys);
        keys.forEach(key -> reader.accept(Row.of(rows.names, requireRow(rows, key))));
    }

    @Override
    public synchronized Watch watch() {
        int from = log.size();
        return new Watch() {
            @Override
            public List<Change> changes() {
                return changesSince(from);
            }

            @Override
            public void close() {}
        };
    }

    @Override
    public synchronized RewindPoint mark() {
        Map<String, Long> counters = new LinkedHashMap<>();
        tables.forEach((name, table) -> counters.put(name, table.counter));
        return new Point(log.size(), counters);
    }

    @Override
    public synchronized void rewind(RewindPoint point) {
        Point to = (Point) point;
        undoTo(to.size());
        to.counters().forEach((name, counter) -> rows(schema.require(name)).counter = counter);
    }

    @Override
    public synchronized void close() {
        tables.values().forEach(table -> {
            table.rows.clear();
            table.uniques.forEach(index -> index.keys().clear());
        });
        log.clear();
    }

    private synchronized List<Change> changesSince(int from) {
        NetChanges net = new NetChanges(schema);
        for (Entry entry : log.subList(Math.min(from, log.size()), log.size())) {
            net.add(
                    entry.table.table,
                    entry.key,
                    entry.before == null ? null : Row.of(entry.table.names, entry.before),
                    entry.after == null ? null : Row.of(entry.table.names, entry.after));
        }
        return net.changes();
    }

    private void atomically(Runnable work) {
        int before = log.size();
        try {
            work.run();
            requireReferences(before);
        } catch (RuntimeException e) {
            undoTo(before);
            throw e;
        }
    }

    private void undoTo(int size) {
        while (log.size() > size) {
            Entry entry = log.remove(log.size() - 1);
            if (entry.before == null) {
                entry.table.remove(entry.key);
            } else {
                entry.table.put(entry.key, entry.before);
            }
        }
    }

    private @Nullable Object[] insert(MemoryTable table, @Nullable Object[] values, boolean[] given) {
        for (int i = 0; i < values.length; i++) {
            Column column = table.table.columns().get(i);
            if (column.isNumbered()) {
                if (values[i] == null) {
                    values[i] = ++table.counter;
                } else if (values[i] instanceof Long number) {
                    table.counter = Math.max(table.counter, number);
                }
            } else if (!given[i] && column.defaultText().isPresent()) {
                values[i] = defaultOf(table.table, column);
            }
        }
        require(table, null, values);
        Object key = table.keyOf(values);
        if (table.rows.containsKey(key)) {
            throw duplicate(table, table.table.keyColumns(), key, values);
        }
        table.put(key, values);
        log.add(new Entry(table, key, null, values));
        return values;
    }

    private void replace(MemoryTable table, Object key, @Nullable Object[] values) {
        @Nullable Object[] before = requireRow(table, key);
        Object newKey = table.keyAt == null ? key : table.keyOf(values);
        require(table, key, values);
        if (!newKey.equals(key)) {
            if (table.rows.containsKey(newKey)) {
                throw duplicate(table, table.table.keyColumns(), newKey, values);
            }
            table.remove(key);
            log.add(new Entry(table, key, before, null));
            table.put(newKey, values);
            log.add(new Entry(table, newKey, null, values));
        } else {
            table.put(key, values);
            log.add(new Entry(table, key, before, values));
        }
    }

    /** Tests what one row can be tested for by itself, and the unique constraints. */
    private void require(MemoryTable table, @Nullable Object own, @Nullable Object[] values) {
        for (int i = 0; i < values.length; i++) {
            Column column = table.table.columns().get(i);
            Object value = values[i];
            if (value == null && !column.nullable()) {
                throw refused(
                        table, column.name() + " is null, and the column does not allow it", "23502", null, values);
            }
            DataType type = column.type();
            if (value instanceof String text
                    && type.length() != DataType.UNLIMITED
                    && text.codePointCount(0, text.length()) > type.length()) {
                String what = column.name() + " has " + text.codePointCount(0, text.length()) + " characters, "
                        + type.sqlName() + " keeps " + type.length();
                throw refused(table, what, "22001", null, values);
            }
        }
        table.checks.forEach(condition -> {
            if (condition.evaluate(i -> values[i]) == Verdict.BROKEN) {
                Check check = condition.check();
                throw refused(
                        table, "check " + check.name() + " is false: " + check.text(), "23514", check.name(), values);
            }
        });
        for (MemoryTable.Index index : table.uniques) {
            Object other = MemoryTable.hasNull(values, index.at())
                    ? null
                    : index.keys().get(MemoryTable.part(values, index.at()));
            if (other != null && !other.equals(own)) {
                throw duplicate(table, index.key().columns(), MemoryTable.part(values, index.at()), values);
            }
        }
    }

    /** References are tested when all rows of a call are there, as a database does at the end of a statement. */
    private void requireReferences(int from) {
        for (Entry entry : List.copyOf(log.subList(from, log.size()))) {
            @Nullable Object[] now = entry.table.rows.get(entry.key);
            if (now != null) {
                requireParents(entry.table, now);
            }
            if (entry.before != null) {
                requireNoOrphans(entry.table, entry.before);
            }
        }
    }

    private void requireParents(MemoryTable table, @Nullable Object[] row) {
        for (Reference reference : table.table.references()) {
            int[] from = MemoryTable.positions(table.table, reference.columns());
            if (MemoryTable.hasNull(row, from)) {
                continue;
            }
            MemoryTable target = rows(schema.require(reference.target()));
            if (!present(target, reference.targetColumns(), MemoryTable.part(row, from))) {
                throw refused(
                        table,
                        reference.describe() + ": there is no " + target.table.name() + " with "
                                + String.join(", ", reference.targetColumns()) + " = "
                                + MemoryTable.part(row, from),
                        "23503",
                        reference.name(),
                        row);
            }
        }
    }

    private void requireNoOrphans(MemoryTable target, @Nullable Object[] gone) {
        for (MemoryTable child : tables.values()) {
            for (Reference reference : child.table.references()) {
                if (!reference.target().equals(target.table.name())) {
                    continue;
                }
                Object key = MemoryTable.part(gone, MemoryTable.positions(target.table, reference.targetColumns()));
                if (present(target, reference.targetColumns(), key)) {
                    continue;
                }
                int[] at = MemoryTable.positions(child.table, reference.columns());
                for (@Nullable Object[] row : child.rows.values()) {
                    if (!MemoryTable.hasNull(row, at)
                            && MemoryTable.part(row, at).equals(key)) {
                        throw refused(
                                target,
                                child.table.name() + "." + reference.describe() + ": a " + child.table.name()
                                        + " still refers to it",
                                "23503",
                                reference.name(),
                                gone);
                    }
                }
            }
        }
    }

    private static boolean present(MemoryTable target, List<String> columns, Object key) {
        if (columns.equals(target.table.keyColumns())) {
            return target.rows.containsKey(key);
        }
        for (MemoryTable.Index index : target.uniques) {
            if (index.key().columns().equals(columns)) {
                return index.keys().containsKey(key);
            }
        }
        int[] at = MemoryTable.positions(target.table, columns);
        return target.rows.values().stream()
                .anyMatch(row -> MemoryTable.part(row, at).equals(key));
    }

    private @Nullable Object defaultOf(Table table, Column column) {
        String text = column.defaultText().orElseThrow();
        String bare = text.replaceAll("(?i)::[a-z ]+(\\(\\d+\\))?$", "").strip();
        Object value;
        if (bare.matches("(?i)(current_timestamp|localtimestamp|now)\\b.*")) {
            value = column.type().kind() == Kind.INSTANT
                    ? clock.instant()
                    : LocalDateTime.ofInstant(clock.instant(), ZoneOffset.UTC);
        } else if (bare.equalsIgnoreCase("null")) {
            return null;
        } else if (bare.matches("(?i)(random_uuid|gen_random_uuid|uuid)\\(\\)")) {
            value = new UUID(clock.millis(), log.size() + 1L);
        } else if (bare.startsWith("'") && bare.endsWith("'") && bare.length() > 1) {
            value = bare.substring(1, bare.length() - 1).replace("''", "'");
        } else {
            value = bare;
        }
        try {
            return Canon.of(column.type(), value);
        } catch (Inexact e) {
            throw new ZabbetException("The default of " + table.name() + "." + column.name() + ", " + text
                    + ", cannot be evaluated in memory. Give the column a value.");
        }
    }

    private static @Nullable Object canonical(Table table, int at, @Nullable Object value) {
        Column column = table.columns().get(at);
        try {
            return Canon.of(column.type(), value);
        } catch (Inexact e) {
            throw new ZabbetException(table.name() + "." + column.name() + " is "
                    + column.type().sqlName() + ", and " + e.clause() + ".");
        }
    }

    private List<Object> matching(MemoryTable table, Condition where) {
        if (where instanceof Condition.Equal equal && table.table.keyColumns().equals(List.of(equal.column()))) {
            Object key = MemoryTable.lookup(equal.value());
            return table.rows.containsKey(key) ? new ArrayList<>(List.of(key)) : new ArrayList<>();
        }
        List<Object> keys = new ArrayList<>();
        table.rows.forEach((key, row) -> {
            if (holds(table.table, where, row)) {
                keys.add(key);
            }
        });
        return keys;
    }

    private static boolean holds(Table table, Condition where, @Nullable Object[] row) {
        return Matching.holds(where, column -> row[table.requirePosition(column)]);
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

    private static ConstraintException duplicate(
            MemoryTable table, List<String> columns, Object key, @Nullable Object[] values) {
        String what = String.join(", ", columns) + " = " + key + " is stored already and has to be unique";
        return refused(table, what, "23505", null, values);
    }

    private static ConstraintException refused(
            MemoryTable table, String what, String sqlState, @Nullable String constraint, @Nullable Object[] values) {
        Row row = Row.of(table.names, values);
        return new ConstraintException(
                "A row of " + table.table.name() + " is refused: " + what + ".\nThe row: " + row,
                table.table.name(),
                constraint,
                sqlState,
                row,
                null);
    }

    private @Nullable Object[] requireRow(MemoryTable table, Object key) {
        @Nullable Object[] row = table.rows.get(key);
        if (row == null) {
            throw new ZabbetException("There is no " + table.table.name() + " with key " + Text.cell(key) + ".");
        }
        return row;
    }

    private MemoryTable rows(Table table) {
        MemoryTable rows = tables.get(table.name());
        if (rows == null) {
            throw new ZabbetException("Table " + table.name() + " is not of this store's schema.");
        }
        return rows;
    }

    private static int[] positions(RowSource source) {
        return source.columns().stream()
                .mapToInt(c -> source.table().requirePosition(c.name()))
                .toArray();
    }
}
