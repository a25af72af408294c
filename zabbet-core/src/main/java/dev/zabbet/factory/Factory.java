package dev.zabbet.factory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.MethodName;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * Describes how rows of one table, or objects of one type, are made. With nothing said it makes valid ones: what the
 * schema requires is filled in, and the parents that a row needs are brought along, a parent of its own for each row.
 *
 * <p>Immutable and thread-safe: every method returns another factory. A later word on a column replaces an earlier one.
 *
 * @param <T> what the factory makes: a record or class, or {@link Row}
 */
public final class Factory<T> {
    private final Class<T> type;
    private final @Nullable String table;
    private final Map<String, Setting> settings;
    private final List<Children> children;
    private final boolean filled;

    /** Rows made below each row of the factory. */
    record Children(int count, Factory<?> factory) {}

    private Factory(
            Class<T> type,
            @Nullable String table,
            Map<String, Setting> settings,
            List<Children> children,
            boolean filled) {
        this.type = type;
        this.table = table;
        this.settings = settings;
        this.children = children;
        this.filled = filled;
    }

    /**
     * Returns a factory for objects of a type, stored in the table named like it: {@code StayGuest} in
     * {@code stay_guest}.
     *
     * @throws ZabbetException if objects of the type cannot be made
     */
    public static <T> Factory<T> forType(Class<T> type) {
        Words.notNull(type, "type", "Factory.forType");
        TypeShape.of(type);
        return new Factory<>(type, null, Map.of(), List.of(), false);
    }

    /** Returns a factory for rows of a table. */
    public static Factory<Row> forTable(String table) {
        return new Factory<>(Row.class, Words.notNull(table, "table", "Factory.forTable"), Map.of(), List.of(), false);
    }

    /** Returns a factory for the same type that stores in this table. */
    public Factory<T> inTable(String table) {
        return new Factory<>(type, Words.notNull(table, "table", "inTable"), settings, children, filled);
    }

    /**
     * Fills optional columns too: those that may be null and have no default, and the optional parents, up to the first
     * row of a table that the row stands below already.
     */
    public Factory<T> filled() {
        return new Factory<>(type, table, settings, children, true);
    }

    /**
     * Gives a property the same value in every row. What converts exactly is converted (5 to {@code long}, 20 to
     * {@code BigDecimal}).
     *
     * @throws ZabbetException if the value is none that the property can have
     */
    public <V extends @Nullable Object> Factory<T> with(Property<? super T, V> property, @Nullable V value) {
        Prop prop = prop(property, "with(property, value)");
        return set(prop.name(), new Setting.Fixed(fitting(prop, value)));
    }

    /** Gives a column the same value in every row. Text is read as the column's type where that is exact. */
    public Factory<T> with(String column, @Nullable Object value) {
        return set(Words.notNull(column, "column", "with"), new Setting.Fixed(value));
    }

    /** Makes a property's value anew for each row. */
    public <V extends @Nullable Object> Factory<T> invent(
            Property<? super T, V> property, Function<? super Values, ? extends V> how) {
        Words.notNull(how, "how", "invent");
        return set(prop(property, "invent(property, how)").name(), new Setting.Invented(how));
    }

    /** Makes a column's value anew for each row. */
    public Factory<T> invent(String column, Function<? super Values, ? extends @Nullable Object> how) {
        Words.notNull(how, "how", "invent");
        return set(Words.notNull(column, "column", "invent"), new Setting.Invented(how));
    }

    /** Gives a property these values row by row, from the start again after the last. */
    @SafeVarargs
    @SuppressWarnings("varargs")
    public final <V extends @Nullable Object> Factory<T> inTurn(
            Property<? super T, V> property, V first, V second, V... rest) {
        Prop prop = prop(property, "inTurn(property, first, second, …)");
        List<@Nullable Object> values = list(first, second, rest);
        values.replaceAll(value -> fitting(prop, value));
        return set(prop.name(), new Setting.InTurn(Collections.unmodifiableList(values)));
    }

    /** Gives a column these values row by row, from the start again after the last. */
    public Factory<T> inTurn(String column, @Nullable Object first, @Nullable Object second, @Nullable Object... rest) {
        return set(
                Words.notNull(column, "column", "inTurn"),
                new Setting.InTurn(Collections.unmodifiableList(list(first, second, rest))));
    }

    /** Gives each row a parent of its own, made by a factory. */
    public Factory<T> ref(Property<? super T, ?> property, Factory<?> parent) {
        return ref(prop(property, "ref(property, parent)").name(), parent);
    }

    /** Gives each row a parent of its own, made by a factory; the column is any of the reference's. */
    public Factory<T> ref(String column, Factory<?> parent) {
        return set(Words.notNull(column, "column", "ref"), new Setting.Parent(Words.notNull(parent, "parent", "ref")));
    }

