package dev.zabbet.internal.type;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.type.Kind;
import java.lang.reflect.AnnotatedElement;
import java.lang.reflect.Constructor;
import java.lang.reflect.Field;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Member;
import java.lang.reflect.Modifier;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * How objects of a type are read and made: a record by its components, a class with a constructor without parameters by
 * its fields, any other class by its only constructor, whose parameters are named like fields. Value objects inside count
 * by their own properties, objects that have an id by it, and collections are left empty.
 */
public final class TypeShape<T> {
    private static final ClassValue<TypeShape<?>> SHAPES = new ClassValue<>() {
        @Override
        protected TypeShape<?> computeValue(Class<?> type) {
            return new TypeShape<>(type, Layout.PLAIN);
        }
    };

    static final Object AS_IT_IS = new Object(); // a property that making an object leaves alone
    static final ThreadLocal<Set<Class<?>>> BEING_READ = ThreadLocal.withInitial(HashSet::new);

    private final ShapeReader reader = new ShapeReader(this);
    private final ObjectMaking<T> making = new ObjectMaking<>(this);
    final Class<T> type;
    final Map<String, Part> parts = new LinkedHashMap<>();
    final Map<String, Prop> properties = new LinkedHashMap<>();
    final Constructor<T> constructor;
    final boolean byFields;
    final boolean flat;
    final Layout layout;
    final Optional<EntityMapping> mapping;
    final Map<String, Conversion> conversions = new HashMap<>(); // by paths
    final Set<String> open = new HashSet<>(); // paths of what may be null, since nothing is said
    final Set<String> absent = new HashSet<>(); // own properties that have no column

    @Nullable
    Prop version;

    String versionAnnotation = "";
    private final Map<Layout, TypeShape<T>> laidOut = new ConcurrentHashMap<>();
    final List<Prop> all;
    final Class<?>[] plain; // of each property, the class whose objects need no conversion; Void if all do

    /** A component or field: a property, or a value object with properties of its own. */
    record Part(Prop prop, Member reader, @Nullable TypeShape<Object> inner) {}

    /**
     * What a table says of how properties are kept.
     *
     * @param whole properties that are kept whole in one column, with what that holds
     * @param ordinals enums that are kept by their number
     */
    record Layout(Map<String, Kind> whole, Set<String> ordinals) {
        static final Layout PLAIN = new Layout(Map.of(), Set.of());
    }

    private TypeShape(Class<T> type, Layout layout) {
        this.type = type;
        this.layout = layout;
        this.mapping = EntityMapping.of(type);
        if (type.isInterface() || type.isPrimitive() || type.isEnum() || Modifier.isAbstract(type.getModifiers())) {
            throw new ZabbetException("Objects of " + type.getName()
                    + " cannot be made: it is no record and no class that has a constructor.");
        }
        this.constructor =
                type.isRecord() ? PropertyReading.recordConstructor(type) : PropertyReading.pickConstructor(type);
        this.byFields = !type.isRecord() && constructor.getParameterCount() == 0;
        Set<Class<?>> reading = BEING_READ.get();
        reading.add(type);
        try {
            if (type.isRecord()) {
                reader.readRecord();
            } else {
                reader.readFields();
            }
        } finally {
            reading.remove(type);
        }
        reader.open(constructor);
        for (String name : layout.ordinals()) {
            conversions.put(
                    name,
                    new Ordinal(Objects.requireNonNull(properties.get(name)).type()));
        }
        all = List.copyOf(properties.values());
        plain = all.stream()
                .map(prop -> prop.optional() || isWhole(prop) ? Void.class : JavaValue.boxed(prop.type()))
                .toArray(Class<?>[]::new);
        flat = mapping.isEmpty()
                && conversions.isEmpty()
                && parts.values().stream()
                        .allMatch(part -> part.inner() == null
                                && part.prop().key().isEmpty()
                                && (isWhole(part.prop())
                                        || !DocumentValue.isCollection(
                                                part.prop().type())));
    }

    /** Discards what is known of a type, so that it is read again. */
    static void forget(Class<?> type) {
        SHAPES.remove(type);
    }

    /** Returns the shape of a type; it is found out once for each class. */
    @SuppressWarnings("unchecked")
    public static <T> TypeShape<T> of(Class<T> type) {
        return (TypeShape<T>) SHAPES.get(type);
    }

    /**
     * Returns the shape of the same type in which some properties are kept in another way.
     *
     * @param kinds by the names of own properties that are each kept whole in one column, what their columns hold: JSON,
     *     text (of JSON) or arrays
     * @param ordinals enums that are kept by their number
     */
    public TypeShape<T> laidOut(Map<String, Kind> kinds, Set<String> ordinals) {
        return kinds.isEmpty() && ordinals.isEmpty()
                ? this
                : laidOut.computeIfAbsent(
                        new Layout(Map.copyOf(kinds), Set.copyOf(ordinals)), k -> new TypeShape<>(type, k));
    }

