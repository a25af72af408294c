package dev.zabbet.factory;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.plan.Flaws;
import dev.zabbet.internal.plan.Recipe;
import dev.zabbet.internal.plan.Setting;
import dev.zabbet.internal.plan.StandAlone;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.Proxies;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.type.CheckReturnValue;
import dev.zabbet.type.Property;
import dev.zabbet.value.Values;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Describes how rows of one table, or objects of one type, are made. With nothing said it makes valid ones: what the
 * schema requires is filled in, and the parents that a row needs are brought along, a parent of its own for each row.
 *
 * <p>Immutable and thread-safe: every method returns another factory. The last setting for a column wins.
 *
 * @param <T> what the factory makes: a record or class, or {@link Row}
 */
@CheckReturnValue
public final class Factory<T> extends FactoryRelatives<T> {

    static {
        Recipe.openBy(factory -> ((Factory<?>) factory).recipe);
    }

    Factory(Recipe<T> recipe) {
        super(recipe);
    }

    /**
     * {@return a factory for objects of a type, stored in the table named like it: {@code StayGuest} in
     * {@code stay_guest}}
     *
     * @param <T> the type of the objects
     * @param type a record, bean or entity
     * @throws ZabbetException if objects of the type cannot be made
     */
    public static <T> Factory<T> forType(Class<T> type) {
        Words.notNull(type, "type", "Factory.forType");
        return new Factory<>(Recipe.ofType(type));
    }

    /**
     * {@return a factory for rows of a table}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     */
    public static Factory<Row> forTable(String table) {
        return new Factory<>(Recipe.ofTable(Words.notNull(table, "table", "Factory.forTable")));
    }

    /**
     * {@return a factory that makes copies of an object: every property holds what it holds there, key and all} Say what is
     * to be another with {@link #with}, and {@link #unset} what is to be invented again.
     *
     * @param <T> the type of the objects
     * @param object the object whose values are taken
     */
    @SuppressWarnings("unchecked")
    public static <T> Factory<T> like(T object) {
        Words.notNull(object, "object", "Factory.like");
        if (object instanceof Row row) {
            throw new ZabbetException("A row does not know its table; use Factory.like(table, row) for " + row + ".");
        }
        T real = Proxies.real(object);
        Factory<T> factory = forType((Class<T>) real.getClass());
        TypeShape<T> shape = TypeShape.of(factory.type());
        for (Prop prop : shape.properties()) {
            if (!shape.isReadOnly(prop)) {
                boolean asItIs = shape.isEntity() && (prop.isReference() || shape.isConverted(prop));
                Object value = asItIs ? shape.read(real, prop) : shape.readStored(real, prop);
                factory = factory.set(prop.name(), new Setting.Copied(value));
            }
        }
        for (Prop prop : shape.ownProperties()) {
            if (!factory.recipe.settings().containsKey(prop.name())) {
                factory = factory.set(prop.name(), new Setting.Copied(shape.read(real, prop)));
            }
        }
        return factory;
    }

    /**
     * {@return a factory that makes copies of a row of a table, as {@link #like(Object)} does of an object}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param row the row whose values are taken
     */
    public static Factory<Row> like(String table, Row row) {
        Factory<Row> factory = forTable(table);
        for (String column : Words.notNull(row, "row", "Factory.like").columns()) {
            factory = factory.with(column, row.get(column));
        }
        return factory;
    }

    /**
     * {@return a factory for the same type that stores in this table}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     */
    public Factory<T> inTable(String table) {
        Words.notNull(table, "table", "inTable");
        return new Factory<>(recipe.inTable(table));
    }

    /**
     * Stores a property in this column, where neither its name nor an annotation says so.
     *
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @param column the column's name
     * @return another factory; this one stays as it is
     */
    public Factory<T> column(Property<? super T, ?> property, String column) {
        String name = prop(property, "column(property, name)").name();
        return new Factory<>(recipe.inColumn(name, Words.notNull(column, "column", "column")));
    }

