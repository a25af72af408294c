package dev.zabbet.internal.plan;

import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Function;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/** Carries a plan out: stores its rows and hands back what was asked for. */
public final class PlanExecution {
    private PlanExecution() {}

    /**
     * Stores the plan's rows and returns those asked for, with their keys and with what the store filled in.
     *
     * @throws dev.zabbet.error.ZabbetException if the store refuses a row; nothing is stored then
     */
    public static <T> List<T> stored(Plan plan, Recipe<T> factory, Store store) {
        JoinedRows above = JoinedRows.of(plan, factory);
        List<T> made = stored(plan, store, (node, at, values) -> make(factory, node, values, false, above.at(at)));
        new Relations(plan, store).complete(factory, made);
        return made;
    }

    /** Stores the plan's rows and returns the first of those asked for as a row, whatever the factory makes of it. */
    public static Row storedRow(Plan plan, Store store) {
        return stored(plan, store, (node, at, values) -> row(node, values)).get(0);
    }

    /** What is made of the values of a node's row, which are given by position. */
    private interface Form<T> {
        T of(Node node, int at, IntFunction<@Nullable Object> values);
    }

    private static <T> List<T> stored(Plan plan, Store store, Form<T> form) {
        Story.arrange(store, plan.load());
        Node node = plan.nodes().get(0);
        if (isKnown(node)) {
            return made(plan, form, true);
        }
        List<T> made = new ArrayList<>();
        int at = 0;
        for (Row row : readBack(plan, node, store)) {
            int index = at++;
            made.add(form.of(
                    node,
                    index,
                    position -> node.isStoredOtherwise(position)
                            ? plan.value(node, index, position)
                            : row.get(node.table.columns().get(position).name())));
        }
        return made;
    }

    /** Stores the plan's rows without handing any back. */
    public static void storedOnly(Plan plan, Store store) {
        Story.arrange(store, plan.load());
    }

    /** Stores the rows that those asked for need as parents, and returns those asked for unsaved. */
    public static <T> List<T> unsaved(Plan plan, Recipe<T> factory, Store store) {
        JoinedRows above = JoinedRows.of(plan, factory);
        storeParents(plan, above.nodes(), store);
        List<T> made = made(plan, (node, at, values) -> make(factory, node, values, true, above.at(at)), false);
        new Relations(plan, store).completeParents(factory, made);
        return made;
    }

    private static void storeParents(Plan plan, Collection<Node> without, Store store) {
        Set<Node> unsaved = new HashSet<>(without);
        unsaved.add(plan.nodes().get(0));
        Load load = PlanLoad.of(plan, unsaved, null);
        if (!load.inserts().isEmpty()) {
            Story.arrange(store, load);
        }
    }

    /** Stores the rows that the one asked for needs as parents, and returns it unsaved, with all columns of its table. */
    public static Row unsavedRow(Plan plan, Store store) {
        storeParents(plan, List.of(), store);
        return made(plan, (node, at, values) -> row(node, values), false).get(0);
    }

    static <T> List<T> objects(Plan plan, Recipe<T> factory, boolean withNumbers) {
        JoinedRows above = JoinedRows.of(plan, factory);
        return made(plan, (node, at, values) -> make(factory, node, values, !withNumbers, above.at(at)), withNumbers);
    }

    private static <T> List<T> made(Plan plan, Form<T> form, boolean withNumbers) {
        Node node = plan.nodes().get(0);
        List<T> made = new ArrayList<>();
        for (int row = 0; row < plan.size(node); row++) {
            int at = row;
            made.add(form.of(node, at, position -> {
                boolean number = node.cells[position] instanceof Cell.Reserved;
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
        if (key.size() == 1 && node.cells[first] instanceof Cell.Reserved) {
            List<Row> between =
                    store.rows(table, new Condition.Between(key.get(0), node.ordinal(0), node.ordinal(size - 1)));
            if (between.size() == size) {
                return between;
            }
        }
        List<Row> rows = new ArrayList<>();
        for (int row = 0; row < size; row++) {
            Condition condition = Condition.all();
            for (String column : key) {
                condition = condition.and(new Condition.Equal(column, plan.value(node, row, table.position(column))));
            }
            rows.addAll(store.rows(table, condition));
        }
        return rows;
    }

    /**
     * Makes an object.
     *
     * @param above what the tables of superclasses hold
     * @param unsaved whether what the provider fills in when it stores the object is left to it
     */
    @SuppressWarnings("unchecked")
    private static <T> T make(
            Recipe<T> factory,
            Node node,
            IntFunction<@Nullable Object> values,
            boolean unsaved,
            Function<Prop, @Nullable Object> above) {
        if (factory.type() == Row.class) {
            return (T) row(node, values);
        }
        TypeShape<T> shape = ColumnMapping.laidOut(TypeShape.of(factory.type()), node.table, factory.columns());
        return shape.make(prop -> {
            Column column =
                    ColumnMapping.column(node.table, prop, factory.columns()).orElse(null);
            boolean left = unsaved && shape.isGenerated(prop) && !isSaid(factory, prop);
            Object value;
            if (left) {
                value = null;
            } else if (column == null) {
                value = above.apply(prop);
            } else {
                value = values.apply(node.table.position(column.name()));
            }
            if (value != null && column != null && ColumnMapping.isReferring(column, prop)) {
                return prop.type() == byte[].class ? new byte[0] : (Object) ""; // as it is made: empty
            }
            return value == null && prop.type().isPrimitive() ? zero(prop) : value;
        });
    }

    private static boolean isSaid(Recipe<?> factory, Prop prop) {
        return factory.settings().containsKey(prop.name());
    }

    private static Row row(Node node, IntFunction<@Nullable Object> values) {
        List<@Nullable Object> all = new ArrayList<>();
        for (int at = 0; at < node.cells.length; at++) {
            all.add(values.apply(at));
        }
        return Row.of(node.table.columnNames(), all.toArray());
    }

    /** A primitive property of an object that is not stored yet holds zero, as a new object of the application would. */
    static Object zero(Prop prop) {
        if (prop.type() == boolean.class) {
            return (Object) false;
        }
        if (prop.type() == char.class) {
            return (Object) '0';
        }
        return (Object) 0;
    }
}