    boolean isWhole(Prop prop) {
        return layout.whole().containsKey(prop.name());
    }

    /** Tells whether a persistence provider stores objects of the type. */
    public boolean isEntity() {
        return mapping.isPresent();
    }

    /** Tells whether the provider, or the application's framework, fills a property when an object is stored first. */
    public boolean isGenerated(Prop prop) {
        return prop.equals(version)
                || mapping.filter(m -> m.generated().contains(prop.name())).isPresent();
    }

    /** Tells whether the provider never writes a property, since another writes its column. */
    public boolean isReadOnly(Prop prop) {
        return mapping.filter(m -> m.readOnly().contains(prop.name())).isPresent();
    }

    /** Returns the columns in which superclasses keep what the type has from them, by properties, by their tables. */
    public Map<String, Map<String, String>> above() {
        return mapping.map(EntityMapping::above).orElse(Map.of());
    }

    /** Returns the columns in which a superclass keeps what the type has from it, by properties; empty if the table is none. */
    public Optional<Map<String, String>> above(String table) {
        return above().entrySet().stream()
                .filter(one -> one.getKey().equalsIgnoreCase(table))
                .map(Map.Entry::getValue)
                .findFirst();
    }

    /** Returns the condition in SQL without which a provider does not find a row; empty if it finds all. */
    public Optional<String> restriction() {
        return mapping.flatMap(EntityMapping::restriction);
    }

    /** Returns the statement that a provider runs in place of a DELETE; empty if it runs none. */
    public Optional<String> deletion() {
        return mapping.flatMap(EntityMapping::deletion);
    }

    /** Tells whether a property of an entity may be null since nothing is said of that. */
    public boolean isLeftOpen(Prop prop) {
        return open.contains(prop.name());
    }

    /** Returns the class of what the column of a property holds: for a reference that of the key. */
    public Class<?> columnType(Prop prop) {
        Conversion conversion = conversions.get(prop.name());
        return conversion == null || conversion.columnType() == Object.class
                ? prop.storedType()
                : conversion.columnType();
    }

    /** Returns what columns hold for every object of the type. */
    public Map<String, Object> fixed() {
        return mapping.map(EntityMapping::fixed).orElse(Map.of());
    }

    /**
     * Returns what the column of a property may hold, if that is one of a few values or nobody could make up others: the
     * constants of an enum, both answers to a question, some currencies; in the form of the column. Empty otherwise.
     */
    public List<Object> some(Prop prop) {
        List<Object> plain;
        if (prop.type().isEnum()) {
            plain = List.of(prop.type().getEnumConstants());
        } else if (isConverted(prop) && JavaValue.boxed(prop.type()) == Boolean.class) {
            plain = List.of(true, false);
        } else {
            plain = List.of();
        }
        Conversion conversion = conversions.get(prop.name());
        if (plain.isEmpty() && TextForms.of(prop.type()).isPresent()) {
            return isWhole(prop) ? List.of() : TextForms.some(prop.type());
        }
        if (plain.isEmpty()) {
            return conversion == null ? List.of() : Samples.converted(prop.type(), conversion);
        }
        List<Object> some = new ArrayList<>();
        for (Object value : plain) {
            Object stored = conversion == null ? ((Enum<?>) value).name() : conversion.toColumn(value);
            if (stored != null && !some.contains(stored)) {
                some.add(stored);
            }
        }
        return some;
    }

    /** Tells whether a column holds something else than the property. */
    public boolean isConverted(Prop prop) {
        return conversions.containsKey(prop.name());
    }

    /** Returns the type. */
    public Class<T> type() {
        return type;
    }

    /** Returns the name of the table: as an annotation says, else that of the type. */
    public String table() {
        return tableOf(type);
    }

    /** Returns the name of a type's table, whether objects of it can be made or not. */
    public static String tableOf(Class<?> type) {
        List<AnnotatedElement> places = List.of(type);
        return EntityMapping.of(type)
                .flatMap(EntityMapping::table)
                .or(() -> Annotations.text(places, "Table", "name"))
                .or(() -> Annotations.text(places, "Entity", "name").map(Words::snakeCase))
                .orElse(Words.snakeCase(type.getSimpleName()));
    }

    /** Returns the properties in the order of declaration, those of value objects in their place. */
    public List<Prop> properties() {
        return all;
    }

    /** Returns the properties that the type declares itself. */
    public List<Prop> ownProperties() {
        return parts.values().stream().map(Part::prop).toList();
    }

    /**
     * Returns the property of this name.
     *
     * @throws UnknownNameException if there is none; it suggests the nearest
     */
    public Prop require(String name) {
        return find(name)
                .orElseThrow(() ->
                        new UnknownNameException("property of " + type.getSimpleName(), name, properties.keySet()));
    }

    /** Finds the property of this name. */
    public Optional<Prop> find(String name) {
        Part part = parts.get(name);
        return Optional.ofNullable(properties.get(name))
                .or(() -> Optional.ofNullable(part == null ? null : part.prop()));
    }

