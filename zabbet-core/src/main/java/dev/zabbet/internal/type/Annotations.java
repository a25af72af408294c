package dev.zabbet.internal.type;

import java.lang.annotation.Annotation;
import java.lang.reflect.AnnotatedElement;
import java.lang.reflect.Method;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Reads the annotations of Jakarta Persistence by their names, so that nobody needs it. */
final class Annotations {
    private static final List<String> PACKAGES = List.of("jakarta.persistence.", "javax.persistence.");

    private Annotations() {}

    static boolean has(List<AnnotatedElement> places, String name) {
        return find(places, name).findAny().isPresent();
    }

    /** Returns the name of the class of an annotation that has this simple name, whatever library it is of. */
    static Optional<String> named(List<AnnotatedElement> places, String simpleName) {
        return places.stream()
                .flatMap(place -> Stream.of(place.getAnnotations()))
                .filter(a -> a.annotationType().getSimpleName().equals(simpleName))
                .map(a -> a.annotationType().getName())
                .findFirst();
    }

    /** Returns an attribute of an annotation, if it is there and not empty. */
    static Optional<String> text(List<AnnotatedElement> places, String name, String attribute) {
        return find(places, name)
                .map(annotation -> attribute(annotation, attribute))
                .filter(text -> !text.isEmpty())
                .findFirst();
    }

    /** Returns an attribute of an annotation as it is, if the annotation is there. */
    static Optional<Object> value(List<AnnotatedElement> places, String name, String attribute) {
        return find(places, name)
                .flatMap(annotation -> Stream.ofNullable(attributeOf(annotation, attribute)))
                .findFirst();
    }

    /** Returns all annotations of this name. */
    static List<Annotation> all(List<AnnotatedElement> places, String name) {
        return find(places, name).toList();
    }

    private static Stream<Annotation> find(List<AnnotatedElement> places, String name) {
        return places.stream()
                .flatMap(place -> Stream.of(place.getAnnotations()))
                .filter(a -> PACKAGES.stream()
                        .anyMatch(p -> a.annotationType().getName().equals(p + name)));
    }

    /** Returns an attribute of an annotation; null if it has none of this name. */
    static @Nullable Object attributeOf(Annotation annotation, String attribute) {
        try {
            return annotation.annotationType().getMethod(attribute).invoke(annotation);
        } catch (ReflectiveOperationException e) {
            return null;
        }
    }

    private static String attribute(Annotation annotation, String attribute) {
        try {
            Method method = annotation.annotationType().getMethod(attribute);
            return String.valueOf(method.invoke(annotation));
        } catch (ReflectiveOperationException e) {
            return "";
        }
    }
}
