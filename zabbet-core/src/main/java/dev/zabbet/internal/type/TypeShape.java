package dev.zabbet.internal.type;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.schema.Kind;
import java.lang.reflect.AnnotatedElement;
import java.lang.reflect.AnnotatedType;
import java.lang.reflect.Constructor;
import java.lang.reflect.Executable;
import java.lang.reflect.Field;
import java.lang.reflect.InaccessibleObjectException;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Member;
import java.lang.reflect.Modifier;
import java.lang.reflect.Parameter;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.RecordComponent;
import java.lang.reflect.Type;
import java.util.ArrayList;
import java.util.Arrays;
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
import java.util.stream.Stream;
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
    private static final Object AS_IT_IS = new Object(); // a property that making an object leaves alone
    private static final ThreadLocal<Set<Class<?>>> BEING_READ = ThreadLocal.withInitial(HashSet::new);

    private final Class<T> type;
    private final Map<String, Part> parts = new LinkedHashMap<>();
    private final Map<String, Prop> properties = new LinkedHashMap<>();
    private final Constructor<T> constructor;
    private final boolean byFields;
    private final boolean flat;
    private final Layout layout;
    private final Optional<EntityMapping> mapping;
    private final Map<String, Conversion> conversions = new HashMap<>(); // by paths
    private final Set<String> open = new HashSet<>(); // paths of what may be null, since nothing is said
    private final Set<String> absent = new HashSet<>(); // own properties that have no column
    private @Nullable Prop version;
    private String versionAnnotation = "";
    private final Map<Layout, TypeShape<T>> laidOut = new ConcurrentHashMap<>();
    private final List<Prop> all;
    private final Class<?>[] plain; // of each property, the class whose objects need no conversion; Void if all do

    /** A component or field: a property, or a value object with properties of its own. */
    private record Part(Prop prop, Member reader, @Nullable TypeShape<Object> inner) {}

    /**
     * What a table says of how properties are kept.
     *
     * @param whole properties that are kept whole in one column, with what that holds
     * @param ordinals enums that are kept by their number
     */
    private record Layout(Map<String, Kind> whole, Set<String> ordinals) {
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
        this.constructor = type.isRecord() ? recordConstructor(type) : pickConstructor(type);
        this.byFields = !type.isRecord() && constructor.getParameterCount() == 0;
        Set<Class<?>> reading = BEING_READ.get();
        reading.add(type);
        try {
            if (type.isRecord()) {
                readRecord();
            } else {
                readFields();
            }
        } finally {
            reading.remove(type);
        }
        open(constructor);
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

    /** Finds out anew how objects of a type are read and made. */
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
    TypeShape<T> laidOut(Map<String, Kind> kinds, Set<String> ordinals) {
        return kinds.isEmpty() && ordinals.isEmpty()
                ? this
                : laidOut.computeIfAbsent(
                        new Layout(Map.copyOf(kinds), Set.copyOf(ordinals)), k -> new TypeShape<>(type, k));
    }

    private boolean isWhole(Prop prop) {
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
        List<Object> plain = prop.type().isEnum()
                ? List.of(prop.type().getEnumConstants())
                : isConverted(prop) && JavaValue.boxed(prop.type()) == Boolean.class ? List.of(true, false) : List.of();
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
        return keyOf(type, List.of()).flatMap(key -> find(key.name()));
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

    /** A lazy object is not loaded for its key. */
    @SuppressWarnings("unchecked")
    private static @Nullable Object keyOf(Object object, Prop key) {
        Object identifier = Proxies.identifierOrSelf(object);
        return identifier != object
                ? identifier
                : TypeShape.of((Class<Object>) object.getClass()).read(object, key);
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
            Object plain = DocumentValue.plain(value);
            return kind == Kind.ARRAY ? plain : Json.write(plain);
        } catch (Inexact e) {
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
        List<@Nullable Object> arguments = new ArrayList<>();
        for (Part part : parts.values()) {
            arguments.add(argument(part, values));
        }
        return construct(arguments);
    }

    /**
     * Makes an object of the values of {@link #properties}, in their order.
     *
     * @throws ZabbetException as {@link #make}
     */
    public T makeOf(@Nullable Object[] values) {
        if (!flat) {
            Map<String, @Nullable Object> byName = new LinkedHashMap<>();
            for (int i = 0; i < values.length; i++) {
                byName.put(all.get(i).name(), values[i]);
            }
            return make(prop -> byName.get(prop.name()));
        }
        @Nullable Object[] arguments = new @Nullable Object[values.length];
        for (int i = 0; i < values.length; i++) {
            Object value = values[i];
            arguments[i] = value != null && value.getClass() == plain[i] ? value : fitted(all.get(i), value);
        }
        return construct(arguments);
    }

    /** Tells whether objects can be changed by writing their fields. */
    public boolean isChangeable() {
        return byFields;
    }

    /**
     * Writes a property of an object whose type {@link #isChangeable is changeable}.
     *
     * @throws ZabbetException if the value does not fit
     */
    public void write(T object, Prop prop, @Nullable Object value) {
        Part part = Objects.requireNonNull(parts.get(prop.name()));
        try {
            ((Field) part.reader()).set(object, fitted(prop, value));
        } catch (IllegalAccessException e) {
            throw new ZabbetException("Property " + prop.name() + " of " + type.getName() + " cannot be written.", e);
        }
    }

    /** Writes a property as it is, be it a value or a collection of the caller's own. */
    public void writeWhole(T object, Prop prop, Object value) {
        try {
            ((Field) Objects.requireNonNull(parts.get(prop.name())).reader()).set(object, value);
        } catch (IllegalAccessException e) {
            throw new ZabbetException("Property " + prop.name() + " of " + type.getName() + " cannot be written.", e);
        }
    }

    /** Returns a copy of an object, made of the same values; what it holds is not copied. */
    public T copy(T object) {
        List<@Nullable Object> arguments = new ArrayList<>();
        for (Part part : parts.values()) {
            Object value = read(object, part.prop());
            arguments.add(wrapped(part.prop(), value));
        }
        return construct(arguments);
    }

    /**
     * Makes an object of the values of its own properties, those of value objects being whole objects.
     *
     * @param values gives the value of each of {@link #ownProperties}
     */
    public T makeOfOwn(Function<Prop, @Nullable Object> values) {
        List<@Nullable Object> arguments = new ArrayList<>();
        for (Part part : parts.values()) {
            Object value = values.apply(part.prop());
            boolean whole = part.prop().type().isInstance(value)
                    || JavaValue.kindOf(part.prop().type()) == Kind.OTHER;
            arguments.add(whole ? wrapped(part.prop(), value) : fitted(part.prop(), value));
        }
        return construct(arguments);
    }

    private static @Nullable Object wrapped(Prop prop, @Nullable Object value) {
        return prop.optional() ? Optional.ofNullable(value) : value;
    }

    private @Nullable Object argument(Part part, Function<Prop, @Nullable Object> values) {
        Prop prop = part.prop();
        if (absent.contains(prop.name())) {
            return byFields ? AS_IT_IS : unsaid(prop);
        }
        TypeShape<Object> inner = part.inner();
        if (inner != null) {
            Map<String, @Nullable Object> held = new LinkedHashMap<>();
            inner.properties()
                    .forEach(p -> held.put(
                            p.name(),
                            values.apply(Objects.requireNonNull(properties.get(prop.name() + "." + p.name())))));
            boolean nothing = held.values().stream().allMatch(Objects::isNull);
            return wrapped(prop, nothing ? null : inner.make(p -> held.get(p.name())));
        }
        if (isWhole(prop)) {
            return fitted(prop, values.apply(prop));
        }
        Conversion conversion = conversions.get(prop.name());
        if (conversion != null) {
            Object value = conversion.toProperty(values.apply(prop));
            return value == null && prop.type().isPrimitive() ? fitted(prop, zero(prop.type())) : wrapped(prop, value);
        }
        Prop key = prop.key().orElse(null);
        if (key != null) {
            Object value = values.apply(prop);
            return wrapped(
                    prop, value == null || prop.type().isInstance(value) ? value : withKey(prop.type(), key, value));
        }
        if (DocumentValue.isCollection(prop.type())) {
            return wrapped(prop, emptyCollection(prop.type()));
        }
        return fitted(prop, values.apply(prop));
    }

    /** What an object holds that is made by a constructor, where no column says anything. */
    private @Nullable Object unsaid(Prop prop) {
        if (DocumentValue.isCollection(prop.type())) {
            return wrapped(prop, emptyCollection(prop.type()));
        }
        return prop.type().isPrimitive() ? fitted(prop, zero(prop.type())) : wrapped(prop, null);
    }

    /** An object of which nothing is known but its key; null if none of its class can be made. */
    @SuppressWarnings("unchecked")
    private static @Nullable Object withKey(Class<?> type, Prop key, Object value) {
        Class<?> made = EntityMapping.concrete(type).orElse(null);
        if (made == null) {
            return null;
        }
        return TypeShape.of((Class<Object>) made)
                .make(p -> p.name().equals(key.name()) ? value : p.type().isPrimitive() ? zero(p.type()) : null);
    }

    static Object zero(Class<?> type) {
        return type == boolean.class ? (Object) false : type == char.class ? (Object) "0" : (Object) 0;
    }

    private T construct(List<@Nullable Object> arguments) {
        return construct(arguments.toArray());
    }

    private T construct(@Nullable Object[] arguments) {
        try {
            if (!byFields) {
                return constructor.newInstance(arguments);
            }
            T object = constructor.newInstance();
            int at = 0;
            for (Part part : parts.values()) {
                Object argument = arguments[at++];
                Field field = (Field) part.reader();
                if (argument != AS_IT_IS) {
                    field.set(object, argument);
                } else if (DocumentValue.isCollection(field.getType()) && field.get(object) == null) {
                    field.set(object, emptyCollection(field.getType()));
                }
            }
            return object;
        } catch (InvocationTargetException e) {
            throw new ZabbetException(
                    "The constructor of " + type.getSimpleName() + " refused " + Arrays.toString(arguments) + ": "
                            + e.getCause(),
                    e.getCause());
        } catch (ReflectiveOperationException | IllegalArgumentException e) {
            throw new ZabbetException("An object of " + type.getName() + " cannot be made: " + e, e);
        }
    }

    private @Nullable Object fitted(Prop prop, @Nullable Object value) {
        try {
            Object converted = isWhole(prop) ? ofStored(prop, value) : JavaValue.to(prop.type(), value);
            if (prop.optional()) {
                return Optional.ofNullable(converted);
            }
            if (converted == null && prop.type().isPrimitive()) {
                throw new ZabbetException("Property " + prop.name() + " of " + type.getSimpleName() + " is "
                        + prop.type() + " and cannot be null; give it a value or declare it as "
                        + JavaValue.boxed(prop.type()).getSimpleName() + ".");
            }
            return converted;
        } catch (Inexact e) {
            throw new ZabbetException("Property " + prop.name() + " of " + type.getSimpleName() + " is "
                    + prop.type().getSimpleName() + ", and " + e.clause() + ".");
        }
    }

    private static @Nullable Object ofStored(Prop prop, @Nullable Object value) throws Inexact {
        if (value == null || prop.type().isInstance(value)) {
            return value;
        }
        if (!(value instanceof CharSequence text)) {
            return DocumentValue.of(prop.generic(), value);
        }
        Json.Document document =
                Json.read(text.toString()).orElseThrow(() -> new Inexact(Text.of(text) + " is not JSON"));
        return DocumentValue.of(prop.generic(), document.value());
    }

    private void readRecord() {
        for (RecordComponent component : type.getRecordComponents()) {
            Field field = field(component.getName());
            add(
                    component.getName(),
                    component.getType(),
                    component.getGenericType(),
                    marked(component) || marked(component.getAnnotatedType()),
                    open(component.getAccessor()),
                    field == null ? List.of(component.getAccessor()) : List.of(field, component.getAccessor()));
        }
    }

    private @Nullable Field field(String name) {
        try {
            return type.getDeclaredField(name);
        } catch (NoSuchFieldException e) {
            return null;
        }
    }

    private void readFields() {
        List<String> wanted = byFields
                ? List.of()
                : Arrays.stream(constructor.getParameters())
                        .map(Parameter::getName)
                        .toList();
        Map<String, Field> fields = new LinkedHashMap<>();
        for (Class<?> c = type; c != null && c != Object.class; c = c.getSuperclass()) {
            for (Field field : c.getDeclaredFields()) {
                int modifiers = field.getModifiers();
                boolean left = Modifier.isStatic(modifiers)
                        || field.isSynthetic()
                        || Modifier.isTransient(modifiers)
                        || Annotations.has(places(field), "Transient");
                if (!left) {
                    fields.putIfAbsent(field.getName(), field);
                }
            }
        }
        for (String name : byFields ? fields.keySet() : wanted) {
            Field field = fields.get(name);
            if (field == null) {
                throw new ZabbetException(
                        "The constructor of " + type.getName() + " has a parameter '" + name
                                + "' but the class has no field of that name. Compile it with -parameters, or name them alike.");
            }
            Type of = FieldTypes.of(field, type);
            add(
                    name,
                    of == field.getGenericType() ? field.getType() : DocumentValue.raw(of),
                    of,
                    marked(field) || marked(field.getAnnotatedType()),
                    open(field),
                    places(field));
        }
    }

    /** Annotations stand on the field or on its getter. */
    static List<AnnotatedElement> places(Field field) {
        List<AnnotatedElement> places = new ArrayList<>(List.of(field));
        String name = Character.toUpperCase(field.getName().charAt(0))
                + field.getName().substring(1);
        for (String getter : List.of("get" + name, "is" + name)) {
            try {
                places.add(field.getDeclaringClass().getDeclaredMethod(getter));
            } catch (NoSuchMethodException e) {
                continue; // most properties have one of the two, or none
            }
        }
        return places;
    }

    private void add(
            String name,
            Class<?> declared,
            Type generic,
            boolean marked,
            Member reader,
            List<? extends AnnotatedElement> elements) {
        List<AnnotatedElement> places = List.copyOf(elements);
        boolean optional = declared == Optional.class;
        Type held = optional && generic instanceof ParameterizedType p ? p.getActualTypeArguments()[0] : generic;
        Class<?> holds = optional ? DocumentValue.raw(held) : declared;
        Optional<String> above = mapping.flatMap(m -> m.columnAbove(name));
        Optional<String> column = said(name)
                .or(() -> above)
                .or(() -> Annotations.text(places, "Column", "name"))
                .or(() -> Annotations.text(places, "JoinColumn", "name"));
        boolean kept = layout.whole().containsKey(name);
        Optional<Conversion> converted = kept
                ? Optional.empty()
                : mapping.map(m -> m.conversions().get(name)).or(() -> TextForms.of(holds));
        boolean entity = EntityMapping.isEntity(holds);
        boolean structured = !kept && converted.isEmpty() && (DocumentValue.isStructured(holds) || entity);
        Optional<Prop> key = structured ? keyOf(holds, places) : Optional.empty();
        Prop prop = new Prop(name, holds, held, optional, optional || marked, column, key);
        if (isEntity() && !declared.isPrimitive() && !isSaidRequired(places)) {
            open.add(name);
        }
        boolean without = above.isEmpty()
                && mapping.filter(m -> m.without().contains(name)).isPresent();
        if (without || (entity && structured && key.isEmpty()) || (isEntity() && !isMakeable(prop, kept, converted))) {
            absent.add(name);
            parts.put(name, new Part(prop, reader, null));
            return;
        }
        @SuppressWarnings("unchecked")
        TypeShape<Object> inner =
                structured && key.isEmpty() && !BEING_READ.get().contains(holds) ? (TypeShape<Object>) of(holds) : null;
        parts.put(name, new Part(prop, reader, inner));
        converted.ifPresent(conversion -> conversions.put(name, conversion));
        Annotations.named(places, "Version").ifPresent(annotation -> {
            version = prop;
            versionAnnotation = annotation;
        });
        if (inner != null) {
            Map<String, String> overridden = overridden(places);
            inner.properties().forEach(p -> {
                Prop inside = p.inside(name);
                Optional<String> other = said(inside.name())
                        .or(() -> mapping.flatMap(m -> m.columnAbove(inside.name())))
                        .or(() -> Optional.ofNullable(overridden.get(p.name())));
                properties.put(inside.name(), other.isPresent() ? inside.inColumn(other) : inside);
            });
            inner.open.forEach(path -> open.add(name + "." + path));
            inner.conversions.forEach((path, conversion) -> conversions.put(name + "." + path, conversion));
            mapping.ifPresent(m -> m.conversions().forEach((path, conversion) -> {
                if (path.startsWith(name + ".")) {
                    conversions.put(path, conversion);
                }
            }));
        } else if (kept || !DocumentValue.isCollection(holds)) {
            properties.put(name, prop);
        }
    }

    private static boolean isSaidRequired(List<AnnotatedElement> places) {
        boolean refused = Stream.of("Column", "JoinColumn").anyMatch(kind -> Annotations.text(places, kind, "nullable")
                .filter("false"::equals)
                .isPresent());
        boolean demanded = Stream.of("Basic", "ManyToOne", "OneToOne")
                .anyMatch(kind -> Annotations.text(places, kind, "optional")
                        .filter("false"::equals)
                        .isPresent());
        boolean key =
                Stream.of("Id", "EmbeddedId", "MapsId", "Version").anyMatch(kind -> Annotations.has(places, kind));
        return refused
                || demanded
                || key
                || Stream.of("NotNull", "NonNull", "NotBlank", "NotEmpty")
                        .anyMatch(kind -> Annotations.named(places, kind).isPresent());
    }

    private Optional<String> said(String path) {
        return mapping.map(m -> m.columns().get(path));
    }

    /** Of an entity, a property that nothing can be made for is left as it is; it does not spoil the rest. */
    private static boolean isMakeable(Prop prop, boolean kept, Optional<Conversion> converted) {
        Class<?> type = prop.type();
        return kept
                || converted.isPresent()
                || prop.isReference()
                || JavaValue.kindOf(type) != Kind.OTHER
                || DocumentValue.isCollection(type)
                || Json.isTree(type)
                || (DocumentValue.isStructured(type) && hasOneWay(type));
    }

    private static boolean hasOneWay(Class<?> type) {
        try {
            return BEING_READ.get().contains(type) || of(type) != null;
        } catch (ZabbetException e) {
            return false;
        }
    }

    /** Returns the columns that an annotation of an embedded property says for the properties inside. */
    static Map<String, String> overridden(List<AnnotatedElement> places) {
        Map<String, String> columns = new HashMap<>();
        List<java.lang.annotation.Annotation> all = new ArrayList<>(Annotations.all(places, "AttributeOverride"));
        Annotations.value(places, "AttributeOverrides", "value")
                .filter(java.lang.annotation.Annotation[].class::isInstance)
                .ifPresent(several -> all.addAll(List.of((java.lang.annotation.Annotation[]) several)));
        for (java.lang.annotation.Annotation override : all) {
            Object column = Annotations.attributeOf(override, "column");
            String name = column instanceof java.lang.annotation.Annotation of
                    ? String.valueOf(Annotations.attributeOf(of, "name"))
                    : "";
            if (!name.isEmpty()) {
                columns.put(String.valueOf(Annotations.attributeOf(override, "name")), name);
            }
        }
        return columns;
    }

    private static Object emptyCollection(Class<?> type) {
        if (type.isArray()) {
            return java.lang.reflect.Array.newInstance(type.getComponentType(), 0);
        }
        if (java.util.SortedMap.class.isAssignableFrom(type)) {
            return new java.util.TreeMap<>();
        }
        if (java.util.SortedSet.class.isAssignableFrom(type)) {
            return new java.util.TreeSet<>();
        }
        return Map.class.isAssignableFrom(type)
                ? new LinkedHashMap<>()
                : type.isAssignableFrom(ArrayList.class) ? new ArrayList<>() : new java.util.LinkedHashSet<>();
    }

    /** Tells whether objects of a class have an id, and so a row of their own. */
    public static boolean hasKey(Class<?> type) {
        return EntityMapping.isEntity(type)
                || DocumentValue.isStructured(type) && keyOf(type, List.of()).isPresent();
    }

    /** An object has a row of its own if an annotation says so, or if it has an id. */
    private static Optional<Prop> keyOf(Class<?> type, List<AnnotatedElement> places) {
        if (Annotations.has(places, "Embedded") || Annotations.has(places, "EmbeddedId")) {
            return Optional.empty();
        }
        Field key = null;
        for (Class<?> c = type; c != null && c != Object.class; c = c.getSuperclass()) {
            for (Field field : c.getDeclaredFields()) {
                List<AnnotatedElement> on = places(field);
                boolean id = Annotations.has(on, "Id");
                if (Annotations.has(on, "EmbeddedId")
                        || (id && key != null && !key.getName().equals("id"))) {
                    return Optional.empty(); // several columns
                }
                if (id || (key == null && field.getName().equals("id"))) {
                    key = field;
                }
            }
        }
        if (key == null) {
            return Optional.empty();
        }
        Type of = FieldTypes.of(key, type);
        Class<?> raw = of == key.getGenericType() ? key.getType() : DocumentValue.raw(of);
        if (DocumentValue.isStructured(raw) || EntityMapping.isEntity(raw)) {
            return Optional.empty();
        }
        return Optional.of(new Prop(
                key.getName(),
                raw,
                of,
                false,
                true,
                Annotations.text(places(key), "Column", "name"),
                Optional.empty()));
    }

    private static boolean marked(AnnotatedElement element) {
        return Arrays.stream(element.getAnnotations())
                .anyMatch(a -> a.annotationType().getSimpleName().equals("Nullable"));
    }

    private static boolean marked(AnnotatedType annotated) {
        return marked((AnnotatedElement) annotated);
    }

    private static <T> Constructor<T> recordConstructor(Class<T> type) {
        Class<?>[] parameters = Arrays.stream(type.getRecordComponents())
                .map(RecordComponent::getType)
                .toArray(Class<?>[]::new);
        try {
            return type.getDeclaredConstructor(parameters);
        } catch (NoSuchMethodException e) {
            throw new IllegalStateException("A record without its canonical constructor: " + type, e);
        }
    }

    @SuppressWarnings("unchecked")
    private static <T> Constructor<T> pickConstructor(Class<T> type) {
        List<Constructor<?>> all = List.of(type.getDeclaredConstructors());
        for (Constructor<?> constructor : all) {
            if (constructor.getParameterCount() == 0) {
                return (Constructor<T>) constructor;
            }
        }
        if (all.size() != 1) {
            throw new ZabbetException("Objects of " + type.getName() + " cannot be made: it has " + all.size()
                    + " constructors, and none without parameters. Keep one, or add one without parameters.");
        }
        return (Constructor<T>) all.get(0);
    }

    private <A extends java.lang.reflect.AccessibleObject & Member> A open(A member) {
        try {
            if (!(member instanceof Executable) || !Modifier.isPublic(member.getModifiers()) || !isPublic()) {
                member.setAccessible(true);
            }
            return member;
        } catch (InaccessibleObjectException e) {
            String module = String.valueOf(type.getModule().getName());
            throw new ZabbetException(
                    "Module " + module + " keeps " + type.getName() + " closed. Add to its module-info.java: opens "
                            + type.getPackageName() + " to dev.zabbet.core;",
                    e);
        }
    }

    private boolean isPublic() {
        return Modifier.isPublic(type.getModifiers()) && type.getEnclosingClass() == null;
    }
}
