package dev.zabbet.internal.plan.value;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.SplitMix;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import dev.zabbet.value.Values;
import java.lang.reflect.Array;
import java.lang.reflect.GenericArrayType;
import java.lang.reflect.Modifier;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.lang.reflect.TypeVariable;
import java.lang.reflect.WildcardType;
import java.net.URI;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.Period;
import java.time.Year;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Currency;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.SortedMap;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Makes values of any Java type, to any depth; where an object would hold one of its own type, it ends. */
public final class ValuesByType {
    private static final int ELEMENTS = 2;
    private static final Map<Class<?>, Function<Values, Object>> PLAIN = Map.ofEntries(
            Map.entry(URI.class, v -> URI.create("https://example.org/" + v.word())),
            Map.entry(Locale.class, v -> Locale.ENGLISH),
            Map.entry(Currency.class, v -> Currency.getInstance("CHF")),
            Map.entry(ZoneId.class, v -> ZoneOffset.UTC),
            Map.entry(ZoneOffset.class, v -> ZoneOffset.UTC),
            Map.entry(Duration.class, v -> Duration.ofMinutes(v.between(1, 600))),
            Map.entry(Period.class, v -> Period.ofDays(v.between(1, 30))),
            Map.entry(Year.class, v -> Year.of(v.between(1990, 2030))),
            Map.entry(YearMonth.class, v -> YearMonth.of(v.between(1990, 2030), v.between(1, 12))),
            Map.entry(java.sql.Date.class, v -> java.sql.Date.valueOf(v.today().minusDays(v.between(0, 999)))),
            Map.entry(
                    java.sql.Timestamp.class,
                    v -> java.sql.Timestamp.valueOf(
                            LocalDateTime.ofInstant(v.now().minusSeconds(v.between(0, 99_999)), ZoneOffset.UTC))),
            Map.entry(
                    java.sql.Time.class, v -> java.sql.Time.valueOf(LocalTime.of(v.between(0, 23), v.between(0, 59)))),
            Map.entry(Object.class, Values::word),
            Map.entry(Number.class, v -> v.between(1, 999)));

    private final String owner;
    private final long ordinal;
    private final Set<Class<?>> above;
    private final Map<TypeVariable<?>, Type> bound;

    public ValuesByType(String owner, long ordinal, Set<Class<?>> above, Map<TypeVariable<?>, Type> bound) {
        this.owner = owner;
        this.ordinal = ordinal;
        this.above = above;
        this.bound = bound;
    }

    /** Makes what an object holds in a property that is stored as a document; of a JSON library's tree any document. */
    public static Object document(String owner, Prop prop, long ordinal) {
        if (Json.isTree(prop.type())) {
            return Map.of("number", ordinal);
        }
        return Objects.requireNonNull(
                new ValuesByType(owner, ordinal, Set.of(), Map.of()).of(prop.generic(), prop.name(), false));
    }

    /**
     * Makes a value.
     *
     * @param name the property's name, by which a fitting text is chosen
     * @param mayBeNull whether it may be left away where the objects would have no end
     */
    public @Nullable Object of(Type type, String name, boolean mayBeNull) {
        if (type instanceof WildcardType wildcard) {
            return of(wildcard.getUpperBounds()[0], name, mayBeNull);
        }
        if (type instanceof TypeVariable<?> variable) {
            Type known = bound.get(variable);
            return of(known == null ? variable.getBounds()[0] : known, name, mayBeNull);
        }
        if (type instanceof GenericArrayType array) {
            return array(raw(array.getGenericComponentType()), array.getGenericComponentType(), name);
        }
        Class<?> raw = raw(type);
        Type[] arguments = type instanceof ParameterizedType p ? p.getActualTypeArguments() : new Type[0];
        if (raw.isArray() && raw != byte[].class) {
            return array(raw.getComponentType(), raw.getComponentType(), name);
        }
        if (raw == Optional.class) {
            return Optional.ofNullable(of(argument(arguments, 0), name, true));
        }
        if (Iterable.class.isAssignableFrom(raw)
                && (raw.isInterface() || raw.getName().startsWith("java."))) {
            return collection(raw, argument(arguments, 0), name);
        }
        if (Map.class.isAssignableFrom(raw)) {
            return map(raw, arguments, name);
        }
        if (JavaValue.kindOf(raw) != Kind.OTHER) {
            return single(raw, name);
        }
        Function<Values, Object> plain = PLAIN.get(raw);
        return plain != null ? plain.apply(values(name)) : structured(raw, arguments, name, mayBeNull);
    }

    private static Type argument(Type[] arguments, int at) {
        return at < arguments.length ? arguments[at] : String.class;
    }

    private Class<?> raw(Type type) {
        if (type instanceof Class<?> c) {
            return c;
        }
        if (type instanceof ParameterizedType p) {
            return raw(p.getRawType());
        }
        if (type instanceof TypeVariable<?> variable && bound.containsKey(variable)) {
            return raw(bound.get(variable));
        }
        return Object.class;
    }

    private Values values(String name) {
        String drawnBy = TextMaker.drawnBy(owner, Words.snakeCase(name));
        long state = SplitMix.of(0, SplitMix.name(owner, drawnBy), ordinal);
        return new Draws(state, ordinal, Draws.CLOCK, Object.class, other -> null);
    }

