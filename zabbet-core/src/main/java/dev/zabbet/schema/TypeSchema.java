package dev.zabbet.schema;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Association;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.JavaValue;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Reads a schema from Java types. */
final class TypeSchema {
    private final Map<String, Class<?>> byTable = new LinkedHashMap<>();

    private TypeSchema(List<Class<?>> types) {
        types.forEach(type -> byTable.put(TypeShape.tableOf(type), type));
    }

    static Schema read(List<Class<?>> types) {
        TypeSchema reader = new TypeSchema(types);
        List<Table> tables = new ArrayList<>();
        reader.byTable.forEach((name, type) -> tables.add(reader.table(name, type)));
        List<Table> between = new ArrayList<>();
        reader.byTable.forEach((name, type) -> new AssociationTables(name, type, tables).addTo(between));
        tables.addAll(between);
        return new Schema(tables);
    }

    private Table table(String name, Class<?> type) {
        List<Column> columns = new ArrayList<>();
        List<Reference> references = new ArrayList<>();
        Optional<UniqueKey> key = Optional.empty();
        for (Prop prop : properties(TypeShape.of(type))) {
            Column column = column(type, prop);
            columns.add(column);
            if (prop.name().equals("id")) {
                key = Optional.of(new UniqueKey(name + "_key", List.of(column.name())));
            } else if (prop.isReference() || prop.name().endsWith("Id")) {
                String target = prop.isReference()
                        ? TypeShape.tableOf(prop.type())
                        : column.name().replaceFirst("_id$", "");
                if (byTable.containsKey(target)) {
                    references.add(
                            new Reference(name + "_" + column.name(), List.of(column.name()), target, List.of("id")));
                }
            }
        }
        return new Table(name, "", name, columns, key, List.of(), references, List.of(), TableNature.PLAIN);
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

    static Column column(Class<?> owner, Prop prop) {
        Kind kind = prop.isDocument() ? Kind.JSON : JavaValue.kindOf(prop.storedType());
        boolean numbered = prop.name().equals("id") && kind == Kind.INTEGER;
        String name = prop.column()
                .orElse(Words.snakeCase(prop.name().replace('.', '_')) + (prop.isReference() ? "_id" : ""));
        return new Column(
                name,
                name,
                type(owner, prop, kind),
                prop.nullable() && !prop.name().equals("id"),
                Optional.empty(),
                numbered ? Generation.IDENTITY : Generation.NONE);
    }

    private static DataType type(Class<?> owner, Prop prop, Kind kind) {
        Class<?> type = JavaValue.boxed(prop.storedType());
        String shown = prop.storedType().getSimpleName();
        return switch (kind) {
            case INTEGER ->
                DataType.precise(
                        kind,
                        shown,
                        type == Byte.class ? 8 : type == Short.class ? 16 : type == Integer.class ? 32 : 64,
                        0);
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
}
