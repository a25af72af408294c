package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** A flawed row as an object of the application, or as what its client would send. */
public final class FlawedObject {
    private FlawedObject() {}

    /**
     * Makes the object.
     *
     * @param row the flawed row, with all columns
     * @throws ZabbetException if objects of the type cannot hold the flaw
     */
    public static <T> T of(Recipe<?> recipe, Row flaw, String description, Table table, Row row, Class<T> type) {
        trouble(recipe, flaw, type).ifPresent(trouble -> {
            throw new ZabbetException(type.getSimpleName() + " cannot hold what is wrong with '" + description + "': "
                    + trouble + ". Filter by flawed.fits(" + type.getSimpleName()
                    + ".class), or feed it in as stage.payload(flawed) or as the row of stage.build(flawed).");
        });
        return ColumnMapping.laidOut(TypeShape.of(type), table, columns(recipe, type))
                .make(prop -> {
                    Column column = ColumnMapping.column(table, prop, columns(recipe, type))
                            .orElseThrow(
                                    () -> new ZabbetException("Table " + table.name() + " has no column for property "
                                            + prop.name() + " of " + type.getSimpleName() + "."));
                    Object value = row.get(column.name());
                    return value == null && prop.type().isPrimitive() ? PlanExecution.zero(prop) : value;
                });
    }

    /** Returns what objects of a type cannot hold of the flaw; empty if they can. */
    public static Optional<String> trouble(Recipe<?> recipe, Row flaw, Class<?> type) {
        for (String column : flaw.columns()) {
            Prop prop = property(recipe, type, column);
            if (prop == null) {
                return Optional.of("it has no property for the column " + column);
            }
            Object value = flaw.get(column);
            if (value == null && prop.type().isPrimitive()) {
                return Optional.of(prop.name() + " is " + prop.type() + ", which is never null");
            }
            try {
                JavaValue.to(prop.storedType(), value);
            } catch (InexactValueException e) {
                return Optional.of(prop.name() + " is " + prop.storedType().getSimpleName() + ", and " + e.clause());
            }
        }
        return Optional.empty();
    }

    private static @Nullable Prop property(Recipe<?> recipe, Class<?> type, String column) {
        Prop likely = null;
        for (Prop prop : TypeShape.of(type).properties()) {
            String said = columns(recipe, type)
                    .getOrDefault(prop.name(), prop.column().orElse(""));
            String path = said.isEmpty() ? prop.name().replace('.', '_') : said;
            if (Words.alike(path, column) || (prop.isReference() && Words.alike(path + "Id", column))) {
                return prop;
            }
            boolean last = Words.alike(prop.name().substring(prop.name().lastIndexOf('.') + 1), column);
            likely = said.isEmpty() && last ? prop : likely;
        }
        return likely;
    }

    private static Map<String, String> columns(Recipe<?> recipe, Class<?> type) {
        return recipe.type() == type ? recipe.columns() : Map.of();
    }

    /**
     * Returns what a client would send: named by the properties of the factory's type, of a factory of rows by the columns.
     * Columns that the database numbers or computes are left out, unless they are what is wrong.
     */
    public static Map<String, @Nullable Object> named(Recipe<?> recipe, Table table, Row row) {
        Map<String, @Nullable Object> named = new LinkedHashMap<>();
        Class<?> type = recipe.type();
        for (Column column : table.columns()) {
            boolean filledIn = (column.isNumbered() || column.isComputed()) && row.get(column.name()) == null;
            Prop prop = type == Row.class ? null : property(recipe, type, column.name());
            if (!filledIn && (type == Row.class || prop != null)) {
                named.put(prop == null ? column.name() : prop.name(), row.get(column.name()));
            }
        }
        return named;
    }
}
