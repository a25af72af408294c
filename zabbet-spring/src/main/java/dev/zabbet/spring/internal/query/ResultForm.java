package dev.zabbet.spring.internal.query;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.type.Kind;
import java.lang.reflect.Constructor;
import java.lang.reflect.GenericArrayType;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.springframework.util.ClassUtils;

/** What a method makes of each row that its query selects: a value, an object, an array, a view. */
final class ResultForm {
    private final List<Names.Item> items;
    private final Method method;
    private final @Nullable Constructor<?> made;
    private final Class<?> element;
    private final int typeParameter; // that says at each call what is made; -1 for none

    private ResultForm(
            List<Names.Item> items, Method method, @Nullable Constructor<?> made, Class<?> element, int typeParameter) {
        this.items = items;
        this.method = method;
        this.made = made;
        this.element = element;
        this.typeParameter = typeParameter;
    }

    /** @param made the class that the query makes objects of itself; null for none */
    static ResultForm of(List<Names.Item> items, @Nullable String made, Method method, Class<?> entity)
            throws UnsupportedQueryException {
        int typeParameter = List.of(method.getParameterTypes()).indexOf(Class.class);
        Type declared = element(method.getGenericReturnType());
        Class<?> element = declared instanceof Class<?> type ? type : Object.class;
        if (made != null) {
            return new ResultForm(items, method, constructor(named(made, entity), items.size()), element, -1);
        }
        if (typeParameter < 0) {
            requireViewable(element, items);
        }
        boolean constructed = items.size() > 1 && isOwn(element) && !EntityMapping.isEntity(element);
        return new ResultForm(
                items, method, constructed ? constructor(element, items.size()) : null, element, typeParameter);
    }

    /** Returns what stands innermost in angle brackets. */
    private static Type element(Type type) {
        if (type instanceof ParameterizedType of && !(of.getRawType() == Map.class)) {
            return element(of.getActualTypeArguments()[of.getActualTypeArguments().length - 1]);
        }
        if (type instanceof ParameterizedType of) {
            return of.getRawType();
        }
        return type instanceof GenericArrayType array ? element(array.getGenericComponentType()) : type;
    }

    private static Class<?> named(String name, Class<?> entity) throws UnsupportedQueryException {
        if (!ClassUtils.isPresent(name, entity.getClassLoader())) {
            throw new UnsupportedQueryException(name);
        }
        return ClassUtils.resolveClassName(name, entity.getClassLoader());
    }

    private static Constructor<?> constructor(Class<?> type, int parameters) throws UnsupportedQueryException {
        return Stream.of(type.getDeclaredConstructors())
                .filter(constructor -> constructor.getParameterCount() == parameters)
                .peek(constructor -> constructor.setAccessible(true))
                .findFirst()
                .orElseThrow(() -> new UnsupportedQueryException(type.getSimpleName()));
    }

    private static boolean isOwn(Class<?> type) {
        return !type.isPrimitive()
                && !type.isArray()
                && !type.isInterface()
                && !type.isEnum()
                && !type.getName().startsWith("java.");
    }

    private static boolean isView(Class<?> type) {
        return type.isInterface() && !type.getName().startsWith("java.");
    }

    /** Refuses an interface that has something that is not selected. */
    private static void requireViewable(Class<?> element, List<Names.Item> items) throws UnsupportedQueryException {
        if (!isView(element)) {
            return;
        }
        for (Method method : element.getMethods()) {
            boolean worked = Stream.of(method.getAnnotations())
                    .anyMatch(a -> a.annotationType().getSimpleName().equals("Value"));
            boolean read = method.isDefault() || Modifier.isStatic(method.getModifiers()) || items.size() == 1;
            boolean found =
                    read || items.stream().anyMatch(item -> Words.alike(item.name(), View.property(method.getName())));
            if (worked || !found) {
                throw new UnsupportedQueryException(element.getSimpleName() + "." + method.getName());
            }
        }
    }

    @Nullable
    Object of(List<@Nullable Object> row, Call call) {
        if (made != null) {
            return make(made, row);
        }
        Class<?> type = typeParameter >= 0 && call.argument(typeParameter) instanceof Class<?> given ? given : element;
        Object only = row.size() == 1 ? row.get(0) : null;
        if (row.size() == 1
                && (only == null || only instanceof Row || JavaValue.boxed(type).isInstance(only))) {
            return only;
        }
        if (isView(type)) {
            boolean whole = only != null && EntityMapping.isEntity(only.getClass());
            return View.of(type, whole ? name -> ObjectNames.read(only, name) : name -> labelled(row, name));
        }
        if (EntityMapping.isEntity(type)) {
            return row(row);
        }
        if (Map.class.isAssignableFrom(type)) {
            return row(row).asMap();
        }
        if (row.size() > 1) {
            return isOwn(type) ? makeOf(type, row) : row.toArray();
        }
        return JavaValue.kindOf(type) == Kind.OTHER ? only : converted(type, only);
    }

    private Row row(List<@Nullable Object> row) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (int i = 0; i < row.size(); i++) {
            values.put(items.get(i).name(), row.get(i));
        }
        return Row.of(values);
    }

    private @Nullable Object labelled(List<@Nullable Object> row, String name) {
        for (int i = 0; i < row.size(); i++) {
            if (row.size() == 1 || Words.alike(items.get(i).name(), name)) {
                return row.get(i);
            }
        }
        return null;
    }

    private @Nullable Object converted(Class<?> type, @Nullable Object value) {
        if (value == null || JavaValue.kindOf(type) == Kind.OTHER) {
            return value;
        }
        try {
            return JavaValue.to(type, value);
        } catch (InexactValueException e) {
            throw new ZabbetException(method.getName() + ": " + e.clause() + ".");
        }
    }

    private Object makeOf(Class<?> type, List<@Nullable Object> row) {
        try {
            return make(constructor(type, row.size()), row);
        } catch (UnsupportedQueryException e) {
            throw new ZabbetException(method.getName() + " selects " + row.size() + " values, and "
                    + type.getSimpleName() + " has no constructor for as many.");
        }
    }

    private Object make(Constructor<?> constructor, List<@Nullable Object> row) {
        List<@Nullable Object> arguments = new ArrayList<>();
        for (int i = 0; i < row.size(); i++) {
            arguments.add(converted(constructor.getParameterTypes()[i], row.get(i)));
        }
        try {
            return constructor.newInstance(arguments.toArray());
        } catch (InvocationTargetException e) {
            throw new ZabbetException(
                    method.getName() + ": " + constructor.getDeclaringClass().getSimpleName() + " refused " + arguments
                            + ": " + e.getCause(),
                    e.getCause());
        } catch (ReflectiveOperationException | IllegalArgumentException e) {
            throw new ZabbetException(
                    method.getName() + ": " + constructor.getDeclaringClass().getSimpleName() + " cannot be made of "
                            + arguments + ".",
                    e);
        }
    }
}
