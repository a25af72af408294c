package dev.zabbet.internal.type;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Text;
import dev.zabbet.type.Kind;
import java.lang.reflect.Field;
import java.lang.reflect.InvocationTargetException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Makes, copies and changes objects of a type. */
final class ObjectMaking<T> {
    private final TypeShape<T> shape;

    ObjectMaking(TypeShape<T> shape) {
        this.shape = shape;
    }

    T make(Function<Prop, @Nullable Object> values) {
        List<@Nullable Object> arguments = new ArrayList<>();
        for (TypeShape.Part part : shape.parts.values()) {
            arguments.add(argument(part, values));
        }
        return construct(arguments);
    }

    T makeOf(@Nullable Object[] values) {
        if (!shape.flat) {
            Map<String, @Nullable Object> byName = new LinkedHashMap<>();
            for (int i = 0; i < values.length; i++) {
                byName.put(shape.all.get(i).name(), values[i]);
            }
            return make(prop -> byName.get(prop.name()));
        }
        @Nullable Object[] arguments = new @Nullable Object[values.length];
        for (int i = 0; i < values.length; i++) {
            Object value = values[i];
            arguments[i] =
                    value != null && value.getClass() == shape.plain[i] ? value : fitted(shape.all.get(i), value);
        }
        return construct(arguments);
    }

    boolean isChangeable() {
        return shape.byFields;
    }

    void write(T object, Prop prop, @Nullable Object value) {
        TypeShape.Part part = Objects.requireNonNull(shape.parts.get(prop.name()));
        try {
            ((Field) part.reader()).set(object, fitted(prop, value));
        } catch (IllegalAccessException e) {
            throw new ZabbetException(
                    "Property " + prop.name() + " of " + shape.type.getName() + " cannot be written.", e);
        }
    }

    void writeWhole(T object, Prop prop, Object value) {
        try {
            ((Field) Objects.requireNonNull(shape.parts.get(prop.name())).reader()).set(object, value);
        } catch (IllegalAccessException e) {
            throw new ZabbetException(
                    "Property " + prop.name() + " of " + shape.type.getName() + " cannot be written.", e);
        }
    }

    T copy(T object) {
        List<@Nullable Object> arguments = new ArrayList<>();
        for (TypeShape.Part part : shape.parts.values()) {
            Object value = shape.read(object, part.prop());
            arguments.add(wrapped(part.prop(), value));
        }
        return construct(arguments);
    }

    T makeOfOwn(Function<Prop, @Nullable Object> values) {
        List<@Nullable Object> arguments = new ArrayList<>();
        for (TypeShape.Part part : shape.parts.values()) {
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

    private @Nullable Object argument(TypeShape.Part part, Function<Prop, @Nullable Object> values) {
        Prop prop = part.prop();
        if (shape.absent.contains(prop.name())) {
            return shape.byFields ? TypeShape.AS_IT_IS : unsaid(prop);
        }
        TypeShape<Object> inner = part.inner();
        if (inner != null) {
            Map<String, @Nullable Object> held = new LinkedHashMap<>();
            inner.properties()
                    .forEach(p -> held.put(
                            p.name(),
                            values.apply(Objects.requireNonNull(shape.properties.get(prop.name() + "." + p.name())))));
            boolean nothing = held.values().stream().allMatch(Objects::isNull);
            return wrapped(prop, nothing ? null : inner.make(p -> held.get(p.name())));
        }
        if (shape.isWhole(prop)) {
            return fitted(prop, values.apply(prop));
        }
        Conversion conversion = shape.conversions.get(prop.name());
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
        return TypeShape.of((Class<Object>) made).make(p -> {
            if (p.name().equals(key.name())) {
                return value;
            }
            if (p.type().isPrimitive()) {
                return zero(p.type());
            }
            return null;
        });
    }

    static Object zero(Class<?> type) {
        if (type == boolean.class) {
            return (Object) false;
        }
        if (type == char.class) {
            return (Object) "0";
        }
        return (Object) 0;
    }

    private T construct(List<@Nullable Object> arguments) {
        return construct(arguments.toArray());
    }

    private T construct(@Nullable Object[] arguments) {
        try {
            if (!shape.byFields) {
                return shape.constructor.newInstance(arguments);
            }
            T object = shape.constructor.newInstance();
            int at = 0;
            for (TypeShape.Part part : shape.parts.values()) {
                Object argument = arguments[at++];
                Field field = (Field) part.reader();
                if (argument != TypeShape.AS_IT_IS) {
                    field.set(object, argument);
                } else if (DocumentValue.isCollection(field.getType()) && field.get(object) == null) {
                    field.set(object, emptyCollection(field.getType()));
                }
            }
            return object;
        } catch (InvocationTargetException e) {
            throw new ZabbetException(
                    "The constructor of " + shape.type.getSimpleName() + " refused " + Arrays.toString(arguments) + ": "
                            + e.getCause(),
                    e.getCause());
        } catch (ReflectiveOperationException | IllegalArgumentException e) {
            throw new ZabbetException("An object of " + shape.type.getName() + " cannot be made: " + e, e);
        }
    }

    private @Nullable Object fitted(Prop prop, @Nullable Object value) {
        try {
            Object converted = shape.isWhole(prop) ? ofStored(prop, value) : JavaValue.to(prop.type(), value);
            if (prop.optional()) {
                return Optional.ofNullable(converted);
            }
            if (converted == null && prop.type().isPrimitive()) {
                throw new ZabbetException("Property " + prop.name() + " of " + shape.type.getSimpleName() + " is "
                        + prop.type() + " and cannot be null; give it a value or declare it as "
                        + JavaValue.boxed(prop.type()).getSimpleName() + ".");
            }
            return converted;
        } catch (InexactValueException e) {
            throw new ZabbetException("Property " + prop.name() + " of " + shape.type.getSimpleName() + " is "
                    + prop.type().getSimpleName() + ", and " + e.clause() + ".");
        }
    }

    private static @Nullable Object ofStored(Prop prop, @Nullable Object value) throws InexactValueException {
        if (value == null || prop.type().isInstance(value)) {
            return value;
        }
        if (!(value instanceof CharSequence text)) {
            return DocumentValue.ofElements(prop.generic(), value);
        }
        Json.Document document =
                Json.read(text.toString()).orElseThrow(() -> new InexactValueException(Text.of(text) + " is not JSON"));
        return DocumentValue.of(prop.generic(), document.value());
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
        if (Map.class.isAssignableFrom(type)) {
            return new LinkedHashMap<>();
        }
        if (type.isAssignableFrom(ArrayList.class)) {
            return new ArrayList<>();
        }
        return new java.util.LinkedHashSet<>();
    }
}
