package dev.zabbet.internal.fake;

import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/**
 * The tables of an entity's superclasses that have tables of their own. In a row of the entity their columns stand behind the
 * names of their tables, {@code payment.amount}; each table has the same key of one column.
 */
final class JoinedTables {
    private final TypeShape<Object> shape;
    private final Table own;
    private final @Nullable MemoryRows store;
    private final Map<Table, Map<String, String>> above = new LinkedHashMap<>(); // columns by properties

    JoinedTables(TypeShape<Object> shape, Table own, Schema schema, @Nullable MemoryRows store) {
        this.shape = shape;
        this.own = own;
        this.store = store;
        shape.above().forEach((name, columns) -> schema.table(name)
                .filter(table -> table.keyColumns().size() == 1)
                .ifPresent(table -> above.put(table, columns)));
    }

    private static String named(Table table, String column) {
        return table.name() + "." + column;
    }

    private String key() {
        return own.keyColumns().get(0);
    }

    private static Condition keyIs(Table table, @Nullable Object key) {
        Column column = table.requireColumn(table.keyColumns().get(0));
        return new Condition.Equal(column.name(), EntityType.canonical(column, key));
    }

    private MemoryRows store() {
        return Objects.requireNonNull(store);
    }

    /** Returns what an object has from its superclasses. */
    Map<String, @Nullable Object> columnsAbove(Object object) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        above.forEach((table, columns) -> columns.forEach((property, column) -> {
            Prop prop = shape.find(property).orElse(null);
            if (prop != null) {
                Object value = shape.readStored(object, prop);
                boolean number = table.requireColumn(column).type().kind() == Kind.INTEGER;
                values.put(named(table, column), number && value instanceof Enum<?> of ? (Object) of.ordinal() : value);
            }
        }));
        return values;
    }

    /** Returns what the tables hold for the object of a row, by its properties. */
    Map<String, @Nullable Object> valuesAbove(Row row) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        above.forEach((table, columns) -> store().rows(table, keyIs(table, row.get(key())))
                .forEach(found -> columns.forEach((property, column) -> {
                    Object value = found.get(column);
                    Class<?> type =
                            shape.find(property).<Class<?>>map(Prop::type).orElse(Object.class);
                    values.put(
                            property,
                            value instanceof Number ordinal && type.isEnum()
                                    ? type.getEnumConstants()[ordinal.intValue()]
                                    : value);
                })));
        return values;
    }

    Row insert(Row row) {
        if (above.isEmpty()) {
            return store().insert(own, row);
        }
        List<Table> topmostFirst = new ArrayList<>(above.keySet());
        Collections.reverse(topmostFirst);
        Object key = row.has(key()) ? row.get(key()) : null;
        for (Table table : topmostFirst) {
            Row part = part(row, table);
            String column = table.keyColumns().get(0);
            Row stored = store().insert(table, key == null ? part : part.with(column, key));
            key = stored.get(column);
        }
        return store().insert(own, part(row, own).with(key(), key));
    }

    int update(Condition where, Row changes) {
        if (above.isEmpty()) {
            return store().update(own, where, changes);
        }
        List<Row> changed = store().rows(own, where);
        for (Row row : changed) {
            for (Table table : above.keySet()) {
                Row part = part(changes, table);
                if (!part.columns().isEmpty()) {
                    store().update(table, keyIs(table, row.get(key())), part);
                }
            }
        }
        store().update(own, where, part(changes, own));
        return changed.size();
    }

    void delete(Row row) {
        above.keySet().forEach(table -> store().delete(table, keyIs(table, row.get(key()))));
    }

    /** Returns the columns of a row that are of a table. */
    private Row part(Row row, Table table) {
        Map<String, @Nullable Object> part = new LinkedHashMap<>();
        for (String name : row.columns()) {
            boolean here = table.equals(own)
                    ? above.keySet().stream().noneMatch(other -> name.startsWith(other.name() + "."))
                    : name.startsWith(table.name() + ".");
            if (here) {
                part.put(table.equals(own) ? name : name.substring(table.name().length() + 1), row.get(name));
            }
        }
        return Row.of(part);
    }
}