    private @Nullable Object single(Class<?> type, String name) {
        if (type.isEnum()) {
            Object[] constants = type.getEnumConstants();
            return constants.length == 0 ? null : constants[values(name).between(0, constants.length - 1)];
        }
        Kind kind = JavaValue.kindOf(type);
        Class<?> boxed = JavaValue.boxed(type);
        if (kind == Kind.INTEGER && name.equals("id")) {
            return convert(type, ordinal);
        }
        int bits;
        if (boxed == Byte.class) {
            bits = 8;
        } else if (boxed == Short.class) {
            bits = 16;
        } else if (boxed == Integer.class) {
            bits = 32;
        } else {
            bits = 64;
        }
        DataType dataType;
        if (kind == Kind.INTEGER) {
            dataType = DataType.precise(kind, "", bits, 0);
        } else if (kind == Kind.DECIMAL) {
            dataType = DataType.precise(kind, "", DataType.UNLIMITED, 2);
        } else {
            dataType = DataType.sized(kind, "", boxed == Character.class ? 1 : DataType.UNLIMITED);
        }
        return convert(type, Maker.of(owner, Words.snakeCase(name), dataType).make(values(name), Maker.ANY));
    }

    private static @Nullable Object convert(Class<?> type, Object value) {
        try {
            return JavaValue.to(type, value);
        } catch (InexactValueException e) {
            throw new IllegalStateException("made as " + type, e);
        }
    }

    private Object array(Class<?> component, Type generic, String name) {
        List<@Nullable Object> elements = elements(generic, name);
        Object array = Array.newInstance(component, elements.size());
        for (int i = 0; i < elements.size(); i++) {
            Array.set(array, i, elements.get(i));
        }
        return array;
    }

    private List<@Nullable Object> elements(Type type, String name) {
        List<@Nullable Object> elements = new ArrayList<>();
        for (int i = 0; i < ELEMENTS; i++) {
            Object element = new ValuesByType(owner, ordinal * ELEMENTS + i - 1, above, bound).of(type, name, true);
            if (element != null) {
                elements.add(element);
            }
        }
        return elements;
    }

    private Object collection(Class<?> type, Type element, String name) {
        List<@Nullable Object> elements = elements(element, name);
        Collection<@Nullable Object> made;
        if (SortedSet.class.isAssignableFrom(type)) {
            made = new TreeSet<>();
        } else if (Set.class.isAssignableFrom(type)) {
            if (type == HashSet.class) {
                made = new HashSet<>();
            } else {
                made = new LinkedHashSet<>();
            }
        } else if (type.isAssignableFrom(ArrayList.class)) {
            made = new ArrayList<>();
        } else {
            made = new ArrayDeque<>();
        }
        made.addAll(elements);
        return made;
    }

    private Object map(Class<?> type, Type[] arguments, String name) {
        Map<@Nullable Object, @Nullable Object> made;
        if (SortedMap.class.isAssignableFrom(type)) {
            made = new TreeMap<>();
        } else if (type == HashMap.class) {
            made = new HashMap<>();
        } else {
            made = new LinkedHashMap<>();
        }
        List<@Nullable Object> keys = elements(argument(arguments, 0), name + "Key");
        List<@Nullable Object> values = elements(argument(arguments, 1), name);
        for (int i = 0; i < Math.min(keys.size(), values.size()); i++) {
            made.put(keys.get(i), values.get(i));
        }
        return made;
    }

    private @Nullable Object structured(Class<?> type, Type[] arguments, String name, boolean mayBeNull) {
        if (above.contains(type)) {
            return null;
        }
        if (type.isSealed()) {
            return Arrays.stream(type.getPermittedSubclasses())
                    .map(sub -> of(sub, name, true))
                    .filter(made -> made != null)
                    .findFirst()
                    .orElse(null);
        }
        if (type.isInterface()
                || Modifier.isAbstract(type.getModifiers())
                || type.getName().startsWith("java.")) {
            if (mayBeNull) {
                return null;
            }
            throw new ZabbetException("No value can be invented for property " + name + ", which is " + type.getName()
                    + ". Give it one: with(…) or invent(…).");
        }
        Map<TypeVariable<?>, Type> inner = new HashMap<>(bound);
        TypeVariable<?>[] variables = type.getTypeParameters();
        for (int i = 0; i < Math.min(variables.length, arguments.length); i++) {
            Type argument = arguments[i];
            inner.put(
                    variables[i],
                    argument instanceof TypeVariable<?> v && bound.containsKey(v) ? bound.get(v) : argument);
        }
        Set<Class<?>> path = new HashSet<>(above);
        path.add(type);
        return object(type, new ValuesByType(TypeShape.tableOf(type), ordinal, path, inner));
    }

    private static <T> T object(Class<T> type, ValuesByType inside) {
        return TypeShape.of(type).makeOfOwn(prop -> {
            Object value = inside.of(prop.generic(), prop.name(), true);
            return value == null && prop.type().isPrimitive() ? zero(prop) : value;
        });
    }

    private static Object zero(Prop prop) {
        return prop.type() == boolean.class ? (Object) false : 0;
    }
}
