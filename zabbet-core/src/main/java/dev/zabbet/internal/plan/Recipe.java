package dev.zabbet.internal.plan;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/**
 * What a factory says, as the planner reads it: of which type or table the rows are, and what is said of columns, parents and
 * children. Immutable; it knows no schema. Column and property names are as the user gave them.
 */
public final class Recipe<T> {
    private static volatile @Nullable Function<Object, Recipe<?>> opener;

    private final Class<T> type;
    private final @Nullable String table;
    private final Map<String, Setting> settings;
    private final List<Children> children;
    private final boolean filled;
    private final Map<String, String> columns;
    private final Map<String, UnaryOperator<@Nullable Object>> storing;

    /**
     * Rows that belong to each row.
     *
     * @param least how many, at least
     * @param most how many, at most
     */
    public record Children(int least, int most, Recipe<?> recipe, Way way) {
        /** How they belong to it. */
        public enum Way {
            /** They refer to the row. */
            REFERRING,
            /** A table between the two refers to both. */
            LINKED,
            /** They are of the same table. */
            TREE
        }

        public String describe() {
            String count = least == most ? String.valueOf(most) : least + ", " + most;
            return (way == Way.LINKED ? "linked(" : "children(") + count + ", factory of " + recipe.table() + ")";
        }
    }

    private Recipe(
            Class<T> type,
            @Nullable String table,
            Map<String, Setting> settings,
            List<Children> children,
            boolean filled,
            Map<String, String> columns,
            Map<String, UnaryOperator<@Nullable Object>> storing) {
        this.type = type;
        this.table = table;
        this.settings = settings;
        this.children = children;
        this.filled = filled;
        this.columns = columns;
        this.storing = storing;
    }

    /** Returns the recipe of objects of a type, of which nothing is said. */
    public static <T> Recipe<T> ofType(Class<T> type) {
        TypeShape.of(type);
        return new Recipe<>(type, null, Map.of(), List.of(), false, Map.of(), Map.of());
    }

    /** Returns the recipe of rows of a table, of which nothing is said. */
    public static Recipe<Row> ofTable(String table) {
        return new Recipe<>(Row.class, table, Map.of(), List.of(), false, Map.of(), Map.of());
    }

    /** Says how a factory's recipe is read: only the factory's class can see it. Called once, by that class. */
    public static void openBy(Function<Object, Recipe<?>> way) {
        opener = way;
    }

    /** Returns the recipe of a {@code Factory}. */
    @SuppressWarnings("unchecked")
    public static <T> Recipe<T> of(Object factory) {
        Function<Object, Recipe<?>> way = opener;
        if (way == null) {
            throw new IllegalStateException("no factory was made yet");
        }
        return (Recipe<T>) way.apply(factory);
    }

    public Recipe<T> inTable(String name) {
        return new Recipe<>(type, name, settings, children, filled, columns, storing);
    }

    public Recipe<T> filled() {
        return new Recipe<>(type, table, settings, children, true, columns, storing);
    }

    /** Says in which column a property is stored. */
    public Recipe<T> inColumn(String property, String column) {
        return new Recipe<>(type, table, settings, children, filled, and(columns, property, column), storing);
    }

    /** Says what is done to a value before it is stored. */
    public Recipe<T> storing(String name, UnaryOperator<@Nullable Object> work) {
        return new Recipe<>(type, table, settings, children, filled, columns, and(storing, name, work));
    }

    private static <V> Map<String, V> and(Map<String, V> map, String key, V value) {
        Map<String, V> copy = new LinkedHashMap<>(map);
        copy.remove(key); // the last one said is the last one in order
        copy.put(key, value);
        return Collections.unmodifiableMap(copy);
    }

    /** Says something of a column; the last setting for a column wins. */
    public Recipe<T> with(String column, Setting setting) {
        return withSettings(and(settings, column, setting));
    }

    public Recipe<T> with(Children more) {
        List<Children> all = new ArrayList<>(children);
        all.add(more);
        return new Recipe<>(type, table, settings, List.copyOf(all), filled, columns, storing);
    }

    /** Says that a column refers to a row of its own. */
    Recipe<T> withParent(String column, Recipe<?> parent) {
        return with(column, new Setting.Parent(parent));
    }

    /** Says that a row refers to each row. */
    Recipe<T> withChild(Recipe<?> child) {
        return with(new Children(1, 1, child, Children.Way.REFERRING));
    }

    public Recipe<T> withSettings(Map<String, Setting> all) {
        return new Recipe<>(type, table, Collections.unmodifiableMap(all), children, filled, columns, storing);
    }

    /** Returns the recipe without references to rows that are stored already. */
    Recipe<T> withoutStored() {
        Map<String, Setting> copy = new LinkedHashMap<>(settings);
        copy.values().removeIf(setting -> setting instanceof Setting.StoredParents);
        return withSettings(copy);
    }

    public Class<T> type() {
        return type;
    }

    public String table() {
        String said = table;
        return said != null ? said : shape().map(TypeShape::table).orElse(Words.snakeCase(type.getSimpleName()));
    }

    public Map<String, Setting> settings() {
        return settings;
    }

    List<Children> children() {
        return children;
    }

    boolean isFilled() {
        return filled;
    }

    /** Returns the columns of properties that are not named alike. */
    Map<String, String> columns() {
        return columns;
    }

    Map<String, UnaryOperator<@Nullable Object>> storing() {
        return storing;
    }

    /** Returns the properties of the type; empty for rows. */
    public Optional<TypeShape<T>> shape() {
        return type == Row.class ? Optional.empty() : Optional.of(TypeShape.of(type));
    }
}