    /** Finds the one property that is the key, by its annotation or its name. */
    public Optional<Prop> identifier() {
        return ShapeReader.keyOf(type, List.of()).flatMap(key -> find(key.name()));
    }

    /** Finds the property that says how often an object was changed, by an annotation named Version. */
    public Optional<Prop> version() {
        return Optional.ofNullable(version);
    }

    /** Returns the name of the class of the version's annotation; empty without one. */
    public String versionAnnotation() {
        return versionAnnotation;
    }

    /** Reads a property of an object; an empty {@link Optional} is read as null, a full one as what it holds. */
    public @Nullable Object read(T object, Prop prop) {
        int dot = prop.name().indexOf('.');
        Part part = Objects.requireNonNull(
                parts.get(dot < 0 ? prop.name() : prop.name().substring(0, dot)));
        try {
            Member reader = part.reader();
            Object value = reader instanceof Field field
                    ? field.get(object)
                    : ((java.lang.reflect.Method) reader).invoke(object);
            Object held = value instanceof Optional<?> optional ? optional.orElse(null) : value;
            return dot < 0 || held == null
                    ? held
                    : Objects.requireNonNull(part.inner())
                            .read(
                                    held,
                                    Objects.requireNonNull(part.inner())
                                            .require(prop.name().substring(dot + 1)));
        } catch (IllegalAccessException | InvocationTargetException e) {
            throw new ZabbetException("Property " + prop.name() + " of " + type.getName() + " cannot be read.", e);
        }
    }

    /** Reads what is stored for a property: of an object with a row of its own the key. */
    public @Nullable Object readStored(T object, Prop prop) {
        Object value = read(object, prop);
        if (isWhole(prop) || isConverted(prop)) {
            return stored(prop, value);
        }
        Prop key = prop.key().orElse(null);
        return value == null || key == null ? value : keyOf(value, key);
    }

    /**
     * Returns what is stored for the value of a property that is kept whole, or converted.
     *
     * @throws ZabbetException if it cannot be stored
     */
    public @Nullable Object stored(Prop prop, @Nullable Object value) {
        Conversion conversion = conversions.get(prop.name());
        if (conversion != null) {
            return conversion.toColumn(value);
        }
        Kind kind = layout.whole().get(prop.name());
        if (kind == null || value == null || value instanceof CharSequence) {
            return value;
        }
        try {
            return kind == Kind.ARRAY ? DocumentValue.elements(value) : Json.write(DocumentValue.plain(value));
        } catch (InexactValueException e) {
            throw new ZabbetException("Property " + prop.name() + " of " + type.getSimpleName() + " cannot be stored: "
                    + e.clause() + ".");
        }
    }

    /** Returns the property that is kept whole in one column and holds this one: {@code address} of {@code address.street}. */
    public Optional<Prop> wholeAround(String name) {
        int dot = name.indexOf('.');
        String owner = dot < 0 ? name : name.substring(0, dot);
        return layout.whole().containsKey(owner) ? Optional.ofNullable(properties.get(owner)) : Optional.empty();
    }

    /**
     * Makes an object.
     *
     * @param values gives the value of each of {@link #properties}, in any form that converts exactly
     * @throws ZabbetException if a value does not fit its property or the constructor refuses the values
     */
    public T make(Function<Prop, @Nullable Object> values) {
        return making.make(values);
    }

    /**
     * Makes an object of the values of {@link #properties}, in their order.
     *
     * @throws ZabbetException as {@link #make}
     */
    public T makeOf(@Nullable Object[] values) {
        return making.makeOf(values);
    }

    /** Tells whether objects can be changed by writing their fields. */
    public boolean isChangeable() {
        return making.isChangeable();
    }

    /**
     * Writes a property of an object whose type {@link #isChangeable is changeable}.
     *
     * @throws ZabbetException if the value does not fit
     */
    public void write(T object, Prop prop, @Nullable Object value) {
        making.write(object, prop, value);
    }

    /** Writes a property as it is, whether a value or a collection of the caller's own. */
    public void writeWhole(T object, Prop prop, Object value) {
        making.writeWhole(object, prop, value);
    }

    /** Returns a copy of an object, made of the same values; what it holds is not copied. */
    public T copy(T object) {
        return making.copy(object);
    }

    /**
     * Makes an object of the values of its own properties, those of value objects being whole objects.
     *
     * @param values gives the value of each of {@link #ownProperties}
     */
    public T makeOfOwn(Function<Prop, @Nullable Object> values) {
        return making.makeOfOwn(values);
    }

    /** A lazy object is not loaded for its key. */
    @SuppressWarnings("unchecked")
    private static @Nullable Object keyOf(Object object, Prop key) {
        Object identifier = Proxies.identifierOrSelf(object);
        return identifier != object
                ? identifier
                : TypeShape.of((Class<Object>) object.getClass()).read(object, key);
    }
}
