package dev.zabbet.schema;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Association;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.lang.reflect.Modifier;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Reads a schema from Java types. */
final class TypeSchema {
    private final Map<String, List<Class<?>>> byTable = new LinkedHashMap<>(); // several where subclasses share one

    private TypeSchema(List<Class<?>> types) {
        for (Class<?> type : types) {
            byTable.computeIfAbsent(TypeShape.tableOf(type), table -> new ArrayList<>())
                    .add(type);
        }
    }

    static Schema read(List<Class<?>> types) {
        TypeSchema reader = new TypeSchema(types);
        List<Table> tables = new ArrayList<>();
        reader.byTable.forEach((name, sharing) -> tables.add(reader.table(name, sharing)));
        List<Table> between = new ArrayList<>();
        reader.byTable.forEach(
                (name, sharing) -> sharing.forEach(type -> new AssociationTables(name, type, tables).addTo(between)));
        tables.addAll(between);
        return new Schema(tables);
    }

    /** Where types share a table, a column that one of them lacks is null in its rows. */
    private Table table(String name, List<Class<?>> sharing) {
        Map<String, Column> columns = new LinkedHashMap<>();
        Map<String, Integer> having = new HashMap<>();
        Map<String, Reference> references = new LinkedHashMap<>();
        Optional<UniqueKey> key = Optional.empty();
        for (Class<?> type : sharing.size() == 1 ? sharing : concrete(sharing)) {
            TypeShape<?> shape = TypeShape.of(made(type));
            for (Prop prop : type == shape.type() ? properties(shape) : ofSuperclass(shape, name)) {
                Column column = filled(column(type, prop, shape.columnType(prop)), shape, prop);
                columns.putIfAbsent(column.name(), column);
                having.merge(column.name(), 1, Integer::sum);
                reference(name, prop, column).ifPresent(found -> references.putIfAbsent(column.name(), found));
                if (prop.name().equals("id")) {
                    key = Optional.of(new UniqueKey(name + "_key", List.of(column.name())));
                }
            }
            shape.fixed().forEach((column, value) -> columns.putIfAbsent(column, fixed(column, value)));
        }
        int most = concrete(sharing).size();
        columns.replaceAll((column, one) -> having.getOrDefault(column, most) < most ? nullable(one) : one);
        return new Table(
                name,
                "",
                name,
                List.copyOf(columns.values()),
                key,
                List.of(),
                List.copyOf(references.values()),
                List.of(),
                TableNature.PLAIN);
    }

    private static List<Class<?>> concrete(List<Class<?>> types) {
        return types.stream()
                .filter(type -> !Modifier.isAbstract(type.getModifiers()) || type.isInterface())
                .toList();
    }

    /** Returns the type itself, or for an abstract class one of those given of which objects can be made. */
    private Class<?> made(Class<?> type) {
        return byTable.values().stream()
                .flatMap(List::stream)
                .filter(below -> Modifier.isAbstract(type.getModifiers()) && type.isAssignableFrom(below))
                .filter(below -> !Modifier.isAbstract(below.getModifiers()))
                .findFirst()
                .orElse(type);
    }

    /** Returns what a table of a superclass keeps of the objects of a class below it. */
    private static List<Prop> ofSuperclass(TypeShape<?> shape, String table) {
        Map<String, String> kept = shape.above(table).orElse(Map.of());
        return shape.properties().stream()
                .filter(prop -> prop.name().equals("id") || kept.containsKey(prop.name()))
                .toList();
    }

    private Optional<Reference> reference(String table, Prop prop, Column column) {
        if (prop.name().equals("id") || (!prop.isReference() && !prop.name().endsWith("Id"))) {
            return Optional.empty();
        }
        String target = prop.isReference()
                ? TypeShape.tableOf(prop.type())
                : column.name().replaceFirst("_id$", "");
        return byTable.containsKey(target)
                ? Optional.of(new Reference(table + "_" + column.name(), List.of(column.name()), target, List.of("id")))
                : Optional.empty();
    }

