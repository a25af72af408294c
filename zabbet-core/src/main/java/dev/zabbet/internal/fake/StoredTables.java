package dev.zabbet.internal.fake;

import dev.zabbet.fake.Tables;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import java.time.Clock;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Tables over the rows that a fake works on. */
final class StoredTables implements Tables {
    private final MemoryRows store;

    StoredTables(MemoryRows store) {
        this.store = store;
    }

    @Override
    public <T> Stream<T> all(Class<T> type) {
        EntityType entity = EntityType.of(type, store);
        Map<List<Object>, Object> graph = new HashMap<>();
        return store.rows(entity.table(), entity.own()).stream()
                .map(row -> entity.related.within(graph, row))
                .map(type::cast);
    }

    @Override
    public Object managed(Object object) {
        return ManagedObjects.managed(object, store);
    }

    @Override
    public List<Row> rows(String table) {
        return store.rows(store.schema().require(table), Condition.all());
    }

    @Override
    public Row insert(String table, Row row) {
        return store.insert(store.schema().require(table), row);
    }

    @Override
    public boolean update(String table, Object key, Row changes) {
        return store.update(store.schema().require(table), keyIs(table, key), changes) > 0;
    }

    @Override
    public boolean delete(String table, Object key) {
        return store.delete(store.schema().require(table), keyIs(table, key)) > 0;
    }

    @Override
    public boolean deleteUnread(Class<?> type, Object key) {
        EntityType entity = EntityType.of(type, store);
        Condition where = keyIs(entity.table().name(), key);
        store.rows(entity.table(), where).forEach(row -> new Cascades(store).deleteBetween(entity, row));
        return store.delete(entity.table(), where) > 0;
    }

    @Override
    public boolean delete(Class<?> type, Object key) {
        EntityType entity = EntityType.of(type, store);
        List<Row> found =
                store.rows(entity.table(), keyIs(entity.table().name(), key).and(entity.own()));
        found.forEach(row -> new Cascades(store).delete(entity, row));
        return !found.isEmpty();
    }

    @Override
    public Optional<Object> find(Class<?> type, Object key) {
        EntityType entity = EntityType.of(type, store);
        return store.rows(entity.table(), keyIs(entity.table().name(), key).and(entity.own())).stream()
                .map(entity::object)
                .findFirst();
    }

    @Override
    public Optional<Row> find(String table, Object key) {
        return store.rows(store.schema().require(table), keyIs(table, key)).stream()
                .findFirst();
    }

    @Override
    public List<Object> keyOf(Object object) {
        EntityType entity = EntityType.of(object.getClass(), store);
        Row row = entity.row(object);
        return entity.table().keyColumns().stream()
                .map(column ->
                        Words.notNull(row.get(column), column, object.getClass().getSimpleName()))
                .toList();
    }

    @Override
    public List<Object> keyOf(Class<?> type, Object identifier) {
        EntityType entity = EntityType.of(type, store);
        if (entity.key().size() == 1) {
            return List.of(identifier);
        }
        return entity.keyParts(identifier);
    }

    @Override
    public Clock clock() {
        return store.clock();
    }

    private Condition keyIs(String name, Object key) {
        Table table = store.schema().require(name);
        List<?> parts = key instanceof List<?> list ? list : List.of(key);
        Condition where = Condition.all();
        for (int i = 0; i < table.keyColumns().size(); i++) {
            @Nullable Object part = i < parts.size() ? parts.get(i) : null;
            var column = table.requireColumn(table.keyColumns().get(i));
            where = where.and(new Condition.Equal(column.name(), EntityType.canonical(column, part)));
        }
        return where;
    }
}
