package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.type.Kind;
import java.lang.reflect.Array;
import java.lang.reflect.Constructor;
import java.lang.reflect.InvocationHandler;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.lang.reflect.Parameter;
import java.lang.reflect.Proxy;
import java.lang.reflect.Type;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.Iterator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Future;
import java.util.function.Function;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Gives rows in the form that a method returns. */
final class Answer {
    private final Signature signature;
    private final EntityType entity;
    private final boolean distinct;
    private final Phrase phrase;
    private final Function<Row, @Nullable Object> element;
    private final Map<Class<?>, Function<Row, @Nullable Object>> byType = new ConcurrentHashMap<>();
    private final int typeParameter; // that says at each call what the elements are; -1 for none
    private final Shape shape;

    /** Gives the elements found in the form wanted. */
    private interface Shape {
        @Nullable
        Object of(List<@Nullable Object> elements, Found found);
    }

    /** What else is known of a call: how many rows there are without the window, and the window. */
    record Found(long total, Window window, @Nullable Object[] arguments) {
        FakeSupport.Part part() {
            return new FakeSupport.Part(
                    total,
                    window.offset(),
                    window.limit() == Window.ALL ? Long.MAX_VALUE : window.limit(),
                    window.sortedBy(),
                    Arrays.asList(arguments));
        }
    }

    Answer(Signature signature, EntityType entity, Phrase phrase) throws UnknownMethodException {
        this.signature = signature;
        this.entity = entity;
        this.distinct = phrase.distinct();
        this.phrase = phrase;
        this.typeParameter = IntStream.range(0, signature.size())
                .filter(signature::isResultType)
                .findFirst()
                .orElse(-1);
        Type elementType = elementType(signature.result(), entity);
        this.element = element(elementType, phrase);
        this.shape = shape(signature.result(), phrase);
        Query.requireKnownSubject(phrase, entity, elementType);
    }

    @Nullable
    Object of(List<Row> rows, Found found) {
        List<@Nullable Object> elements = new ArrayList<>(rows.size());
        Function<Row, @Nullable Object> made = element(found.arguments());
        for (Row row : rows) {
            elements.add(made.apply(row));
        }
        return shape.of(distinct ? new ArrayList<>(new LinkedHashSet<>(elements)) : elements, found);
    }

    private Function<Row, @Nullable Object> element(@Nullable Object[] arguments) {
        if (typeParameter < 0 || !(arguments[typeParameter] instanceof Class<?> type)) {
            return element;
        }
        return byType.computeIfAbsent(type, t -> {
            try {
                return element(t, phrase);
            } catch (UnknownMethodException e) {
                throw new ZabbetException(
                        signature.describe() + " with " + t.getSimpleName() + ": " + e.getMessage() + ".", e);
            }
        });
    }

    private static boolean isContainer(Class<?> type) {
        return Iterable.class.isAssignableFrom(type)
                || Supports.part(type).isPresent()
                || type == Optional.class
                || type == Stream.class
                || type == Iterator.class
                || Future.class.isAssignableFrom(type)
                || type == CompletionStage.class
                || (type.isArray() && type != byte[].class)
                || type == Map.class;
    }

    private static Type elementType(Type type, EntityType entity) {
        Class<?> raw = Signature.raw(type);
        if (isContainer(raw)) {
            return elementType(Signature.element(type), entity);
        }
        if (isPage(raw) && type instanceof java.lang.reflect.ParameterizedType) {
            return elementType(Signature.element(type), entity);
        }
        if (isPage(raw) && raw != entity.type()) {
            return pageElement(raw, entity);
        }
        return type;
    }

    private static Type pageElement(Class<?> page, EntityType entity) {
        return Arrays.stream(pageConstructor(page).getGenericParameterTypes())
                .filter(t -> Iterable.class.isAssignableFrom(Signature.raw(t)))
                .map(t -> elementType(Signature.element(t), entity))
                .findFirst()
                .orElse(Object.class);
    }

