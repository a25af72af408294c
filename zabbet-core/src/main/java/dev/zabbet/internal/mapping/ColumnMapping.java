package dev.zabbet.internal.mapping;

import dev.zabbet.internal.type.DocumentValue;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Which column a property means. */
public final class ColumnMapping {
    private ColumnMapping() {}

    /**
     * Returns the shape of a type as a table keeps it: a map, collection, array, record or tree whose own column holds JSON
     * or arrays is one property.
     *
     * @param said columns by the names of properties
     */
    public static <T> TypeShape<T> laidOut(TypeShape<T> shape, Table table, Map<String, String> said) {
        Map<String, Kind> whole = new HashMap<>();
        for (Prop prop : shape.ownProperties()) {
            boolean tree = Json.isTree(prop.type());
            boolean collection = DocumentValue.isCollection(prop.type());
            boolean structured =
                    DocumentValue.isStructured(prop.type()) && !prop.isReference() && !shape.isConverted(prop);
            if (tree || collection || structured) {
                column(table, prop, said)
                        .map(column -> column.type().kind())
                        .filter(kind -> kind == Kind.JSON
                                || (kind == Kind.TEXT && !structured)
                                || (kind == Kind.ARRAY && collection && !Map.class.isAssignableFrom(prop.type())))
                        .ifPresent(kind -> whole.put(prop.name(), kind));
            }
        }
        Set<String> ordinals = new HashSet<>();
        for (Prop prop : shape.properties()) {
            if (prop.type().isEnum() && !shape.isConverted(prop)) {
                column(table, prop, said)
                        .filter(column -> column.type().kind() == Kind.INTEGER)
                        .ifPresent(column -> ordinals.add(prop.name()));
            }
        }
        return shape.laidOut(whole, ordinals);
    }

    /** Tells whether a column refers to what a property holds: to a large object of PostgreSQL, which is in no table. */
    public static boolean isReferring(Column column, Prop prop) {
        return column.type().sqlName().equals("oid") && JavaValue.kindOf(prop.storedType()) != Kind.INTEGER;
    }

    /**
     * Finds the column: by what the user says, what an annotation says, then by its name ({@code hutId} means
     * {@code hut_id}; a {@code hut} that has a row of its own too; {@code address.street} means {@code address_street}, or
     * {@code street}).
     *
     * @param said columns by the names of properties
     */
    public static Optional<Column> column(Table table, Prop prop, Map<String, String> said) {
        String explicit = said.getOrDefault(prop.name(), prop.column().orElse(""));
        if (!explicit.isEmpty()) {
            return table.column(explicit).or(() -> table.columnForProperty(explicit));
        }
        if (prop.isReference()) {
            return table.columnForProperty(prop.name() + "Id").or(() -> table.columnForProperty(prop.name()));
        }
        String path = prop.name();
        Optional<Column> whole = table.columnForProperty(path.replace('.', '_'));
        return whole.isPresent() || path.indexOf('.') < 0
                ? whole
                : table.columnForProperty(path.substring(path.lastIndexOf('.') + 1));
    }
}
