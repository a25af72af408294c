package dev.zabbet.internal.plan;

import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.Proxies;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * The relations of entities that have been made: parents are whole objects, the ones that were given if any were; children
 * stand in the collections of their parents, and know them. Each row is one object, however it is come to.
 */
final class Relations {
    private final Schema schema;
    private final Store store;
    private final Map<Key, Object> objects = new HashMap<>();

    /** Which row an object stands for. */
    private record Key(String table, Object value) {}

    Relations(Plan plan, Store store) {
        this.schema = plan.schema();
        this.store = store;
    }

    /** Completes objects that are stored, with their parents and children. */
    void complete(Recipe<?> factory, List<?> made) {
        if (isEntity(factory)) {
            completeParents(factory, made);
            for (Recipe.Children children : factory.children()) {
                if (children.way() == Recipe.Children.Way.REFERRING && isEntity(children.recipe())) {
                    made.forEach(owner -> gather(owner, factory, children.recipe()));
                }
            }
        }
    }

    /** Completes the parents of objects. */
    void completeParents(Recipe<?> factory, List<?> made) {
        if (!isEntity(factory) || made.isEmpty()) {
            return;
        }
        factory.settings().values().forEach(setting -> {
            if (setting instanceof Setting.Parents parents) {
                parents.rows().stream()
                        .filter(row -> EntityMapping.isEntity(row.getClass()) || Proxies.isProxy(row))
                        .forEach(this::know);
            } else if (setting instanceof Setting.Copied copied
                    && copied.value() != null
                    && (EntityMapping.isEntity(copied.value().getClass()) || Proxies.isProxy(copied.value()))) {
                know(copied.value());
            }
        });
        made.forEach(object -> bringParents(object, schema.require(factory.table()), factory.columns()));
    }

    private static boolean isEntity(Recipe<?> factory) {
        return factory.shape().filter(TypeShape::isEntity).isPresent();
    }

    /** An object that was given is the one that is kept; a lazy one is not loaded for that. */
    private void know(Object given) {
        Class<?> type = Proxies.isProxy(given) ? given.getClass().getSuperclass() : given.getClass();
        Table table = schema.table(TypeShape.tableOf(type)).orElse(null);
        if (table == null || table.keyColumns().size() != 1) {
            return;
        }
        TypeShape<Object> shape = shapeOf(type);
        Object key = Proxies.isProxy(given)
                ? Proxies.identifierOrSelf(given)
                : keyProperty(shape, table, Map.of())
                        .<@Nullable Object>map(prop -> shape.readStored(given, prop))
                        .orElse(null);
        if (key != null) {
            objects.put(new Key(table.name(), key), given);
        }
    }

    private void bringParents(Object object, Table table, Map<String, String> columns) {
        TypeShape<Object> shape = ColumnMapping.laidOut(shapeOf(object.getClass()), table, columns);
        if (!shape.isChangeable()) {
            return;
        }
        for (Prop prop : shape.ownProperties()) {
            if (!prop.isReference()) {
                continue;
            }
            Object held = shape.read(object, prop);
            Column column = ColumnMapping.column(table, prop, columns).orElse(null);
            Table target = column == null
                    ? targetAbove(shape, prop).orElse(null)
                    : target(table, column).orElse(null);
            if (held == null || target == null) {
                continue;
            }
            Object key = shape.readStored(object, prop);
            Object parent = key == null ? null : parent(prop, target, key);
            if (parent != null) {
                shape.write(object, prop, parent);
            }
        }
    }

    private Optional<Table> target(Table table, Column column) {
        return table.referencesOf(column.name()).stream()
                .map(Reference::target)
                .map(schema::require)
                .findFirst();
    }

    /** Finds the table that a reference in the table of a superclass leads to. */
    private Optional<Table> targetAbove(TypeShape<Object> shape, Prop prop) {
        return shape.above().entrySet().stream()
                .filter(above -> above.getValue().containsKey(prop.name()))
                .flatMap(above -> schema.table(above.getKey()).stream()
                        .flatMap(table -> table.column(above.getValue().get(prop.name())).stream()
                                .flatMap(column -> target(table, column).stream())))
                .findFirst();
    }