    @SuppressWarnings("unchecked")
    private Function<Row, @Nullable Object> element(Type type, Phrase phrase) throws UnknownMethodException {
        Class<?> raw = Signature.raw(type);
        if (raw == entity.type() || (raw.isAssignableFrom(entity.type()) && raw != Object.class)) {
            return entity::object;
        }
        if (raw == Row.class) {
            return row -> row;
        }
        Optional<Phrase.Named> named = Phrase.named(Phrase.words(phrase.subject()), entity)
                .filter(of -> of.through().isEmpty());
        if (JavaValue.kindOf(raw) != Kind.OTHER) {
            Phrase.Named property = named.orElseThrow(() -> new UnknownMethodException(
                    "it returns " + raw.getSimpleName() + ", and its name does not name a property of "
                            + entity.type().getSimpleName()));
            Column column = entity.column(property.property());
            DocumentProperty inside = property.inside().orElse(null);
            return row -> {
                try {
                    return JavaValue.to(
                            raw, inside == null ? row.get(column.name()) : inside.read(inside.in(row, column)));
                } catch (InexactValueException e) {
                    throw new ZabbetException(signature.describe() + ": " + e.clause() + ".");
                }
            };
        }
        if (type == Object.class || type instanceof java.lang.reflect.TypeVariable<?>) {
            return entity::object;
        }
        if (raw.isRecord()) {
            return view(TypeShape.of((Class<Object>) raw));
        }
        if (raw.isInterface()) {
            return view(raw);
        }
        throw new UnknownMethodException("it returns " + raw.getSimpleName() + ", which is no "
                + entity.type().getSimpleName() + ", none of its properties and no record of them");
    }

    /** A record whose components are properties of the type. */
    private Function<Row, @Nullable Object> view(TypeShape<Object> view) throws UnknownMethodException {
        List<String> columns = new ArrayList<>();
        for (Prop prop : view.properties()) {
            Prop own = entity.property(prop.name())
                    .orElseThrow(() -> new UnknownMethodException(
                            "it returns " + view.type().getSimpleName() + ", whose " + prop.name()
                                    + " is no property of " + entity.type().getSimpleName()));
            columns.add(entity.column(own).name());
        }
        return row -> view.makeOf(columns.stream().map(row::get).toArray());
    }

    /** An interface whose methods read properties of the type. */
    private Function<Row, @Nullable Object> view(Class<?> face) throws UnknownMethodException {
        Map<String, Prop> readers = new HashMap<>();
        for (Method method : face.getMethods()) {
            if (method.isDefault() || Modifier.isStatic(method.getModifiers())) {
                continue;
            }
            String name = method.getName().replaceFirst("^(get|is)(?=[A-Z])", "");
            boolean worked = Stream.of(method.getAnnotations())
                    .anyMatch(a -> a.annotationType().getSimpleName().equals("Value"));
            Prop prop = worked || method.getParameterCount() > 0
                    ? null
                    : entity.property(name).orElse(null);
            if (prop == null) {
                throw new UnknownMethodException("it returns " + face.getSimpleName() + ", whose " + method.getName()
                        + (worked
                                ? " is worked out by an expression"
                                : " reads no property of " + entity.type().getSimpleName()));
            }
            readers.put(method.getName(), prop);
        }
        return row -> {
            Object object = entity.object(row);
            return Proxy.newProxyInstance(face.getClassLoader(), new Class<?>[] {face}, (proxy, method, arguments) -> {
                if (method.isDefault()) {
                    return InvocationHandler.invokeDefault(proxy, method, arguments);
                }
                Prop prop = readers.get(method.getName());
                if (prop != null) {
                    return entity.shape().read(object, prop);
                }
                return switch (method.getName()) {
                    case "equals" -> proxy == arguments[0];
                    case "hashCode" -> System.identityHashCode(proxy);
                    default -> face.getSimpleName() + " of " + row;
                };
            });
        };
    }

