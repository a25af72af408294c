package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.PerTable;
import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Association;
import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.PropertyReading;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;

/** A type of objects that have a table, and how they become rows and rows objects. */
final class EntityType {
    final EntityRelations related = new EntityRelations(this);
    private final Class<?> declared; // an abstract class, for one
    final TypeShape<Object> shape;
    final Table table;
    final Schema schema;
    private final @Nullable MemoryRows store; // where the objects are that an object refers to
    private final List<Prop> key;
    final Map<String, Column> columns;
    private final int[] positions;
    private final Map<String, Optional<EntityType>> targets = new ConcurrentHashMap<>();

    /** How a type lies in a table, which is worked out once for all stores. */
    private record Layout(TypeShape<Object> shape, List<Prop> key, Map<String, Column> columns, int[] positions) {

        private record Of(TypeShape<?> shape) {}

        static Layout of(TypeShape<Object> plain, Table table) {
            return PerTable.of(table, new Of(plain), Layout.class, () -> read(plain, table));
        }

        private static Layout read(TypeShape<Object> plain, Table table) {
            TypeShape<Object> shape = ColumnMapping.laidOut(plain, table, Map.of());
            Map<String, Column> columns = new LinkedHashMap<>();
            int[] positions = new int[shape.properties().size()];
            Arrays.fill(positions, -1);
            int at = 0;
            for (Prop prop : shape.properties()) {
                Optional<Column> column = ColumnMapping.column(table, prop, Map.of());
                if (column.isPresent()) {
                    columns.put(prop.name(), column.get());
                    positions[at] = table.requirePosition(column.get().name());
                }
                at++;
            }
            List<Prop> key = new ArrayList<>();
            for (String name : table.keyColumns()) {
                shape.properties().stream()
                        .filter(p -> name.equals(Optional.ofNullable(columns.get(p.name()))
                                .map(Column::name)
                                .orElse("")))
                        .findFirst()
                        .ifPresent(key::add);
            }
            return new Layout(shape, List.copyOf(key), columns, positions);
        }
    }

    @SuppressWarnings("unchecked")
    private EntityType(Class<?> declared, Class<?> type, Table table, Schema schema, @Nullable MemoryRows store) {
        this.declared = declared;
        this.schema = schema;
        this.store = store;
        this.table = table;
        Layout layout = Layout.of(TypeShape.of((Class<Object>) type), table);
        this.shape = layout.shape();
        this.key = layout.key();
        this.columns = layout.columns();
        this.positions = layout.positions();
    }

    /** Tells whether objects of a type have a table. */
    static boolean isEntity(Class<?> type, Schema schema) {
        return !type.isPrimitive()
                && !type.isArray()
                && !type.isEnum()
                && !type.isInterface()
                && !type.getName().startsWith("java.")
                && schema.table(TypeShape.tableOf(type)).isPresent();
    }

    static EntityType of(Class<?> declared, Schema schema) {
        Class<?> type = EntityMapping.concrete(declared).orElse(declared);
        return new EntityType(declared, type, schema.require(TypeShape.tableOf(type)), schema, null);
    }

    /** Returns the type of objects whose relations are whole objects, as far as a provider stores them. */
    static EntityType of(Class<?> declared, MemoryRows store) {
        Class<?> type = EntityMapping.concrete(declared).orElse(declared);
        return new EntityType(declared, type, store.schema().require(TypeShape.tableOf(type)), store.schema(), store);
    }

    /** Finds the type of the objects that a relation leads to. */
    Optional<EntityType> target(Prop relation) {
        return targets.computeIfAbsent(relation.name(), name -> targetOf(relation));
    }

    private Optional<EntityType> targetOf(Prop relation) {
        if (!isEntity(relation.type(), schema)
                || EntityMapping.concrete(relation.type()).isEmpty()) {
            return Optional.empty();
        }
        MemoryRows rows = store;
        return Optional.of(rows == null ? of(relation.type(), schema) : of(relation.type(), rows));
    }

    Class<?> type() {
        return shape.type();
    }

    /** Tells whether a class is the one that objects are made of, or the abstract one that was asked for. */
    boolean isOf(Class<?> other) {
        return other == type() || other == declared;
    }

    /** Returns the type of an object, which may be of a subclass. */
    EntityType typeOf(Object object) {
        MemoryRows rows = store;
        return object.getClass() == type() || rows == null || !isEntity(object.getClass(), schema)
                ? this
                : of(object.getClass(), rows);
    }

    TypeShape<Object> shape() {
        return shape;
    }

    Table table() {
        return table;
    }

    /** Returns the properties that are the key, in its order. */
    List<Prop> key() {
        return key;
    }

    /** Refuses a type that does not have the whole key. */
    void requireKey() throws UnknownMethodException {
        if (key.isEmpty() || key.size() != table.keyColumns().size()) {
            throw new UnknownMethodException(type().getSimpleName() + " has no property for the key of table "
                    + table.name() + " (" + String.join(", ", table.keyColumns()) + ")");
        }
    }