    /**
     * Fills optional columns too: those that may be null and have no default, and the optional parents, up to the first
     * row of a table that the row stands below already. An optional column of a type of which no values are known stays
     * null.
     *
     * @return another factory; this one stays as it is
     */
    public Factory<T> filled() {
        return new Factory<>(recipe.filled());
    }

    /**
     * Removes the setting of a property, so that its value is invented again.
     *
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @return another factory; this one stays as it is
     */
    public Factory<T> unset(Property<? super T, ?> property) {
        return unset(prop(property, "unset(property)").name());
    }

    /**
     * Removes the setting of a column, so that its value is invented again.
     *
     * @param column the column's name
     * @return another factory; this one stays as it is
     */
    public Factory<T> unset(String column) {
        Map<String, Setting> copy = new LinkedHashMap<>(recipe.settings());
        if (copy.remove(column) == null) {
            throw new UnknownNameException("column that this factory says something about", column, copy.keySet());
        }
        return new Factory<>(recipe.withSettings(copy));
    }

    /**
     * Stores another value than the object holds: {@code storedAs(Guest::password, Hash::of)}. The object handed back
     * holds what {@code work} was given, the row what it returned.
     *
     * @param <V> the type of the value
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @param work makes what is stored of the object's value
     * @return another factory; this one stays as it is
     */
    public <V extends @Nullable Object> Factory<T> storedAs(
            Property<? super T, V> property, Function<? super V, ? extends @Nullable Object> work) {
        Prop prop = prop(property, "storedAs(property, work)");
        Words.notNull(work, "work", "storedAs");
        return storing(prop.name(), value -> work.apply(PropertyFit.<V>asProperty(prop, value)));
    }

    /**
     * Stores another value than the row handed back holds, as {@link #storedAs(Property, Function)}.
     *
     * @param column the column's name
     * @param work makes what is stored of the object's value
     * @return another factory; this one stays as it is
     */
    public Factory<T> storedAs(String column, Function<? super @Nullable Object, ? extends @Nullable Object> work) {
        Words.notNull(work, "work", "storedAs");
        return storing(Words.notNull(column, "column", "storedAs"), work::apply);
    }

    private Factory<T> storing(String name, UnaryOperator<@Nullable Object> work) {
        return new Factory<>(recipe.storing(name, work));
    }

    /**
     * Gives a property the same value in every row. What converts exactly is converted (5 to {@code long}, 20 to
     * {@code BigDecimal}); an object that has a row of its own is the parent, as with {@link #ref(Property, Object)}.
     *
     * @param <V> the type of the value
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @param value the value; null only where the property can hold it
     * @return another factory; this one stays as it is
     * @throws ZabbetException if the property cannot have this value
     */
    public <V extends @Nullable Object> Factory<T> with(Property<? super T, V> property, @Nullable V value) {
        Prop prop = prop(property, "with(property, value)");
        if (value != null && prop.isReference()) {
            return ref(prop.name(), value);
        }
        return set(prop.name(), new Setting.Fixed(PropertyFit.fitting(type(), prop, value)));
    }

    /**
     * Gives a column the same value in every row. Text is read as the column's type where that is exact.
     *
     * @param column the column's name
     * @param value the value, in any form that the column can hold; null for SQL's NULL
     * @return another factory; this one stays as it is
     */
    public Factory<T> with(String column, @Nullable Object value) {
        return set(Words.notNull(column, "column", "with"), new Setting.Fixed(value));
    }

    /**
     * Invents a property's value for each row.
     *
     * @param <V> the type of the value
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @param how makes a value; asked once for each row
     * @return another factory; this one stays as it is
     */
    public <V extends @Nullable Object> Factory<T> invent(
            Property<? super T, V> property, Function<? super Values, ? extends V> how) {
        Words.notNull(how, "how", "invent");
        return set(prop(property, "invent(property, how)").name(), new Setting.Invented(how));
    }

    /**
     * Invents a column's value for each row.
     *
     * @param column the column's name
     * @param how makes a value; asked once for each row
     * @return another factory; this one stays as it is
     */
    public Factory<T> invent(String column, Function<? super Values, ? extends @Nullable Object> how) {
        Words.notNull(how, "how", "invent");
        return set(Words.notNull(column, "column", "invent"), new Setting.Invented(how));
    }

