package dev.zabbet.fake;

import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.MemoryRows;
import java.time.Clock;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The rows behind a fake, for a {@link Definition}. What is written obeys the schema's constraints. */
public final class Tables {
    private final MemoryRows store;

    Tables(MemoryRows store) {
        this.store = store;
    }

    /** Returns all objects of a type's table, in key order, as they are stored. Their relations lead to one another. */
    public <T> Stream<T> all(Class<T> type) {
        EntityType entity = EntityType.of(type, store);
        Map<List<Object>, Object> graph = new HashMap<>();
        return store.rows(entity.table(), entity.own()).stream()
                .map(row -> entity.within(graph, row))
                .map(type::cast);
    }

    /** Returns the object that stands for the same row in the application's transaction; one that has no row as it is. */
    public Object managed(Object object) {
        return ManagedObjects.managed(object, store);
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

    /**
     * Deletes the row of an entity by its key alone, as a provider does where it does not read the entity: nothing is passed on,
     * but rows between it and others and those of its elements are deleted too.
     *
     * @return whether there was one
     */
    public boolean deleteUnread(Class<?> type, Object key) {
        EntityType entity = EntityType.of(type, store);
        Condition where = keyIs(entity.table().name(), key);
        store.rows(entity.table(), where).forEach(row -> new Cascades(store).deleteBetween(entity, row));
        return store.delete(entity.table(), where) > 0;
    }

    /**
     * Deletes the row of an entity by its key, with all that the deletion is passed on to.
     *
     * @return whether there was one
     */
    public boolean delete(Class<?> type, Object key) {
        EntityType entity = EntityType.of(type, store);
        List<Row> found =
                store.rows(entity.table(), keyIs(entity.table().name(), key).and(entity.own()));
        found.forEach(row -> new Cascades(store).delete(entity, row));
        return !found.isEmpty();
    }

    /** Finds the object whose row has a key. */
    public Optional<Object> find(Class<?> type, Object key) {
        EntityType entity = EntityType.of(type, store);
        return store.rows(entity.table(), keyIs(entity.table().name(), key).and(entity.own())).stream()
                .map(entity::object)
                .findFirst();
    }

    /** Finds the row that has a key. */
    public Optional<Row> find(String table, Object key) {
        return store.rows(store.schema().require(table), keyIs(table, key)).stream()
                .findFirst();
    }

    /**
     * Returns the key of an object, in the order of its table's key columns.
     *
     * @throws dev.zabbet.error.ZabbetException if it has none
     */
    public List<Object> keyOf(Object object) {
        EntityType entity = EntityType.of(object.getClass(), store);
        Row row = entity.row(object);
        return entity.table().keyColumns().stream()
                .map(column ->
                        Words.notNull(row.get(column), column, object.getClass().getSimpleName()))
                .toList();
    }

    /**
     * Returns the key of a type's table that a provider's identifier says: a value, or an object that has the parts of the key.
     *
     * @throws dev.zabbet.error.ZabbetException if it does not have them
     */
    public List<Object> keyOf(Class<?> type, Object identifier) {
        EntityType entity = EntityType.of(type, store);
        if (entity.key().size() == 1) {
            return List.of(identifier);
        }
        return entity.keyParts(identifier);
    }

    /** Returns the stage's clock. */
    public Clock clock() {
        return store.clock();
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
