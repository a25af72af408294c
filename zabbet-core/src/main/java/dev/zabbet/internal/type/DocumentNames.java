package dev.zabbet.internal.type;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.ApplicationJson;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.type.Kind;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * Under which name a property stands in a document. Where the application's own {@code ObjectMapper} writes the class, two objects that
 * differ in that property alone are written, and the name is the one whose value differs.
 */
public final class DocumentNames {
    private final @Nullable ApplicationJson application;

    private DocumentNames(@Nullable ApplicationJson application) {
        this.application = application;
    }

    /** Returns the names in documents that objects of a class are written as, those of objects inside included. */
    public static DocumentNames within(Class<?> whole) {
        return new DocumentNames(ApplicationJson.of(whole).orElse(null));
    }

    /**
     * Returns the name of a property in the documents of a class.
     *
     * @throws ZabbetException if the mapper writes the property under no name, under several, or in a form that nobody else knows
     */
    public String of(Class<?> type, Prop prop) {
        if (application == null) {
            return prop.name();
        }
        Map<?, ?> one = document(type, prop, sample(prop, 1));
        Map<?, ?> other = document(type, prop, sample(prop, 2));
        Set<String> names = new TreeSet<>();
        for (Map<?, ?> each : List.of(one, other)) {
            for (Object name : each.keySet()) {
                boolean differs =
                        one.containsKey(name) != other.containsKey(name) || !Json.same(one.get(name), other.get(name));
                if (differs) {
                    names.add(name.toString());
                }
            }
        }
        if (names.size() != 1) {
            throw refusal(
                    type, prop, names.isEmpty() ? "under no name" : "under several names: " + String.join(", ", names));
        }
        String name = names.iterator().next();
        requireKnownForm(type, prop, one.get(name));
        return name;
    }

    /** Returns what stands in the documents of a class for a value of a property: constants of an enum have a form of their own. */
    public @Nullable Object written(Class<?> type, Prop prop, @Nullable Object value) {
        return value instanceof Enum<?> && application != null
                ? document(type, prop, value).get(of(type, prop))
                : value;
    }

    /** Returns the constant of an enum that stands in the documents of a class so; what is none is returned as it is. */
    public @Nullable Object read(Class<?> type, Prop prop, @Nullable Object written) {
        if (written == null || !prop.type().isEnum() || application == null) {
            return written;
        }
        for (Object constant : prop.type().getEnumConstants()) {
            if (Json.same(written(type, prop, constant), written)) {
                return constant;
            }
        }
        return written;
    }

    private static void requireKnownForm(Class<?> type, Prop prop, @Nullable Object written) {
        Kind kind = JavaValue.kindOf(prop.type());
        if (kind == Kind.OTHER || kind == Kind.ENUM || prop.type().isEnum()) {
            return;
        }
        if (!isUsual(sample(prop, 1), written)) {
            throw refusal(type, prop, "as " + Text.of(written) + ", which nothing can be compared with");
        }
    }

    private static boolean isUsual(@Nullable Object value, @Nullable Object written) {
        try {
            return Json.same(Json.read(Json.write(value)).orElseThrow().value(), written);
        } catch (InexactValueException e) {
            return false;
        }
    }

    private static ZabbetException refusal(Class<?> type, Prop prop, String how) {
        return new ZabbetException("The application's ObjectMapper writes " + type.getSimpleName() + "." + prop.name()
                + " " + how + ". Define methods that ask for it yourself: stage.define(…).");
    }

    @SuppressWarnings("unchecked")
    private Map<?, ?> document(Class<?> type, Prop said, @Nullable Object value) {
        try {
            Object made = TypeShape.of((Class<Object>) type)
                    .makeOfOwn(prop -> prop.name().equals(said.name()) ? value : sample(prop, 1));
            return Objects.requireNonNull(application).plain(made) instanceof Map<?, ?> document
                    ? document
                    : Map.of(); // no property has a name in it
        } catch (InexactValueException e) {
            throw untried(type, said, e.clause() + ".");
        } catch (ZabbetException e) {
            throw untried(type, said, String.valueOf(e.getMessage())); // a constructor that refuses what is tried
        }
    }

    private static ZabbetException untried(Class<?> type, Prop prop, String why) {
        return new ZabbetException("Under which name " + type.getSimpleName() + "." + prop.name()
                + " stands in documents cannot be tried: " + why
                + " Define methods that ask for it yourself: stage.define(…).");
    }

    private static @Nullable Object sample(Prop prop, int number) {
        Class<?> type = prop.type();
        if (type.isEnum()) {
            Object[] constants = type.getEnumConstants();
            return number <= constants.length ? constants[number - 1] : null;
        }
        if (JavaValue.kindOf(type) == Kind.OTHER) {
            return number == 1 ? madeOf(type) : null;
        }
        return Samples.sample(type, number);
    }

    private static @Nullable Object madeOf(Class<?> type) {
        try {
            return DocumentValue.isStructured(type)
                    ? Samples.sample(type, 1)
                    : DocumentValue.of(type, Map.class.isAssignableFrom(type) ? Map.of("a", 1) : List.of());
        } catch (InexactValueException | RuntimeException e) {
            return null; // both are null then, and no name differs
        }
    }
}