    /** Returns the values of the key's columns that an object has whose properties are called like those of the key. */
    List<Object> keyParts(Object identifier) {
        TypeShape<Object> parts = shapeOf(identifier.getClass());
        return key.stream()
                .map(prop -> {
                    Prop part = parts.require(prop.name().substring(prop.name().lastIndexOf('.') + 1));
                    return Words.notNull(
                            parts.readStored(identifier, part),
                            part.name(),
                            identifier.getClass().getSimpleName());
                })
                .toList();
    }

    Optional<Column> columnOf(Prop prop) {
        return Optional.ofNullable(columns.get(prop.name()));
    }

    Column column(Prop prop) throws UnknownMethodException {
        return columnOf(prop)
                .orElseThrow(() -> new UnknownMethodException(
                        "table " + table.name() + " has no column for property " + prop.name()));
    }

    /** Tells whether the database gives the key. */
    boolean isNumbered() {
        return key.size() == 1 && columnOf(key.get(0)).map(Column::isNumbered).orElse(false);
    }

    /** Tells whether the database or a provider gives the key. */
    boolean hasGeneratedKey() {
        boolean ofParent = Association.of(type()).stream().anyMatch(Association::isKey);
        return isNumbered() || (key.size() == 1 && shape.isGenerated(key.get(0)) && !ofParent);
    }

