package dev.zabbet.internal.story;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.store.ConditionMatch;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/**
 * The rows of a store as they would be if one of them were another. What is read is kept, so that asking the same again of other
 * such views reads nothing from the store. Nothing can be stored. Not thread-safe.
 */
final class RowsView implements Store {
    private final Store store;
    private final Map<Asked, List<Row>> read;
    private final @Nullable Instead instead;

    private record Asked(Table table, Condition where) {}

    /**
     * A row and what stands in its place.
     *
     * @param row a row of the store, known by its key if its table has one; null for one row more
     * @param other the row instead; null for none
     */
    record Instead(Table table, @Nullable Row row, @Nullable Row other) {
        boolean isOf(Row stored) {
            Row sought = row;
            if (sought == null) {
                return false;
            }
            List<String> key = table.keyColumns();
            return key.isEmpty()
                    ? sought.equals(stored)
                    : key.stream().allMatch(column -> ValueEquality.values(sought.get(column), stored.get(column)));
        }
    }

    /** A view of the rows just as they are. */
    RowsView(Store store) {
        this(store, new HashMap<>(), null);
    }

    private RowsView(Store store, Map<Asked, List<Row>> read, @Nullable Instead instead) {
        this.store = store;
        this.read = read;
        this.instead = instead;
    }

    /** Returns a view of the same rows with one of them another. */
    RowsView with(Instead other) {
        return new RowsView(store, read, other);
    }

    /** Finds the row of a table that was read and is the same one as another, if it was. */
    Optional<Row> found(Instead sought) {
        return read.entrySet().stream()
                .filter(entry -> entry.getKey().table().equals(sought.table()))
                .flatMap(entry -> entry.getValue().stream())
                .filter(sought::isOf)
                .findFirst();
    }

    /** Returns the columns of a table that rows were looked for by: another value there may take a row out of sight. */
    Set<String> soughtBy(Table table) {
        return read.keySet().stream()
                .filter(asked -> asked.table().equals(table))
                .flatMap(asked -> asked.where().columns().stream())
                .collect(Collectors.toSet());
    }

    /** Returns how many rows were read. */
    int size() {
        return read.values().stream().mapToInt(List::size).sum();
    }

    @Override
    public List<Row> rows(Table table, Condition where) {
        List<Row> rows = read.computeIfAbsent(new Asked(table, where), asked -> store.rows(table, where));
        Instead one = instead;
        if (one == null || !one.table().equals(table)) {
            return rows;
        }
        Row other = one.other();
        boolean shown = other != null && ConditionMatch.holds(where, other::get);
        List<Row> changed = new ArrayList<>(rows.size() + 1);
        boolean placed = false;
        for (Row row : rows) {
            if (!one.isOf(row)) {
                changed.add(row);
            } else if (shown && other != null) {
                changed.add(other);
                placed = true;
            }
        }
        if (shown && !placed && other != null) {
            changed.add(other);
        }
        return changed;
    }

    @Override
    public void read(Table table, Condition where, Consumer<Row> reader) {
        rows(table, where).forEach(reader);
    }

    @Override
    public boolean holds(Table table, Condition where) {
        return !rows(table, where).isEmpty();
    }

    @Override
    public long count(Table table) {
        return rows(table, Condition.all()).size();
    }

    @Override
    public Schema schema() {
        return store.schema();
    }

    @Override
    public Schema schemaNow() {
        return store.schema();
    }

    @Override
    public String description() {
        return store.description();
    }

    @Override
    public Optional<Row> labelled(Table table, String label) {
        return store.labelled(table, label);
    }

    @Override
    public Optional<Boolean> keeps(Table table, Check check, Row row) {
        return store.keeps(table, check, row);
    }

    @Override
    public boolean isExact() {
        return store.isExact();
    }

    @Override
    public Optional<DataSource> dataSource() {
        return Optional.empty();
    }

    @Override
    public long reserve(Table table, int count) {
        throw readOnly();
    }

    @Override
    public void store(Load load) {
        throw readOnly();
    }

    @Override
    public void clear(List<Table> tables) {
        throw readOnly();
    }

    @Override
    public Watch watch() {
        throw readOnly();
    }

    @Override
    public RewindPoint mark() {
        throw readOnly();
    }

    @Override
    public void rewind(RewindPoint point) {
        throw readOnly();
    }

    @Override
    public void close() {}

    private static ZabbetException readOnly() {
        return new ZabbetException("An expectation only reads.");
    }
}