    @SuppressWarnings("FutureReturnValueIgnored") // the future is what the method returns
    private Shape shape(Type type, Phrase phrase) throws UnknownMethodException {
        Class<?> raw = Signature.raw(type);
        if (Future.class.isAssignableFrom(raw) || raw == CompletionStage.class) {
            if (!raw.isAssignableFrom(CompletableFuture.class)) {
                throw new UnknownMethodException(
                        "it returns " + raw.getSimpleName() + ", a future that cannot be made");
            }
            Shape inner = shape(Signature.element(type), phrase);
            return (elements, found) -> CompletableFuture.completedFuture(inner.of(elements, found));
        }
        if (raw == Optional.class) {
            return (elements, found) -> Optional.ofNullable(one(elements, phrase));
        }
        if (raw == Stream.class) {
            return (elements, found) -> elements.stream();
        }
        if (raw == Iterator.class) {
            return (elements, found) -> elements.iterator();
        }
        if (raw.isArray() && raw != byte[].class) {
            return (elements, found) -> {
                Object array = Array.newInstance(raw.getComponentType(), elements.size());
                for (int i = 0; i < elements.size(); i++) {
                    Array.set(array, i, elements.get(i));
                }
                return array;
            };
        }
        Optional<FakeSupport.PartForm> part = Supports.part(raw);
        if (part.isPresent()) {
            return (elements, found) -> part.get().of(elements, found.part());
        }
        if (Iterable.class.isAssignableFrom(raw)) {
            return collection(raw);
        }
        if (raw == Map.class) {
            return byKey();
        }
        return isPage(raw) && raw != entity.type() ? page(raw) : (elements, found) -> one(elements, phrase);
    }

    private Shape collection(Class<?> raw) throws UnknownMethodException {
        if (raw.isAssignableFrom(ArrayList.class)) {
            return (elements, found) -> new ArrayList<>(elements);
        }
        if (raw.isAssignableFrom(LinkedHashSet.class)) {
            return (elements, found) -> new LinkedHashSet<>(elements);
        }
        if (raw.isAssignableFrom(ArrayDeque.class)) {
            return (elements, found) -> new ArrayDeque<>(elements);
        }
        throw new UnknownMethodException("it returns " + raw.getSimpleName()
                + "; List, Set, Collection, Iterable, Stream, Iterator, Optional, arrays and futures are known");
    }

    /** A map of objects by their key. */
    private Shape byKey() throws UnknownMethodException {
        entity.requireKey();
        if (entity.key().size() != 1) {
            throw new UnknownMethodException("it returns a Map, and the key of "
                    + entity.table().name() + " has " + entity.key().size() + " columns");
        }
        Prop key = entity.key().get(0);
        return (elements, found) -> {
            Map<Object, Object> map = new java.util.LinkedHashMap<>();
            for (Object object : elements) {
                if (object != null) {
                    map.put(java.util.Objects.requireNonNull(entity.shape().read(object, key)), object);
                }
            }
            return map;
        };
    }

    private @Nullable Object one(List<@Nullable Object> elements, Phrase phrase) {
        if (elements.size() > 1 && phrase.most() != 1) {
            throw new ZabbetException(signature.describe() + " returns one "
                    + entity.type().getSimpleName() + ", and " + elements.size() + " were found.");
        }
        if (elements.isEmpty() && signature.resultClass().isPrimitive()) {
            throw new ZabbetException(
                    signature.describe() + " returns " + signature.resultClass().getSimpleName() + ", and no "
                            + entity.table().name() + " was found.");
        }
        return elements.isEmpty() ? null : elements.get(0);
    }

    /** An object that holds some rows and says how many there are: known by a collection and a number called total. */
    private static boolean isPage(Class<?> type) {
        return !type.isInterface()
                && !type.isArray()
                && !type.isPrimitive()
                && !type.getName().startsWith("java.")
                && type.getDeclaredConstructors().length == 1
                && Arrays.stream(pageConstructor(type).getParameters())
                                .filter(p -> Iterable.class.isAssignableFrom(p.getType()))
                                .count()
                        == 1
                && Arrays.stream(pageConstructor(type).getParameters())
                        .anyMatch(p -> pagePart(p).isPresent());
    }

