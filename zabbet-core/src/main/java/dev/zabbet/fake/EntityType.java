package dev.zabbet.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Mapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.MemoryStore;
import java.lang.reflect.Method;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** The type of objects that a data-access interface is about, and its table. */
record EntityType(TypeShape<Object> shape, Table table, Prop keyProperty) {

    /** Finds the one type among the interface's parameters and results that has a table. */
    @SuppressWarnings("unchecked")
    static EntityType of(Class<?> repository, MemoryStore store) {
        Set<Class<?>> found = new LinkedHashSet<>();
        for (Method method : repository.getMethods()) {
            collect(method.getGenericReturnType(), store, found);
            for (Type parameter : method.getGenericParameterTypes()) {
                collect(parameter, store, found);
            }
        }
        if (found.size() != 1) {
            throw new ZabbetException("A fake of " + repository.getSimpleName()
                    + " cannot be made: its methods are about "
                    + (found.isEmpty()
                            ? "no type that has a table. The tables are: "
                                    + String.join(", ", store.schema().tableNames())
                            : "several types with a table: "
                                    + Words.and(found.stream()
                                            .map(Class::getSimpleName)
                                            .toList()))
                    + ".");
        }
        TypeShape<Object> shape = TypeShape.of((Class<Object>) found.iterator().next());
        Table table = table(shape.type(), store).orElseThrow();
        Prop key = shape.properties().stream()
                .filter(p -> Mapping.column(table, p, Map.of())
                        .filter(c -> table.keyColumns().equals(java.util.List.of(c.name())))
                        .isPresent())
                .findFirst()
                .orElseThrow(() -> new ZabbetException("A fake of " + repository.getSimpleName()
                        + " cannot be made: " + shape.type().getSimpleName()
                        + " has no property for the key of table " + table.name() + "."));
        return new EntityType(shape, table, key);
    }

    private static void collect(Type type, MemoryStore store, Set<Class<?>> found) {
        if (type instanceof Class<?> c && !c.isPrimitive() && table(c, store).isPresent()) {
            found.add(c);
        } else if (type instanceof ParameterizedType p) {
            for (Type argument : p.getActualTypeArguments()) {
                collect(argument, store, found);
            }
        }
    }

    private static Optional<Table> table(Class<?> type, MemoryStore store) {
        return store.schema().table(TypeShape.tableOf(type));
    }

    Column keyColumn() {
        return table.requireColumn(table.keyColumns().get(0));
    }

    Column column(Prop prop) {
        return Mapping.column(table, prop, Map.of())
                .orElseThrow(() -> new ZabbetException(
                        "Table " + table.name() + " has no column for property " + prop.name() + "."));
    }

    /** Returns the object's columns; a key that is null or zero counts as not there yet. */
    Row row(Object object) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (Prop prop : shape.properties()) {
            Object value = shape.readStored(object, prop);
            boolean noKey =
                    prop.equals(keyProperty) && (value == null || (value instanceof Number n && n.longValue() == 0));
            if (!noKey) {
                values.put(column(prop).name(), value);
            }
        }
        return Row.of(values);
    }

    Object object(Row row) {
        return shape.make(prop -> row.get(column(prop).name()));
    }
}
