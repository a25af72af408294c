package dev.zabbet.fake;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.MemoryRows;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The rows behind a fake, for a {@link Definition}. What is written obeys the schema's constraints. */
public final class Tables {
    private final MemoryRows store;

    Tables(MemoryRows store) {
        this.store = store;
    }

    /** Returns all objects of a type's table, in key order. */
    public <T> Stream<T> all(Class<T> type) {
        EntityType entity = EntityType.of(type, store);
        return store.rows(entity.table(), Condition.ALL).stream()
                .map(entity::object)
                .map(type::cast);
    }

    /** Returns all rows of a table, in key order. */
    public List<Row> rows(String table) {
        return store.rows(store.schema().require(table), Condition.ALL);
    }

    /**
     * Stores a row.
     *
     * @return the row as stored, with all columns
     * @throws dev.zabbet.store.ConstraintException if a constraint refuses it
     */
    public Row insert(String table, Row row) {
        return store.insert(store.schema().require(table), row);
    }

    /**
     * Changes the row that has a key.
     *
     * @return whether there was one
     */
    public boolean update(String table, Object key, Row changes) {
        return store.update(store.schema().require(table), keyIs(table, key), changes) > 0;
    }

    /**
     * Deletes the row that has a key.
     *
     * @return whether there was one
     */
    public boolean delete(String table, Object key) {
        return store.delete(store.schema().require(table), keyIs(table, key)) > 0;
    }

    /** Finds the row that has a key. */
    public Optional<Row> find(String table, Object key) {
        return store.rows(store.schema().require(table), keyIs(table, key)).stream()
                .findFirst();
    }

    private Condition keyIs(String name, Object key) {
        Table table = store.schema().require(name);
        List<?> parts = key instanceof List<?> list ? list : List.of(key);
        Condition where = Condition.ALL;
        for (int i = 0; i < table.keyColumns().size(); i++) {
            @Nullable Object part = i < parts.size() ? parts.get(i) : null;
            var column = table.requireColumn(table.keyColumns().get(i));
            where = where.and(new Condition.Equal(column.name(), EntityType.canonical(column, part)));
        }
        return where;
    }
}
