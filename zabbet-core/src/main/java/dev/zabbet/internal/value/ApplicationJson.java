package dev.zabbet.internal.value;

import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Type;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicReference;
import org.jspecify.annotations.Nullable;

/**
 * The application's own {@code ObjectMapper}, which writes and reads its classes in documents. It is known by its methods, so that
 * nobody needs the library.
 */
public final class ApplicationJson {
    private static final List<String> MAPPERS =
            List.of("com.fasterxml.jackson.databind.ObjectMapper", "tools.jackson.databind.ObjectMapper");
    private static final AtomicReference<@Nullable ApplicationJson> CURRENT = new AtomicReference<>();

    private final Object mapper;
    private final List<Class<?>> types;
    private final Method writing;
    private final Method typing;
    private final Method reading;

    private ApplicationJson(Object mapper, List<Class<?>> types) throws ReflectiveOperationException {
        this.mapper = mapper;
        this.types = types;
        writing = mapper.getClass().getMethod("writeValueAsString", Object.class);
        typing = mapper.getClass().getMethod("constructType", Type.class);
        reading = mapper.getClass().getMethod("readValue", String.class, typing.getReturnType());
    }

    /**
     * Has a mapper write and read classes of the application from now on, in place of the one before.
     *
     * @param types which; none for all
     * @throws InexactValueException if the mapper is none that is known
     */
    public static void use(Object mapper, List<Class<?>> types) throws InexactValueException {
        for (Class<?> c = mapper.getClass(); c != null; c = c.getSuperclass()) {
            if (MAPPERS.contains(c.getName())) {
                try {
                    CURRENT.set(new ApplicationJson(mapper, List.copyOf(types)));
                    return;
                } catch (ReflectiveOperationException e) {
                    throw new InexactValueException(c.getName() + " of this version lacks what is called: " + e);
                }
            }
        }
        throw new InexactValueException(mapper.getClass().getName() + " is no ObjectMapper of Jackson 2 or 3");
    }

    /** Forgets the mapper. */
    public static void forget() {
        CURRENT.set(null);
    }

    /**
     * Returns what writes and reads a class; empty if nobody said that something does, for classes of Java itself, and for those whose
     * form in a document is clear.
     */
    public static Optional<ApplicationJson> of(Class<?> type) {
        ApplicationJson current = CURRENT.get();
        return current != null && !isPlain(type) && current.writes(type) ? Optional.of(current) : Optional.empty();
    }

    private static boolean isPlain(Class<?> type) {
        return type.isPrimitive()
                || type.isArray()
                || type.getName().startsWith("java.")
                || Map.class.isAssignableFrom(type)
                || Iterable.class.isAssignableFrom(type)
                || CharSequence.class.isAssignableFrom(type)
                || Number.class.isAssignableFrom(type)
                || Json.isTree(type);
    }

    private boolean writes(Class<?> type) {
        return types.isEmpty() || types.stream().anyMatch(known -> known.isAssignableFrom(type));
    }

    /**
     * Returns an object as a document.
     *
     * @throws InexactValueException if the mapper refuses it
     */
    public @Nullable Object plain(Object value) throws InexactValueException {
        String text = String.valueOf(call(writing, "write a " + value.getClass().getSimpleName(), value));
        return Json.read(text)
                .orElseThrow(() -> new InexactValueException("the application's ObjectMapper writes "
                        + value.getClass().getSimpleName() + " as " + Text.of(text) + ", which is no JSON"))
                .value();
    }

    /**
     * Returns the object that a document stands for.
     *
     * @throws InexactValueException if the mapper refuses it
     */
    public @Nullable Object object(Type type, @Nullable Object plain) throws InexactValueException {
        String what = "read a " + (type instanceof Class<?> c ? c.getSimpleName() : type.getTypeName());
        return call(reading, what, Json.write(plain), call(typing, what, type));
    }

    private @Nullable Object call(Method method, String what, @Nullable Object... arguments)
            throws InexactValueException {
        try {
            return method.invoke(mapper, arguments);
        } catch (InvocationTargetException e) {
            String reason =
                    String.valueOf(e.getCause() == null ? e : e.getCause().getMessage());
            throw new InexactValueException("the application's ObjectMapper cannot " + what + ": "
                    + reason.lines().findFirst().orElse(""));
        } catch (IllegalAccessException e) {
            throw new InexactValueException("the application's ObjectMapper cannot be called: " + e.getMessage());
        }
    }
}