    private static Constructor<?> pageConstructor(Class<?> type) {
        return type.getDeclaredConstructors()[0];
    }

    private static Optional<Function<Found, Object>> pagePart(Parameter parameter) {
        String name = parameter.getName().toLowerCase(Locale.ROOT);
        Class<?> type = JavaValue.boxed(parameter.getType());
        if (type == Boolean.class && (name.contains("more") || name.contains("next"))) {
            return Optional.of(found -> found.window().limit() != Window.ALL
                    && found.window().offset() + found.window().limit() < found.total());
        }
        if (JavaValue.kindOf(type) != Kind.INTEGER) {
            return Optional.empty();
        }
        Map<String, Function<Found, Long>> parts = new HashMap<>();
        for (String total : List.of("total", "totalelements", "totalcount", "totalrows", "totalitems", "count")) {
            parts.put(total, Found::total);
        }
        for (String size : List.of("size", "pagesize", "limit")) {
            parts.put(
                    size,
                    found -> found.window().limit() == Window.ALL
                            ? found.total()
                            : found.window().limit());
        }
        parts.put("offset", found -> found.window().offset());
        for (String page : List.of("page", "number", "pagenumber", "index")) {
            parts.put(
                    page,
                    found -> found.window().limit() == Window.ALL
                            ? 0
                            : found.window().offset()
                                    / Math.max(1, found.window().limit()));
        }
        for (String pages : List.of("pages", "totalpages", "pagecount")) {
            parts.put(
                    pages,
                    found -> found.window().limit() == Window.ALL
                            ? 1
                            : (found.total() + found.window().limit() - 1)
                                    / Math.max(1, found.window().limit()));
        }
        return Optional.ofNullable(parts.get(name))
                .map(part -> found -> java.util.Objects.requireNonNull(whole(type, part.apply(found))));
    }

    private static Object whole(Class<?> type, long number) {
        try {
            return java.util.Objects.requireNonNull(JavaValue.to(type, number));
        } catch (InexactValueException e) {
            throw new ZabbetException("A page says " + number + ": " + e.clause() + ".");
        }
    }

    private Shape page(Class<?> type) throws UnknownMethodException {
        Constructor<?> constructor = pageConstructor(type);
        List<Shape> parts = new ArrayList<>();
        for (Parameter parameter : constructor.getParameters()) {
            if (Iterable.class.isAssignableFrom(parameter.getType())) {
                parts.add(collection(parameter.getType()));
            } else {
                Function<Found, Object> part = pagePart(parameter)
                        .orElseThrow(() -> new UnknownMethodException("it returns " + type.getSimpleName() + ", whose "
                                + parameter.getName() + " says nothing that is known of a page"));
                parts.add((elements, found) -> part.apply(found));
            }
        }
        constructor.setAccessible(true);
        return (elements, found) -> {
            try {
                return constructor.newInstance(
                        parts.stream().map(part -> part.of(elements, found)).toArray());
            } catch (ReflectiveOperationException e) {
                throw new ZabbetException("A " + type.getSimpleName() + " cannot be made: " + e, e);
            }
        };
    }

    /** Returns the kinds of results that a method that changes rows may have. */
    static Set<Class<?>> counts() {
        return Set.of(int.class, long.class, Integer.class, Long.class);
    }

    static @Nullable Object count(Class<?> result, long number) {
        if (result == long.class || result == Long.class) {
            return (Object) number;
        }
        if (result == boolean.class || result == Boolean.class) {
            return (Object) (number > 0);
        }
        if (result == void.class || result == Void.class) {
            return null;
        }
        return (Object) Math.toIntExact(number);
    }
}
