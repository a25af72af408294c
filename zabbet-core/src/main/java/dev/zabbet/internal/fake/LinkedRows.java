package dev.zabbet.internal.fake;

import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** The rows that an association of an entity leads to, read and written. */
final class LinkedRows {
    private final EntityRelations.Bond bond;
    private final MemoryRows store;

    LinkedRows(EntityRelations.Bond bond, MemoryRows store) {
        this.bond = bond;
        this.store = store;
    }

    /** Returns the type of the objects. */
    EntityType target() {
        return EntityType.of(bond.association().target(), store);
    }

    /** Reads the objects or values that belong to the entity with a key, as part of a graph of objects. */
    List<Object> read(Link link, Object key, Map<List<Object>, Object> graph) {
        List<Object> found = new ArrayList<>();
        if (link instanceof Link.Below below) {
            EntityType target = target();
            store.rows(below.table(), new Condition.Equal(below.column(), key).and(target.own()))
                    .forEach(row -> found.add(target.related.within(graph, row)));
        } else if (link instanceof Link.Between between) {
            EntityType target = target();
            for (Row row : store.rows(between.table(), new Condition.Equal(between.own(), key))) {
                store.find(target.table(), Objects.requireNonNull(row.get(between.other())))
                        .ifPresent(there -> found.add(target.related.within(graph, there)));
            }
        } else if (link instanceof Link.Elements elements) {
            store.rows(elements.table(), new Condition.Equal(elements.own(), key))
                    .forEach(row -> found.add(element(elements, row)));
        }
        return found;
    }

    private Object element(Link.Elements elements, Row row) {
        Optional<String> column = elements.value();
        if (column.isEmpty()) {
            TypeShape<Object> shape = shape(elements.table());
            return shape.make(prop -> column(elements.table(), prop)
                    .<@Nullable Object>map(row::get)
                    .orElse(null));
        }
        try {
            return Objects.requireNonNull(
                    JavaValue.to(bond.association().target(), row.get(column.get())), "an element is null");
        } catch (InexactValueException e) {
            throw new dev.zabbet.error.ZabbetException(elements.table().name() + ": " + e.clause() + ".");
        }
    }

    /** Stores values in place of those that are there; tells whether they are others. */
    boolean replaceElements(Link.Elements link, Object key, Iterable<?> values) {
        Condition own = new Condition.Equal(link.own(), key);
        List<Row> wanted = new ArrayList<>();
        for (Object value : values) {
            wanted.add(row(link, key, value));
        }
        List<Row> there = store.rows(link.table(), own).stream()
                .map(row ->
                        of(row, wanted.isEmpty() ? row.columns() : wanted.get(0).columns()))
                .toList();
        List<Row> others = new ArrayList<>(wanted);
        if (there.stream().allMatch(others::remove) && others.isEmpty()) {
            return false;
        }
        store.delete(link.table(), own);
        wanted.forEach(row -> store.insert(link.table(), row));
        return true;
    }

    private static Row of(Row row, List<String> columns) {
        Map<String, @Nullable Object> some = new LinkedHashMap<>();
        columns.forEach(column -> some.put(column, row.get(column)));
        return Row.of(some);
    }

    private Row row(Link.Elements link, Object key, Object value) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        values.put(link.own(), key);
        if (link.value().isPresent()) {
            String column = link.value().get();
            values.put(column, EntityType.canonical(link.table().requireColumn(column), value));
            return Row.of(values);
        }
        TypeShape<Object> shape = shape(link.table());
        for (Prop prop : shape.properties()) {
            column(link.table(), prop)
                    .ifPresent(column -> values.put(
                            column,
                            EntityType.canonical(link.table().requireColumn(column), shape.readStored(value, prop))));
        }
        return Row.of(values);
    }

    /** Links the entity to others by the rows between, no more and no fewer; tells whether that changes any. */
    boolean replaceLinks(Link.Between link, Object key, List<Object> others) {
        Condition own = new Condition.Equal(link.own(), key);
        List<Object> missing = new ArrayList<>(others);
        boolean changed = false;
        for (Row row : store.rows(link.table(), own)) {
            Object other = Objects.requireNonNull(row.get(link.other()));
            if (!missing.remove(other)) {
                store.delete(link.table(), own.and(new Condition.Equal(link.other(), other)));
                changed = true;
            }
        }
        for (Object other : missing) {
            store.insert(link.table(), Row.row(link.own(), key).with(link.other(), other));
            changed = true;
        }
        return changed;
    }

    @SuppressWarnings("unchecked")
    private TypeShape<Object> shape(Table table) {
        return ColumnMapping.laidOut(
                TypeShape.of((Class<Object>) bond.association().target()), table, Map.of());
    }

    private static Optional<String> column(Table table, Prop prop) {
        return ColumnMapping.column(table, prop, Map.of()).map(column -> column.name());
    }
}
