package dev.zabbet.internal.type;

import dev.zabbet.internal.value.ApplicationJson;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.type.Kind;
import java.lang.reflect.Array;
import java.lang.reflect.GenericArrayType;
import java.lang.reflect.Modifier;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.lang.reflect.WildcardType;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * Values that are documents: maps, collections, arrays, records and classes with properties, and the trees of a JSON library.
 * In a column of JSON they are kept whole, in one of arrays as a list.
 *
 * <p>A plain value is what {@link Json} reads: a map, a list, text, a number, true, false or null.
 */
public final class DocumentValue {
    private static final BigInteger LEAST_LONG = BigInteger.valueOf(Long.MIN_VALUE);
    private static final BigInteger MOST_LONG = BigInteger.valueOf(Long.MAX_VALUE);

    private DocumentValue() {}

    /** Tells whether a class is a map, a collection or an array. */
    public static boolean isCollection(Class<?> type) {
        return Collection.class.isAssignableFrom(type)
                || Map.class.isAssignableFrom(type)
                || (type.isArray() && type != byte[].class);
    }

    /** Tells whether a class is made of properties itself: a record or class of the application's. */
    public static boolean isStructured(Class<?> type) {
        return JavaValue.kindOf(type) == Kind.OTHER
                && !isCollection(type)
                && !Json.isTree(type)
                && !type.isInterface()
                && !type.isArray()
                && !Modifier.isAbstract(type.getModifiers())
                && type != Object.class
                && !type.getName().startsWith("java.");
    }

    /**
     * Returns the plain value that stands for a value of the application.
     *
     * @throws InexactValueException if nothing does
     */
    public static @Nullable Object plain(@Nullable Object value) throws InexactValueException {
        return plain(value, true);
    }

    /**
     * Returns the list that stands for a value of the application in a column of arrays, where no document is written.
     *
     * @throws InexactValueException if nothing does
     */
    static @Nullable Object elements(@Nullable Object value) throws InexactValueException {
        return plain(value, false);
    }

    @SuppressWarnings("unchecked")
    private static @Nullable Object plain(@Nullable Object value, boolean document) throws InexactValueException {
        if (value == null || value instanceof Boolean || value instanceof Number || value instanceof CharSequence) {
            return value;
        }
        Optional<ApplicationJson> application = document ? ApplicationJson.of(value.getClass()) : Optional.empty();
        if (application.isPresent()) {
            return application.get().plain(value);
        }
        if (value instanceof Optional<?> optional) {
            return plain(optional.orElse(null), document);
        }
        if (value instanceof Map<?, ?> map) {
            Map<String, @Nullable Object> plain = new LinkedHashMap<>();
            for (Map.Entry<?, ?> entry : map.entrySet()) {
                plain.put(String.valueOf(plain(entry.getKey(), document)), plain(entry.getValue(), document));
            }
            return plain;
        }
        if (value instanceof Iterable<?> several && !Json.isTree(value.getClass())) {
            List<@Nullable Object> plain = new ArrayList<>();
            for (Object element : several) {
                plain.add(plain(element, document));
            }
            return plain;
        }
        if (value.getClass().isArray() && !(value instanceof byte[])) {
            List<@Nullable Object> plain = new ArrayList<>();
            for (int i = 0; i < Array.getLength(value); i++) {
                plain.add(plain(Array.get(value, i), document));
            }
            return plain;
        }
        if (isStructured(value.getClass())) {
            TypeShape<Object> shape = TypeShape.of((Class<Object>) value.getClass());
            Map<String, @Nullable Object> plain = new LinkedHashMap<>();
            for (Prop prop : shape.ownProperties()) {
                plain.put(prop.name(), plain(shape.read(value, prop), document));
            }
            return plain;
        }
        return value; // an enum, a time, a tree: what writes JSON knows them, or refuses
    }

    /**
     * Makes a value of the application of a plain value.
     *
     * @throws InexactValueException if it is no such value
     */
    public static @Nullable Object of(Type wanted, @Nullable Object plain) throws InexactValueException {
        return of(wanted, plain, true);
    }

    /**
     * Makes a value of the application of the list that a column of arrays holds.
     *
     * @throws InexactValueException if it is no such value
     */
    static @Nullable Object ofElements(Type wanted, @Nullable Object elements) throws InexactValueException {
        return of(wanted, elements, false);
    }