    /**
     * Gives the rows these parents in turn.
     *
     * @throws ZabbetException if there are none
     */
    public Factory<T> ref(Property<? super T, ?> property, Collection<?> parents) {
        return ref(prop(property, "ref(property, parents)").name(), parents);
    }

    /**
     * Gives the rows these parents in turn; the column is any of the reference's.
     *
     * @throws ZabbetException if there are none
     */
    public Factory<T> ref(String column, Collection<?> parents) {
        Words.notNull(parents, "parents", "ref");
        if (parents.isEmpty()) {
            throw new ZabbetException("ref(" + column + ", parents) got no parents to choose from.");
        }
        return set(Words.notNull(column, "column", "ref"), new Setting.Parents(List.copyOf(parents)));
    }

    /** Gives every row this parent: a stored row or object, or the key itself. */
    public Factory<T> ref(Property<? super T, ?> property, Object parent) {
        return ref(prop(property, "ref(property, parent)").name(), parent);
    }

    /** Gives every row this parent: a stored row or object, or the key itself. The column is any of the reference's. */
    public Factory<T> ref(String column, Object parent) {
        Words.notNull(column, "column", "ref");
        return set(column, new Setting.Parents(List.of(Words.notNull(parent, "parent", "ref"))));
    }

    /**
     * Adds rows below each row: {@code huts.children(3, rooms)} makes three rooms in each hut.
     *
     * @param count how many below each, at least 1
     * @throws IllegalArgumentException if {@code count} is less than 1
     */
    public Factory<T> children(int count, Factory<?> factory) {
        Words.notNull(factory, "factory", "children");
        if (count < 1) {
            throw new IllegalArgumentException("children(" + count + ", …): the count must be at least 1.");
        }
        List<Children> more = new ArrayList<>(children);
        more.add(new Children(count, factory));
        return new Factory<>(type, table, settings, List.copyOf(more), filled);
    }

    /**
     * Makes an object without any store: the type alone says what fits. Its key is one too; references are made up.
     *
     * @throws ZabbetException for a factory of rows, which need a schema
     */
    public T build() {
        return StandAlone.build(this);
    }

    /** Returns what the factory makes: a record or class, or {@link Row}. */
    public Class<T> type() {
        return type;
    }

    /** Returns the table's name as far as the factory says it: by {@code inTable}, or from the type's name. */
    public String table() {
        return table != null ? table : Words.snakeCase(type.getSimpleName());
    }

    Map<String, Setting> settings() {
        return settings;
    }

    boolean isFilled() {
        return filled;
    }

    List<Children> children() {
        return children;
    }

    Optional<TypeShape<T>> shape() {
        return type == Row.class ? Optional.empty() : Optional.of(TypeShape.of(type));
    }

    private Factory<T> set(String name, Setting setting) {
        Map<String, Setting> copy = new LinkedHashMap<>(settings);
        copy.remove(name);
        copy.put(name, setting);
        return new Factory<>(type, table, Collections.unmodifiableMap(copy), children, filled);
    }

    private Prop prop(Property<? super T, ?> property, String where) {
        Words.notNull(property, "property", where);
        MethodName name = MethodName.of(property, where);
        TypeShape<T> shape = shape().orElseThrow(() -> new ZabbetException("A factory of rows of " + table()
                + " knows no properties; name the column as text: \"" + Words.snakeCase(name.property()) + "\"."));
        return shape.find(name.method()).orElseGet(() -> shape.require(name.property()));
    }

    private @Nullable Object fitting(Prop prop, @Nullable Object value) {
        if (value == null) {
            if (prop.type().isPrimitive()) {
                throw new ZabbetException("Property " + prop.name() + " of " + type.getSimpleName() + " is "
                        + prop.type() + " and cannot be null.");
            }
            return null;
        }
        try {
            boolean textForOther = value instanceof CharSequence
                    && prop.type() != String.class
                    && !prop.type().isInstance(value);
            if (!textForOther) {
                return value instanceof Optional<?> ? value : JavaValue.to(prop.type(), value);
            }
            throw new ZabbetException("Property " + prop.name() + " of " + type.getSimpleName() + " is "
                    + prop.type().getSimpleName() + ", and " + Text.of(value) + " is text.");
        } catch (Inexact e) {
            throw new ZabbetException("Property " + prop.name() + " of " + type.getSimpleName() + " is "
                    + prop.type().getSimpleName() + ", and " + e.clause() + ".");
        }
    }

    private static List<@Nullable Object> list(
            @Nullable Object first, @Nullable Object second, @Nullable Object[] rest) {
        List<@Nullable Object> values = new ArrayList<>();
        values.add(first);
        values.add(second);
        Collections.addAll(values, rest);
        return values;
    }

    @Override
    public String toString() {
        return "Factory of " + table() + (settings.isEmpty() ? "" : " with " + settings.keySet());
    }
}
