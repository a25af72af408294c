package dev.zabbet.factory;

import dev.zabbet.internal.type.Mapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.List;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/** Carries a plan out: stores its rows and hands back what was asked for. */
public final class Made {
    private Made() {}

    /**
     * Stores the plan's rows and returns those asked for, with their keys and with what the store filled in.
     *
     * @throws dev.zabbet.error.ZabbetException if the store refuses a row; nothing is stored then
     */
    public static <T> List<T> stored(Plan plan, Factory<T> factory, Store store) {
        store.store(plan.load());
        Node node = plan.nodes().get(0);
        if (isKnown(node)) {
            return objects(plan, factory, true);
        }
        List<T> made = new ArrayList<>();
        int at = 0;
        for (Row row : readBack(plan, node, store)) {
            int index = at++;
            made.add(make(
                    factory,
                    node,
                    position -> node.isStoredOtherwise(position)
                            ? plan.value(node, index, position)
                            : row.get(node.table.columns().get(position).name())));
        }
        return made;
    }

    /** Stores the plan's rows without handing any back. */
    public static void storedOnly(Plan plan, Store store) {
        store.store(plan.load());
    }

    /** Stores the rows that those asked for need as parents, and returns those asked for unsaved. */
    public static <T> List<T> unsaved(Plan plan, Factory<T> factory, Store store) {
        Node node = plan.nodes().get(0);
        Load load = PlanLoad.of(plan, node, null);
        if (!load.inserts().isEmpty()) {
            store.store(load);
        }
        return objects(plan, factory, false);
    }

    static <T> List<T> objects(Plan plan, Factory<T> factory, boolean withNumbers) {
        Node node = plan.nodes().get(0);
        List<T> made = new ArrayList<>();
        for (int row = 0; row < plan.size(node); row++) {
            int at = row;
            made.add(make(factory, node, position -> {
                boolean number = node.cells[position] instanceof Cell.Number;
                return number && !withNumbers ? null : plan.value(node, at, position);
            }));
        }
        return made;
    }

    /** Tells whether the plan knows all values, or the store fills some in. */
    private static boolean isKnown(Node node) {
        for (int at = 0; at < node.cells.length; at++) {
            Column column = node.table.columns().get(at);
            if (node.isLeftOut(at) && (column.defaultText().isPresent() || column.isComputed())) {
                return node.table.keyColumns().isEmpty(); // without a key there is no finding the row again
            }
        }
        return true;
    }

    /** Reads the rows as they are stored, in the order of the plan: at once where their keys follow one another. */
    private static List<Row> readBack(Plan plan, Node node, Store store) {
        Table table = node.table;
        List<String> key = table.keyColumns();
        int size = plan.size(node);
        int first = table.position(key.get(0));
        if (key.size() == 1 && node.cells[first] instanceof Cell.Number) {
            List<Row> between =
                    store.rows(table, new Condition.Between(key.get(0), node.ordinal(0), node.ordinal(size - 1)));
            if (between.size() == size) {
                return between;
            }
        }
        List<Row> rows = new ArrayList<>();
        for (int row = 0; row < size; row++) {
            Condition condition = Condition.ALL;
            for (String column : key) {
                condition = condition.and(new Condition.Equal(column, plan.value(node, row, table.position(column))));
            }
            rows.addAll(store.rows(table, condition));
        }
        return rows;
    }

    @SuppressWarnings("unchecked")
    private static <T> T make(Factory<T> factory, Node node, IntFunction<@Nullable Object> values) {
        if (factory.type() == Row.class) {
            List<@Nullable Object> all = new ArrayList<>();
            for (int at = 0; at < node.cells.length; at++) {
                all.add(values.apply(at));
            }
            return (T) Row.of(node.table.columnNames(), all.toArray());
        }
        TypeShape<T> shape = TypeShape.of(factory.type());
        return shape.make(prop -> {
            Column column = Mapping.column(node.table, prop, factory.columns()).orElseThrow();
            Object value = values.apply(node.table.position(column.name()));
            return value == null && prop.type().isPrimitive() ? zero(prop) : value;
        });
    }

    /** A primitive property of an object that is not stored yet holds zero, as a new object of the application would. */
    private static Object zero(Prop prop) {
        return prop.type() == boolean.class ? (Object) false : prop.type() == char.class ? (Object) '0' : (Object) 0;
    }
}