    private static @Nullable Object of(Type wanted, @Nullable Object plain, boolean document)
            throws InexactValueException {
        Type type = wanted instanceof WildcardType wildcard ? wildcard.getUpperBounds()[0] : wanted;
        if (type instanceof GenericArrayType array) {
            return array(array.getGenericComponentType(), plain, document);
        }
        Class<?> raw = raw(type);
        if (Json.isTree(raw)) {
            return Json.tree(raw, plain);
        }
        if (plain == null) {
            return raw == Optional.class ? Optional.empty() : null;
        }
        if (raw == Optional.class) {
            return Optional.ofNullable(of(argument(type, 0), plain, document));
        }
        if (raw == Object.class) {
            return natural(plain);
        }
        Optional<ApplicationJson> application = document ? ApplicationJson.of(raw) : Optional.empty();
        if (application.isPresent()) {
            return application.get().object(type, plain);
        }
        if (Map.class.isAssignableFrom(raw)) {
            return map(type, raw, plain, document);
        }
        if (raw.isArray() && raw != byte[].class) {
            return array(raw.getComponentType(), plain, document);
        }
        if (Collection.class.isAssignableFrom(raw) || raw == Iterable.class) {
            return collection(type, raw, plain, document);
        }
        return isStructured(raw) ? structured(raw, plain, document) : JavaValue.to(raw, plain);
    }

    private static Object map(Type type, Class<?> raw, Object plain, boolean document) throws InexactValueException {
        if (!(plain instanceof Map<?, ?> held)) {
            throw new InexactValueException(Text.of(plain) + " is not an object of JSON");
        }
        Map<@Nullable Object, @Nullable Object> map =
                raw.isAssignableFrom(LinkedHashMap.class) ? new LinkedHashMap<>() : new TreeMap<>();
        if (!raw.isInstance(map)) {
            throw new InexactValueException("a " + raw.getSimpleName() + " cannot be made");
        }
        for (Map.Entry<?, ?> entry : held.entrySet()) {
            map.put(of(argument(type, 0), entry.getKey(), document), of(argument(type, 1), entry.getValue(), document));
        }
        return map;
    }

    private static Object collection(Type type, Class<?> raw, Object plain, boolean document)
            throws InexactValueException {
        if (!(plain instanceof List<?> held)) {
            throw new InexactValueException(Text.of(plain) + " is not a list");
        }
        Collection<@Nullable Object> made;
        if (raw.isAssignableFrom(ArrayList.class)) {
            made = new ArrayList<>();
        } else if (raw.isAssignableFrom(LinkedHashSet.class)) {
            made = new LinkedHashSet<>();
        } else {
            made = new TreeSet<>();
        }
        if (!raw.isInstance(made)) {
            throw new InexactValueException("a " + raw.getSimpleName() + " cannot be made");
        }
        for (Object element : held) {
            made.add(of(argument(type, 0), element, document));
        }
        return made;
    }

    private static @Nullable Object array(Type component, @Nullable Object plain, boolean document)
            throws InexactValueException {
        if (plain == null) {
            return null;
        }
        if (!(plain instanceof List<?> held)) {
            throw new InexactValueException(Text.of(plain) + " is not a list");
        }
        Object array = Array.newInstance(raw(component), held.size());
        for (int i = 0; i < held.size(); i++) {
            Array.set(array, i, of(component, held.get(i), document));
        }
        return array;
    }

    @SuppressWarnings("unchecked")
    private static Object structured(Class<?> raw, Object plain, boolean document) throws InexactValueException {
        if (!(plain instanceof Map<?, ?> held)) {
            throw new InexactValueException(
                    Text.of(plain) + " is not an object of JSON, which a " + raw.getSimpleName() + " is written as");
        }
        TypeShape<Object> shape = TypeShape.of((Class<Object>) raw);
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (Prop prop : shape.ownProperties()) {
            Object value = of(prop.generic(), held.get(prop.name()), document);
            values.put(
                    prop.name(), value == null && prop.type().isPrimitive() ? ObjectMaking.zero(prop.type()) : value);
        }
        return shape.makeOfOwn(prop -> values.get(prop.name()));
    }

    /** What says nothing about its type is made of the classes that come nearest. */
    private static @Nullable Object natural(@Nullable Object plain) throws InexactValueException {
        if (plain instanceof Map<?, ?> map) {
            Map<String, @Nullable Object> made = new LinkedHashMap<>();
            for (Map.Entry<?, ?> entry : map.entrySet()) {
                made.put(String.valueOf(entry.getKey()), natural(entry.getValue()));
            }
            return made;
        }
        if (plain instanceof List<?> list) {
            List<@Nullable Object> made = new ArrayList<>();
            for (Object element : list) {
                made.add(natural(element));
            }
            return made;
        }
        if (!(plain instanceof BigDecimal number)) {
            return plain;
        }
        if (number.scale() > 0) {
            return number.doubleValue();
        }
        BigInteger whole = number.toBigInteger();
        boolean fits = whole.compareTo(LEAST_LONG) >= 0 && whole.compareTo(MOST_LONG) <= 0;
        if (!fits) {
            return whole;
        }
        long value = whole.longValue();
        return value == (int) value ? (Object) (int) value : (Object) value;
    }

    private static Type argument(Type type, int at) {
        return type instanceof ParameterizedType p && p.getActualTypeArguments().length > at
                ? p.getActualTypeArguments()[at]
                : Object.class;
    }

    static Class<?> raw(Type type) {
        if (type instanceof Class<?> c) {
            return c;
        }
        if (type instanceof ParameterizedType p && p.getRawType() instanceof Class<?> c) {
            return c;
        }
        return Object.class;
    }
}
