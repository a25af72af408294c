package dev.zabbet.internal.type;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.internal.value.JavaValue;
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
import java.lang.reflect.RecordComponent;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * How objects of a type are read and made: a record by its components, a class with a constructor without parameters by
 * its fields, any other class by its only constructor, whose parameters are named like fields.
 */
public final class TypeShape<T> {
    private static final ClassValue<TypeShape<?>> SHAPES = new ClassValue<>() {
        @Override
        protected TypeShape<?> computeValue(Class<?> type) {
            return new TypeShape<>(type);
        }
    };

    private final Class<T> type;
    private final Map<String, Prop> properties = new LinkedHashMap<>();
    private final Map<String, Member> readers = new LinkedHashMap<>();
    private final Constructor<T> constructor;
    private final boolean byFields;

    private TypeShape(Class<T> type) {
        this.type = type;
        if (type.isInterface() || type.isPrimitive() || type.isEnum() || Modifier.isAbstract(type.getModifiers())) {
            throw new ZabbetException("Objects of " + type.getName()
                    + " cannot be made: it is no record and no class that has a constructor.");
        }
        this.constructor = type.isRecord() ? recordConstructor(type) : pickConstructor(type);
        this.byFields = !type.isRecord() && constructor.getParameterCount() == 0;
        if (type.isRecord()) {
            readRecord();
        } else {
            readFields();
        }
        open(constructor);
    }

    /** Returns the shape of a type; it is found out once for each class. */
    @SuppressWarnings("unchecked")
    public static <T> TypeShape<T> of(Class<T> type) {
        return (TypeShape<T>) SHAPES.get(type);
    }

    /** Returns the type. */
    public Class<T> type() {
        return type;
    }

    /** Returns the properties in the order of declaration. */
    public List<Prop> properties() {
        return List.copyOf(properties.values());
    }

    /**
     * Returns the property of this name.
     *
     * @throws UnknownNameException if there is none; it suggests the nearest
     */
    public Prop require(String name) {
        Prop prop = properties.get(name);
        if (prop == null) {
            throw new UnknownNameException("property of " + type.getSimpleName(), name, properties.keySet());
        }
        return prop;
    }

    /** Finds the property of this name. */
    public Optional<Prop> find(String name) {
        return Optional.ofNullable(properties.get(name));
    }

    /** Reads a property of an object; an empty {@link Optional} is read as null, a full one as what it holds. */
    public @Nullable Object read(T object, Prop prop) {
        try {
            Member reader = reader(prop);
            Object value = reader instanceof Field field
                    ? field.get(object)
                    : ((java.lang.reflect.Method) reader).invoke(object);
            return value instanceof Optional<?> optional ? optional.orElse(null) : value;
        } catch (IllegalAccessException | InvocationTargetException e) {
            throw new ZabbetException("Property " + prop.name() + " of " + type.getName() + " cannot be read.", e);
        }
    }

    /**
     * Makes an object.
     *
     * @param values gives the value of each property, in any form that converts exactly
     * @throws ZabbetException if a value does not fit its property or the constructor refuses the values
     */
    public T make(Function<Prop, @Nullable Object> values) {
        List<@Nullable Object> arguments = new ArrayList<>();
        for (Prop prop : properties.values()) {
            arguments.add(fitted(prop, values.apply(prop)));
        }
        try {
            if (!byFields) {
                return constructor.newInstance(arguments.toArray());
            }
            T object = constructor.newInstance();
            int at = 0;
            for (Prop prop : properties.values()) {
                ((Field) reader(prop)).set(object, arguments.get(at++));
            }
            return object;
        } catch (InvocationTargetException e) {
            throw new ZabbetException(
                    "The constructor of " + type.getSimpleName() + " refused " + arguments + ": " + e.getCause(),
                    e.getCause());
        } catch (ReflectiveOperationException e) {
            throw new ZabbetException("An object of " + type.getName() + " cannot be made: " + e, e);
        }
    }

    private Member reader(Prop prop) {
        return Objects.requireNonNull(readers.get(prop.name()));
    }

    private @Nullable Object fitted(Prop prop, @Nullable Object value) {
        try {
            Object converted = JavaValue.to(prop.type(), value);
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

    private void readRecord() {
        for (RecordComponent component : type.getRecordComponents()) {
            boolean marked = marked(component) || marked(component.getAnnotatedType());
            properties.put(
                    component.getName(),
                    Prop.of(component.getName(), component.getType(), component.getGenericType(), marked));
            readers.put(component.getName(), open(component.getAccessor()));
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
                if (!Modifier.isStatic(field.getModifiers()) && !field.isSynthetic()) {
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
            boolean marked = marked(field) || marked(field.getAnnotatedType());
            properties.put(name, Prop.of(name, field.getType(), field.getGenericType(), marked));
            readers.put(name, open(field));
        }
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