    /** Jakarta Persistence lets a property be null that nothing is said of (3.1, 11.1.9); the application's DDL need not. */
    private static Column filled(Column column, TypeShape<?> shape, Prop prop) {
        return shape.isLeftOpen(prop) && !column.nullable() && !column.isNumbered()
                ? new Column(
                        column.name(),
                        column.sqlName(),
                        column.type(),
                        true,
                        column.defaultText(),
                        column.generation(),
                        column.sequence(),
                        true)
                : column;
    }

    private static Column nullable(Column column) {
        return new Column(
                column.name(), column.sqlName(), column.type(), true, column.defaultText(), column.generation());
    }

    /** The column that tells subclasses apart, or whether a row is deleted, need not be a property. */
    private static Column fixed(String name, Object value) {
        Kind kind = JavaValue.kindOf(value.getClass());
        DataType type;
        if (kind == Kind.INTEGER) {
            type = DataType.precise(kind, "integer", 32, 0);
        } else if (kind == Kind.TEXT) {
            type = DataType.sized(kind, "text", DataType.UNLIMITED);
        } else {
            type = DataType.of(kind, kind.name());
        }
        return new Column(name, name, type, false, Optional.empty(), Generation.NONE);
    }

    /** Maps, trees, and collections of what has no row of its own are kept as documents. */
    private static List<Prop> properties(TypeShape<?> shape) {
        List<Prop> properties = new ArrayList<>(shape.properties());
        shape.ownProperties().stream()
                .filter(prop ->
                        prop.isDocument() && !properties.contains(prop) && !isInTableOfItsOwn(shape.type(), prop))
                .forEach(properties::add);
        return properties;
    }

    private static boolean isInTableOfItsOwn(Class<?> type, Prop prop) {
        return !Map.class.isAssignableFrom(prop.type())
                && Association.of(type).stream()
                        .anyMatch(association -> association.property().equals(prop.name()));
    }

    /**
     * Returns the column of a property.
     *
     * @param held the class of what it holds
     */
    static Column column(Class<?> owner, Prop prop, Class<?> held) {
        boolean document = prop.isDocument() && held == prop.storedType();
        Kind kind = document ? Kind.JSON : JavaValue.kindOf(held);
        boolean numbered = prop.name().equals("id") && kind == Kind.INTEGER;
        String name = prop.column()
                .orElse(Words.snakeCase(prop.name().replace('.', '_')) + (prop.isReference() ? "_id" : ""));
        return new Column(
                name,
                name,
                type(owner, prop, held, kind),
                prop.nullable() && !prop.name().equals("id"),
                Optional.empty(),
                numbered ? Generation.IDENTITY : Generation.NONE);
    }

    private static DataType type(Class<?> owner, Prop prop, Class<?> held, Kind kind) {
        Class<?> type = JavaValue.boxed(held);
        String shown = held.getSimpleName();
        return switch (kind) {
            case INTEGER -> DataType.precise(kind, shown, bits(type), 0);
            case DECIMAL -> DataType.precise(kind, shown, DataType.UNLIMITED, 2);
            case TEXT -> DataType.sized(kind, shown, type == Character.class ? 1 : DataType.UNLIMITED);
            case ENUM ->
                DataType.labelled(
                        shown,
                        Arrays.stream(type.getEnumConstants())
                                .map(c -> ((Enum<?>) c).name())
                                .toList());
            case TIME, TIMESTAMP, INSTANT -> DataType.precise(kind, shown, 9, 0);
            case OTHER ->
                throw new ZabbetException("Property " + prop.name() + " of " + owner.getSimpleName() + " is "
                        + prop.type().getName() + ", which cannot be kept in a column. Read the schema from the"
                        + " application's DDL instead, or leave the property out of the type that is stored.");
            default -> DataType.of(kind, shown);
        };
    }

    private static int bits(Class<?> type) {
        if (type == Byte.class) {
            return Byte.SIZE;
        }
        if (type == Short.class) {
            return Short.SIZE;
        }
        return type == Integer.class ? Integer.SIZE : Long.SIZE;
    }
}
