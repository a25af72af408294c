package dev.zabbet.internal.type;

import java.lang.annotation.Annotation;
import java.lang.reflect.AnnotatedElement;
import java.lang.reflect.Field;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.stream.Stream;

/**
 * What happens to an entity before it is stored: its own methods under PrePersist and PreUpdate are called (Jakarta Persistence
 * 3.1, 3.6), and properties get the present time.
 *
 * @param beforeInsert methods to call before it is stored first
 * @param beforeUpdate methods to call before a change of it is stored
 * @param created properties that get the time when it is stored first
 * @param changed properties that get the time whenever it is stored
 */
public record Lifecycle(
        List<Method> beforeInsert, List<Method> beforeUpdate, Set<String> created, Set<String> changed) {
    private static final Set<String> CREATED = Set.of("CreationTimestamp", "CreatedDate");
    private static final Set<String> CHANGED = Set.of("UpdateTimestamp", "LastModifiedDate", "CurrentTimestamp");

    private static final ClassValue<Lifecycle> KNOWN = new ClassValue<>() {
        @Override
        protected Lifecycle computeValue(Class<?> type) {
            return read(type);
        }
    };

    /** Returns that of a class. */
    public static Lifecycle of(Class<?> type) {
        return KNOWN.get(type);
    }

    /** Tells whether nothing happens. */
    public boolean isEmpty() {
        return beforeInsert.isEmpty() && beforeUpdate.isEmpty() && created.isEmpty() && changed.isEmpty();
    }

    /** Calls methods of an object; what they throw is thrown. */
    public static void call(List<Method> methods, Object object) {
        for (Method method : methods) {
            try {
                method.invoke(object);
            } catch (InvocationTargetException e) {
                throw e.getCause() instanceof RuntimeException runtime
                        ? runtime
                        : new IllegalStateException(e.getCause());
            } catch (IllegalAccessException e) {
                throw new IllegalStateException(e);
            }
        }
    }

    private static Lifecycle read(Class<?> type) {
        List<Class<?>> classes = new ArrayList<>();
        for (Class<?> c = type; c != null && c != Object.class; c = c.getSuperclass()) {
            classes.add(0, c); // those of superclasses are called first
        }
        return new Lifecycle(
                methods(classes, "PrePersist"),
                methods(classes, "PreUpdate"),
                properties(classes, CREATED),
                properties(classes, CHANGED));
    }

    private static List<Method> methods(List<Class<?>> classes, String annotation) {
        return classes.stream()
                .flatMap(c -> Stream.of(c.getDeclaredMethods()))
                .filter(method -> method.getParameterCount() == 0 && Annotations.has(List.of(method), annotation))
                .peek(method -> method.setAccessible(true))
                .toList();
    }

    private static Set<String> properties(List<Class<?>> classes, Set<String> annotations) {
        return Set.copyOf(classes.stream()
                .flatMap(c -> Stream.of(c.getDeclaredFields()))
                .filter(field -> isUnder(field, annotations))
                .map(Field::getName)
                .distinct()
                .toList());
    }

    private static boolean isUnder(Field field, Set<String> annotations) {
        List<AnnotatedElement> places = PropertyReading.places(field);
        return places.stream()
                .flatMap(place -> Stream.of(place.getAnnotations()))
                .map(Annotation::annotationType)
                .anyMatch(kind -> annotations.contains(kind.getSimpleName()));
    }
}