    private @Nullable Object parent(Prop prop, Table target, Object key) {
        Key row = new Key(target.name(), key);
        Object known = objects.get(row);
        Class<?> type = EntityMapping.concrete(prop.type()).orElse(null);
        if (known != null || type == null || target.keyColumns().size() != 1) {
            return known;
        }
        Row found = store.rows(target, new Condition.Equal(target.keyColumns().get(0), key)).stream()
                .findFirst()
                .orElse(null);
        boolean such = shapeOf(type).fixed().entrySet().stream().allMatch(fixed -> target.column(fixed.getKey())
                .filter(column -> found == null || fixed.getValue().equals(found.get(column.name())))
                .isPresent());
        return such && found != null ? object(type, target, found) : null;
    }

    /** Makes the object of a row, with its parents. */
    private Object object(Class<?> type, Table table, Row row) {
        TypeShape<Object> shape = ColumnMapping.laidOut(shapeOf(type), table, Map.of());
        Map<String, @Nullable Object> above = above(shape, table, row);
        Object object = shape.make(prop -> {
            Object value = ColumnMapping.column(table, prop, Map.of())
                    .<@Nullable Object>map(column -> row.get(column.name()))
                    .orElse(JoinedRows.constant(prop, above.get(prop.name())));
            return value == null && prop.type().isPrimitive() ? PlanExecution.zero(prop) : value;
        });
        if (table.keyColumns().size() == 1) {
            objects.put(
                    new Key(
                            table.name(),
                            Objects.requireNonNull(row.get(table.keyColumns().get(0)))),
                    object);
        }
        bringParents(object, table, Map.of());
        return object;
    }

    /** Returns what the rows of superclasses hold that have the same key, by properties. */
    private Map<String, @Nullable Object> above(TypeShape<Object> shape, Table table, Row row) {
        Map<String, @Nullable Object> values = new HashMap<>();
        shape.above().forEach((name, columns) -> schema.table(name)
                .filter(above -> above.keyColumns().size() == 1)
                .ifPresent(above -> store.rows(
                                above,
                                new Condition.Equal(
                                        above.keyColumns().get(0),
                                        row.get(table.keyColumns().get(0))))
                        .forEach(found ->
                                columns.forEach((property, column) -> values.put(property, found.get(column))))));
        return values;
    }

    /** Puts the children of an object into its collection. */
    @SuppressWarnings("unchecked")
    private void gather(Object owner, Recipe<?> factory, Recipe<?> children) {
        Table table = schema.require(factory.table());
        Table below = schema.require(children.table());
        TypeShape<Object> shape = shapeOf(owner.getClass());
        if (table.keyColumns().size() != 1) {
            return;
        }
        Object key = keyProperty(shape, table, factory.columns())
                .<@Nullable Object>map(prop -> shape.readStored(owner, prop))
                .orElse(null);
        Reference up = below.references().stream()
                .filter(reference -> reference.target().equals(table.name())
                        && reference.targetColumns().equals(table.keyColumns())
                        && children.settings().keySet().stream()
                                .noneMatch(name -> reference.columns().contains(name)))
                .findFirst()
                .orElse(null);
        if (key == null || up == null) {
            return;
        }
        objects.put(new Key(table.name(), key), owner);
        List<Object> found = new ArrayList<>();
        for (Row row : store.rows(below, new Condition.Equal(up.columns().get(0), key))) {
            found.add(object(children.type(), below, row));
        }
        for (Prop prop : shape.ownProperties()) {
            if (Collection.class.isAssignableFrom(prop.type())
                    && prop.holds(children.type())
                    && shape.read(owner, prop) instanceof Collection<?> collection) {
                ((Collection<Object>) collection).addAll(found);
                return;
            }
        }
    }

    private static Optional<Prop> keyProperty(TypeShape<Object> shape, Table table, Map<String, String> columns) {
        return shape.properties().stream()
                .filter(prop -> ColumnMapping.column(table, prop, columns)
                        .filter(column ->
                                column.name().equals(table.keyColumns().get(0)))
                        .isPresent())
                .findFirst();
    }

    @SuppressWarnings("unchecked")
    private static TypeShape<Object> shapeOf(Class<?> type) {
        return TypeShape.of((Class<Object>) type);
    }
}