    /**
     * Returns the object's columns; a key that the database gives counts as not there while it is null or zero.
     *
     * @throws ZabbetException if the object holds something that the table has no column for
     */
    Row row(Object object) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        requireRoom(object);
        for (Prop prop : shape.properties()) {
            Column column = columns.get(prop.name());
            if (column == null || column.isComputed()) {
                continue;
            }
            Object value = shape.readStored(object, prop);
            boolean noKey = column.isNumbered() && (value == null || (value instanceof Number n && n.longValue() == 0));
            if (!noKey) {
                values.put(column.name(), value);
            }
        }
        shape.fixed().forEach((column, value) -> {
            if (table.column(column).isPresent()) {
                values.putIfAbsent(column, value);
            }
        });
        values.putAll(joined().columnsAbove(object));
        return Row.of(values);
    }

    /** Returns the condition that a row is one of the type: of its class, and not deleted by a column that says so. */
    Condition own() {
        Condition own = Condition.all();
        for (Map.Entry<String, Object> fixed : fixedOfAll().entrySet()) {
            Column column = table.column(fixed.getKey()).orElse(null);
            if (column != null) {
                own = own.and(new Condition.Equal(column.name(), canonical(column, fixed.getValue())));
            }
        }
        String restriction = shape.restriction().orElse(null);
        return restriction == null ? own : own.and(Restriction.condition(restriction, type(), table));
    }

    /** What tells subclasses apart does not tell their common class apart, and the topmost has all rows of its table. */
    private Map<String, Object> fixedOfAll() {
        Map<String, Object> all = new HashMap<>(shape.fixed());
        Class<?> above = declared.getSuperclass();
        if (above == null || !EntityMapping.isEntity(above)) {
            all.values().removeIf(value -> !(value instanceof Boolean));
        }
        for (Class<?> variant : EntityMapping.variants(declared)) {
            all.entrySet().removeIf(fixed -> !fixed.getValue()
                    .equals(shapeOf(variant).fixed().get(fixed.getKey())));
        }
        return all;
    }

    /** Returns what a column gets when a row is deleted that stays; empty if rows of the type do not stay. */
    Optional<Row> softDeletion() {
        MemoryRows rows = store;
        if (shape.deletion().isPresent()) {
            return Restriction.deletion(shape.deletion().get(), type(), table, rows == null ? null : rows.clock());
        }
        return shape.fixed().entrySet().stream()
                .filter(fixed -> fixed.getValue() instanceof Boolean
                        && table.column(fixed.getKey()).isPresent())
                .map(fixed -> Row.row(fixed.getKey(), !(Boolean) fixed.getValue()))
                .findFirst();
    }

    @SuppressWarnings("unchecked")
    private static TypeShape<Object> shapeOf(Class<?> type) {
        return TypeShape.of((Class<Object>) type);
    }

    /** Returns the type of the object that a row is, where subclasses share a table. */
    private EntityType variant(Row row) {
        List<Class<?>> variants = EntityMapping.variants(declared);
        if (variants.size() > 1) {
            for (Class<?> variant : variants) {
                boolean such = TypeShape.tableOf(variant).equals(table.name())
                        && !shapeOf(variant).fixed().isEmpty()
                        && shapeOf(variant).fixed().entrySet().stream()
                                .allMatch(fixed -> Objects.equals(
                                        row.has(fixed.getKey()) ? row.get(fixed.getKey()) : fixed.getValue(),
                                        fixed.getValue()));
                if (such && variant != type()) {
                    return new EntityType(variant, variant, table, schema, store);
                }
            }
        }
        return this;
    }

    /** What has no column would be lost. */
    private void requireRoom(Object object) {
        for (Prop prop : shape.ownProperties()) {
            if (!hasColumn(prop)
                    && !isAbove(prop)
                    && !isLinked(prop)
                    && holdsSomething(prop, shape.read(object, prop))) {
                throw new ZabbetException(type().getSimpleName() + "." + prop.name() + " holds "
                        + Text.of(shape.read(object, prop)) + ", and table " + table.name()
                        + " has no column for it, so that it would be lost. Mark the property @Transient, name its column"
                        + " by @Column, or define what the method does: stage.define(…).");
            }
        }
    }

    private boolean isAbove(Prop own) {
        return shape.above().values().stream()
                .flatMap(columns -> columns.keySet().stream())
                .anyMatch(name -> name.equals(own.name()) || name.startsWith(own.name() + "."));
    }

    /** What is kept in a table of its own is stored there. */
    private boolean isLinked(Prop own) {
        return related.bonds().stream()
                .anyMatch(bond -> bond.prop().equals(own) && bond.link().isPresent());
    }

    private boolean hasColumn(Prop own) {
        return columns.keySet().stream().anyMatch(name -> name.equals(own.name()) || name.startsWith(own.name() + "."));
    }

    /** Rows of tables of their own are no values of this one. */
    private static boolean holdsSomething(Prop prop, @Nullable Object value) {
        if (value == null || value.equals(0) || value.equals(0L) || value.equals(0.0) || value.equals(false)) {
            return false;
        }
        if (value instanceof Map<?, ?> map) {
            return !map.isEmpty();
        }
        if (value instanceof Collection<?> several) {
            return several.stream().anyMatch(element -> element != null && !PropertyReading.hasKey(element.getClass()));
        }
        return !PropertyReading.hasKey(prop.type());
    }

    /** Makes the object of a row, or hands out the one that the application's transaction has for it. */
    Object object(Row row) {
        Object made = detached(row);
        MemoryRows rows = store;
        return rows == null ? made : ManagedObjects.managed(made, rows);
    }

    /** Makes the object of a row, whatever the application has read. */
    Object detached(Row row) {
        return object(row, new HashMap<>());
    }

    Object object(Row row, Map<List<Object>, Object> known) {
        EntityType variant = variant(row);
        if (variant != this) {
            return variant.object(row, known);
        }
        Object object = plain(row);
        MemoryRows rows = store;
        if (rows != null && shape.isEntity() && shape.isChangeable()) {
            related.bringRelations(object, row, rows, known);
            related.bringAssociations(object, row, rows, known);
        }
        return object;
    }

    /** Makes an object of a row alone, without what it belongs together with. */
    Object plain(Row row) {
        @Nullable Object[] values = new @Nullable Object[positions.length];
        Map<String, @Nullable Object> above = joined().valuesAbove(row);
        for (int i = 0; i < positions.length; i++) {
            values[i] = positions[i] < 0 ? above.get(shape.properties().get(i).name()) : row.at(positions[i]);
        }
        return shape.makeOf(values);
    }

    /** Returns the tables of superclasses, where they have some of their own. */
    private JoinedTables joined() {
        return new JoinedTables(shape, table, schema, store);
    }

    /** Stores a row of the type, and those that it has in the tables of superclasses. */
    Row insert(Row row) {
        return joined().insert(row);
    }

    /** Changes the rows for which a condition holds, and those that they have in the tables of superclasses. */
    int update(Condition where, Row changes) {
        return joined().update(where, changes);
    }

    /** Deletes what a row has in the tables of superclasses, once it is deleted itself. */
    void deleteAbove(Row row) {
        joined().delete(row);
    }

    /** Returns the condition that a row has the key of another, which has all of its columns. */
    Condition keyOf(Row row) {
        Condition where = Condition.all();
        for (String column : table.keyColumns()) {
            where = where.and(new Condition.Equal(column, canonical(table.requireColumn(column), row.get(column))));
        }
        return where;
    }

    boolean isSameKey(Row one, Row other) {
        return table.keyColumns().stream()
                .allMatch(column -> Objects.equals(
                        canonical(table.requireColumn(column), one.get(column)),
                        canonical(table.requireColumn(column), other.get(column))));
    }

    boolean hasKey(Row row) {
        return table.keyColumns().stream().allMatch(c -> row.has(c) && row.get(c) != null);
    }

    /** Brings an argument into its column's form; of an object that has a row of its own the key counts. */
    static @Nullable Object canonical(Column column, @Nullable Object value) {
        try {
            return CanonicalForm.of(column.type(), value);
        } catch (InexactValueException e) {
            throw new ZabbetException(column.name() + " is " + column.type().sqlName() + ", and " + e.clause() + ".");
        }
    }

    String names() {
        return String.join(", ", shape.properties().stream().map(Prop::name).toList());
    }

    /** Finds the property that words of a method's name mean. */
    Optional<Prop> property(String words) {
        String sought = words.replace("_", "");
        for (Prop prop : shape.properties()) {
            if (Words.alike(prop.name().replace(".", ""), sought)
                    || (prop.isReference() && Words.alike(prop.name() + "Id", sought))) {
                return Optional.of(prop);
            }
        }
        boolean meansKey = List.of("id", "key").contains(sought.toLowerCase(java.util.Locale.ROOT));
        return meansKey && key.size() == 1 ? Optional.of(key.get(0)) : Optional.empty();
    }
}