    /**
     * Gives a property these values row by row, from the start again after the last.
     *
     * @param <V> the type of the value
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @param first the first row's value
     * @param second the second row's value
     * @param rest the values of the rows after these
     * @return another factory; this one stays as it is
     */
    @SafeVarargs
    @SuppressWarnings("varargs")
    public final <V extends @Nullable Object> Factory<T> inTurn(
            Property<? super T, V> property, V first, V second, V... rest) {
        Prop prop = prop(property, "inTurn(property, first, second, …)");
        List<@Nullable Object> values = PropertyFit.list(first, second, rest);
        values.replaceAll(value -> PropertyFit.fitting(type(), prop, value));
        return set(prop.name(), new Setting.InTurn(Collections.unmodifiableList(values)));
    }

    /**
     * Gives a column these values row by row, from the start again after the last.
     *
     * @param column the column's name
     * @param first the first row's value
     * @param second the second row's value
     * @param rest the values of the rows after these
     * @return another factory; this one stays as it is
     */
    public Factory<T> inTurn(String column, @Nullable Object first, @Nullable Object second, @Nullable Object... rest) {
        return set(
                Words.notNull(column, "column", "inTurn"),
                new Setting.InTurn(Collections.unmodifiableList(PropertyFit.list(first, second, rest))));
    }

    /**
     * Makes an object without any store, all of it: value objects, lists and what they hold too. The type alone says what
     * fits; where an object would hold another of its own type, it ends. Rows below it ({@link #children}, for example) are rows of
     * a store, and left out.
     *
     * @return what was made; nothing is stored
     * @throws ZabbetException for a factory of rows, which need a schema
     */
    public T build() {
        return build(1).get(0);
    }

    /**
     * Makes objects as {@link #build()} does, each another.
     *
     * @param count how many, at least 1
     * @return what was made; nothing is stored
     */
    public List<T> build(int count) {
        if (count < 1) {
            throw new IllegalArgumentException("build(" + count + "): the count must be at least 1.");
        }
        return stream().limit(count).toList();
    }

    /** {@return objects as {@link #build()} makes them, without end} */
    public Stream<T> stream() {
        return StandAlone.stream(recipe);
    }

    /**
     * Has the application's own code store what the factory makes, so that its rules apply and its events are sent: {@code
     * stage.add(3, orders.through(service::place))}. The objects are those that {@code stage.build} makes, and the parents that
     * they need are stored.
     *
     * @param <R> what the application's code returns
     * @param code stores one object; what it returns is handed back. For a method that returns nothing: {@code user -> {
     *     service.register(user); return user; }}
     * @return a factory whose rows go through the application
     */
    public <R extends @Nullable Object> Through<T, R> through(Through.Storing<? super T, ? extends R> code) {
        return new Through<>(this, Words.notNull(code, "code", "through"));
    }

    /**
     * {@return rows each of which breaks one constraint of the table and no other, for tests of what happens then: null
     * where none may be, a text too long, a number beyond its column, a check, a key that is there already, a reference to
     * nothing} The settings of the factory are kept wherever they do not concern the constraint.
     *
     * @param schema the tables; a stage's own, or one read from a file
     */
    public Stream<Flawed> flawed(Schema schema) {
        return new Flaws(Words.notNull(schema, "schema", "flawed"), recipe)
                .all()
                .map(flaw -> new Flawed(
                        flaw.table(),
                        Flawed.Kind.valueOf(flaw.kind().name()),
                        flaw.constraint(),
                        flaw.values(),
                        flaw.sqlState(),
                        new Factory<>(flaw.recipe())));
    }

    /** {@return what the factory makes: a record or class, or {@link Row}} */
    public Class<T> type() {
        return recipe.type();
    }

    /** {@return the name of the table that is said or, without one, follows from the type} */
    public String table() {
        return recipe.table();
    }

    @Override
    public String toString() {
        return "Factory of " + table()
                + (recipe.settings().isEmpty()
                        ? ""
                        : " with " + recipe.settings().keySet());
    }
}
