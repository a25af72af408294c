package dev.zabbet.factory;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.MethodName;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.Proxies;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
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
    private final State state;

    /** Rows made below each row of the factory: between {@code least} and {@code most}, through a link table or not. */
    record Children(int least, int most, Factory<?> factory, Way way) {
        /** How the rows below are found. */
        enum Way {
            REFERRING,
            LINKED,
            /** Rows of the same table; what is said of their reference holds for the topmost alone. */
            TREE
        }

        String describe() {
            String count = least == most ? String.valueOf(most) : least + ", " + most;
            return (way == Way.LINKED ? "linked(" : "children(") + count + ", factory of " + factory.table() + ")";
        }
    }

    /** What the factory says. */
    private record State(
            @Nullable String table,
            Map<String, Setting> settings,
            List<Children> children,
            boolean filled,
            Map<String, String> columns,
            Map<String, UnaryOperator<@Nullable Object>> storing) {
        static final State NOTHING = new State(null, Map.of(), List.of(), false, Map.of(), Map.of());
    }

    private Factory(Class<T> type, State state) {
        this.type = type;
        this.state = state;
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
        return new Factory<>(type, State.NOTHING);
    }

    /** Returns a factory for rows of a table. */
    public static Factory<Row> forTable(String table) {
        return new Factory<>(Row.class, State.NOTHING).inTable(table);
    }

    /**
     * Returns a factory that makes copies of an object: every property holds what it holds there, key and all. Say what is
     * to be another with {@link #with}, and {@link #anew} what is to be made anew.
     */
    @SuppressWarnings("unchecked")
    public static <T> Factory<T> like(T object) {
        Words.notNull(object, "object", "Factory.like");
        if (object instanceof Row row) {
            throw new ZabbetException("A row does not know its table; use Factory.like(table, row) for " + row + ".");
        }
        T real = Proxies.real(object);
        Factory<T> factory = forType((Class<T>) real.getClass());
        TypeShape<T> shape = TypeShape.of(factory.type);
        for (Prop prop : shape.properties()) {
            if (!shape.isReadOnly(prop)) {
                boolean asItIs = shape.isEntity() && (prop.isReference() || shape.isConverted(prop));
                Object value = asItIs ? shape.read(real, prop) : shape.readStored(real, prop);
                factory = factory.set(prop.name(), new Setting.Copied(value));
            }
        }
        for (Prop prop : shape.ownProperties()) {
            if (!factory.state.settings.containsKey(prop.name())) {
                factory = factory.set(prop.name(), new Setting.Copied(shape.read(real, prop)));
            }
        }
        return factory;
    }

    /** Returns a factory that makes copies of a row of a table, as {@link #like(Object)} does of an object. */
    public static Factory<Row> like(String table, Row row) {
        Factory<Row> factory = forTable(table);
        for (String column : Words.notNull(row, "row", "Factory.like").columns()) {
            factory = factory.with(column, row.get(column));
        }
        return factory;
    }

    /** Returns a factory for the same type that stores in this table. */
    public Factory<T> inTable(String table) {
        Words.notNull(table, "table", "inTable");
        return new Factory<>(
                type, new State(table, state.settings, state.children, state.filled, state.columns, state.storing));
    }

    /** Stores a property in this column, where neither its name nor an annotation says so. */
    public Factory<T> column(Property<? super T, ?> property, String column) {
        Map<String, String> columns = new LinkedHashMap<>(state.columns);
        columns.put(prop(property, "column(property, name)").name(), Words.notNull(column, "column", "column"));
        return new Factory<>(
                type,
                new State(
                        state.table,
                        state.settings,
                        state.children,
                        state.filled,
                        Collections.unmodifiableMap(columns),
                        state.storing));
    }

    /**
     * Fills optional columns too: those that may be null and have no default, and the optional parents, up to the first
     * row of a table that the row stands below already. An optional column of a type of which no values are known stays
     * null.
     */
    public Factory<T> filled() {
        return new Factory<>(
                type, new State(state.table, state.settings, state.children, true, state.columns, state.storing));
    }

    /** Takes back what was said about a property: it is made anew. */
    public Factory<T> anew(Property<? super T, ?> property) {
        return anew(prop(property, "anew(property)").name());
    }

    /** Takes back what was said about a column: it is made anew. */
    public Factory<T> anew(String column) {
        Map<String, Setting> copy = new LinkedHashMap<>(state.settings);
        if (copy.remove(column) == null) {
            throw new UnknownNameException("column that this factory says something about", column, copy.keySet());
        }
        return withSettings(copy);
    }

    /**
     * Stores another value than the object holds: {@code storedAs(Guest::password, Hash::of)}. The object handed back
     * holds what {@code work} was given, the row what it returned.
     */
    public <V extends @Nullable Object> Factory<T> storedAs(
            Property<? super T, V> property, Function<? super V, ? extends @Nullable Object> work) {
        Prop prop = prop(property, "storedAs(property, work)");
        Words.notNull(work, "work", "storedAs");
        return storing(prop.name(), value -> work.apply(Factory.<V>asProperty(prop, value)));
    }

    /** Stores another value than the row handed back holds, as {@link #storedAs(Property, Function)}. */
    public Factory<T> storedAs(String column, Function<? super @Nullable Object, ? extends @Nullable Object> work) {
        Words.notNull(work, "work", "storedAs");
        return storing(Words.notNull(column, "column", "storedAs"), work::apply);
    }

    private Factory<T> storing(String name, UnaryOperator<@Nullable Object> work) {
        Map<String, UnaryOperator<@Nullable Object>> storing = new LinkedHashMap<>(state.storing);
        storing.put(name, work);
        return new Factory<>(
                type,
                new State(
                        state.table,
                        state.settings,
                        state.children,
                        state.filled,
                        state.columns,
                        Collections.unmodifiableMap(storing)));
    }

    @SuppressWarnings({"unchecked", "NullAway", "TypeParameterUnusedInFormals"}) // the property says what it may be
    private static <V extends @Nullable Object> V asProperty(Prop prop, @Nullable Object value) {
        try {
            return (V) JavaValue.to(prop.type(), value);
        } catch (Inexact e) {
            throw new ZabbetException("Property " + prop.name() + " cannot be read: " + e.clause() + ".");
        }
    }

    /**
     * Gives a property the same value in every row. What converts exactly is converted (5 to {@code long}, 20 to
     * {@code BigDecimal}); an object that has a row of its own is the parent, as with {@link #ref(Property, Object)}.
     *
     * @throws ZabbetException if the value is none that the property can have
     */
    public <V extends @Nullable Object> Factory<T> with(Property<? super T, V> property, @Nullable V value) {
        Prop prop = prop(property, "with(property, value)");
        if (value != null && prop.isReference()) {
            return ref(prop.name(), value);
        }
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

    /** Gives all rows of one call one parent, made by a factory. */
    public Factory<T> refShared(Property<? super T, ?> property, Factory<?> parent) {
        return refShared(prop(property, "refShared(property, parent)").name(), parent);
    }

    /** Gives all rows of one call one parent, made by a factory; the column is any of the reference's. */
    public Factory<T> refShared(String column, Factory<?> parent) {
        Words.notNull(parent, "parent", "refShared");
        return set(Words.notNull(column, "column", "refShared"), new Setting.SharedParent(parent));
    }

    /** Gives each row one of the parents that are stored already, each as often as another. */
    public Factory<T> refStored(Property<? super T, ?> property) {
        return refStored(prop(property, "refStored(property)").name());
    }

    /** Gives each row one of the parents that are stored already, each as often as another. */
    public Factory<T> refStored(String column) {
        return set(Words.notNull(column, "column", "refStored"), new Setting.StoredParents(false));
    }

    /**
     * Gives each row one of the parents that are stored already, a few of them much more often than most: of a hundred,
     * the first ten get about half of the rows.
     */
    public Factory<T> refStoredSkewed(Property<? super T, ?> property) {
        return refStoredSkewed(prop(property, "refStoredSkewed(property)").name());
    }

    /** Gives each row one of the parents that are stored already, a few of them much more often than most. */
    public Factory<T> refStoredSkewed(String column) {
        return set(Words.notNull(column, "column", "refStoredSkewed"), new Setting.StoredParents(true));
    }

    /**
     * Adds rows below each row: {@code huts.children(3, rooms)} makes three rooms in each hut.
     *
     * @param count how many below each, at least 1
     * @throws IllegalArgumentException if {@code count} is less than 1
     */
    public Factory<T> children(int count, Factory<?> factory) {
        return children(count, count, factory);
    }

    /**
     * Adds rows below each row, here more and there fewer.
     *
     * @param least the fewest below one, at least 0
     * @param most the most below one, at least 1
     * @throws IllegalArgumentException if the bounds are none
     */
    public Factory<T> children(int least, int most, Factory<?> factory) {
        return below(new Children(least, most, Words.notNull(factory, "factory", "children"), Children.Way.REFERRING));
    }

    /**
     * Adds rows at the other end of a link table: {@code stays.linked(2, guests)} makes two guests for each stay, and the
     * rows that link them.
     *
     * @param count how many for each, at least 1
     */
    public Factory<T> linked(int count, Factory<?> factory) {
        return below(new Children(count, count, Words.notNull(factory, "factory", "linked"), Children.Way.LINKED));
    }

    /**
     * Adds rows of the same table below each row, and below those, through the table's reference to itself.
     *
     * @param depth how many levels below the row, at least 1
     * @param width how many below each, at least 1
     */
    public Factory<T> tree(int depth, int width) {
        if (depth < 1) {
            throw new IllegalArgumentException("tree(" + depth + ", " + width + "): the depth must be at least 1.");
        }
        return below(new Children(width, width, depth == 1 ? this : tree(depth - 1, width), Children.Way.TREE));
    }

    private Factory<T> below(Children child) {
        if (child.least() < 0 || child.most() < 1 || child.least() > child.most()) {
            throw new IllegalArgumentException(
                    child.describe() + ": the count must be at least 1, and the bounds in order.");
        }
        List<Children> more = new ArrayList<>(state.children);
        more.add(child);
        return new Factory<>(
                type,
                new State(state.table, state.settings, List.copyOf(more), state.filled, state.columns, state.storing));
    }

    /**
     * Makes an object without any store, all of it: value objects, lists and what they hold too. The type alone says what
     * fits; where an object would hold another of its own type, it ends. Rows below it ({@link #children}, say) are rows of
     * a store, and left out.
     *
     * @throws ZabbetException for a factory of rows, which need a schema
     */
    public T build() {
        return build(1).get(0);
    }

    /**
     * Makes objects as {@link #build()} does, each another.
     *
     * @param count how many, at least 1
     */
    public List<T> build(int count) {
        if (count < 1) {
            throw new IllegalArgumentException("build(" + count + "): the count must be at least 1.");
        }
        return stream().limit(count).toList();
    }

    /** Returns objects as {@link #build()} makes them, without end. */
    public Stream<T> stream() {
        return StandAlone.stream(this);
    }

    /**
     * Has the application's own code store what the factory makes, so that its rules apply and its events are sent: {@code
     * stage.add(3, orders.through(service::place))}. The objects are those that {@code stage.build} makes, and the parents that
     * they need are stored.
     *
     * @param code stores one object; what it returns is handed back. For a method that returns nothing: {@code user -> {
     *     service.register(user); return user; }}
     */
    public <R extends @Nullable Object> Through<T, R> through(Through.Storing<? super T, ? extends R> code) {
        return new Through<>(this, Words.notNull(code, "code", "through"));
    }

    /**
     * Returns rows each of which breaks one constraint of the table and no other, for tests of what happens then: null
     * where none may be, a text too long, a number beyond its column, a check, a key that is there already, a reference to
     * nothing. What the factory says is kept wherever the constraint is about something else.
     *
     * @param schema the tables; a stage's own, or one read from a file
     */
    public Stream<Flawed> flawed(Schema schema) {
        return new Flaws(Words.notNull(schema, "schema", "flawed"), this).all();
    }

    /** Returns what the factory makes: a record or class, or {@link Row}. */
    public Class<T> type() {
        return type;
    }

    /** Returns the table's name as far as the factory says it: by {@code inTable}, or from the type's name. */
    public String table() {
        String said = state.table;
        return said != null ? said : shape().map(TypeShape::table).orElse(Words.snakeCase(type.getSimpleName()));
    }

    Map<String, Setting> settings() {
        return state.settings;
    }

    /** Returns columns by the names of properties, as far as the factory says them. */
    Map<String, String> columns() {
        return state.columns;
    }

    /** Returns what becomes of values on their way to the store, by the names of properties or columns. */
    Map<String, UnaryOperator<@Nullable Object>> storing() {
        return state.storing;
    }

    boolean isFilled() {
        return state.filled;
    }

    List<Children> children() {
        return state.children;
    }

    Optional<TypeShape<T>> shape() {
        return type == Row.class ? Optional.empty() : Optional.of(TypeShape.of(type));
    }

    /** Says what another factory says of a column. */
    Factory<T> says(String column, Setting setting) {
        return set(column, setting);
    }

    /** Leaves out what only a store can give. */
    Factory<T> withoutStored() {
        Map<String, Setting> copy = new LinkedHashMap<>(state.settings);
        copy.values().removeIf(setting -> setting instanceof Setting.StoredParents);
        return withSettings(copy);
    }

    Factory<T> set(String name, Setting setting) {
        Map<String, Setting> copy = new LinkedHashMap<>(state.settings);
        copy.remove(name);
        copy.put(name, setting);
        return withSettings(copy);
    }

    private Factory<T> withSettings(Map<String, Setting> settings) {
        return new Factory<>(
                type,
                new State(
                        state.table,
                        Collections.unmodifiableMap(settings),
                        state.children,
                        state.filled,
                        state.columns,
                        state.storing));
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
            if (prop.isReference()) {
                return value;
            }
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
        return "Factory of " + table() + (state.settings.isEmpty() ? "" : " with " + state.settings.keySet());
    }
}
