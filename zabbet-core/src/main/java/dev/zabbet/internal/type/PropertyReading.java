package dev.zabbet.internal.type;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.type.Kind;
import java.lang.reflect.AnnotatedElement;
import java.lang.reflect.AnnotatedType;
import java.lang.reflect.Constructor;
import java.lang.reflect.Field;
import java.lang.reflect.RecordComponent;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;

/** What a member and its annotations say of a property, and which constructor makes objects of a type. */
public final class PropertyReading {
    private PropertyReading() {}

    /** Annotations stand on the field or on its getter. */
    static List<AnnotatedElement> places(Field field) {
        List<AnnotatedElement> places = new ArrayList<>(List.of(field));
        String name = Character.toUpperCase(field.getName().charAt(0))
                + field.getName().substring(1);
        for (String getter : List.of("get" + name, "is" + name)) {
            try {
                places.add(field.getDeclaringClass().getDeclaredMethod(getter));
            } catch (NoSuchMethodException e) {
                // most properties have one of the two, or none
            }
        }
        return places;
    }

    static boolean isSaidRequired(List<AnnotatedElement> places) {
        boolean refused = Stream.of("Column", "JoinColumn").anyMatch(kind -> Annotations.text(places, kind, "nullable")
                .filter("false"::equals)
                .isPresent());
        boolean demanded = Stream.of("Basic", "ManyToOne", "OneToOne")
                .anyMatch(kind -> Annotations.text(places, kind, "optional")
                        .filter("false"::equals)
                        .isPresent());
        boolean key =
                Stream.of("Id", "EmbeddedId", "MapsId", "Version").anyMatch(kind -> Annotations.has(places, kind));
        return refused
                || demanded
                || key
                || Stream.of("NotNull", "NonNull", "NotBlank", "NotEmpty")
                        .anyMatch(kind -> Annotations.named(places, kind).isPresent());
    }

    /** Of an entity, a property that nothing can be made for is left as it is; it does not spoil the rest. */
    static boolean isMakeable(Prop prop, boolean kept, Optional<Conversion> converted) {
        Class<?> type = prop.type();
        return kept
                || converted.isPresent()
                || prop.isReference()
                || JavaValue.kindOf(type) != Kind.OTHER
                || DocumentValue.isCollection(type)
                || Json.isTree(type)
                || (DocumentValue.isStructured(type) && hasOneWay(type));
    }

    private static boolean hasOneWay(Class<?> type) {
        try {
            return TypeShape.BEING_READ.get().contains(type) || TypeShape.of(type) != null;
        } catch (ZabbetException e) {
            return false;
        }
    }

    /** Returns the columns that an annotation of an embedded property says for the properties inside. */
    static Map<String, String> overridden(List<AnnotatedElement> places) {
        Map<String, String> columns = new HashMap<>();
        List<java.lang.annotation.Annotation> all = new ArrayList<>(Annotations.all(places, "AttributeOverride"));
        Annotations.value(places, "AttributeOverrides", "value")
                .filter(java.lang.annotation.Annotation[].class::isInstance)
                .ifPresent(several -> all.addAll(List.of((java.lang.annotation.Annotation[]) several)));
        for (java.lang.annotation.Annotation override : all) {
            Object column = Annotations.attributeOf(override, "column");
            String name = column instanceof java.lang.annotation.Annotation of
                    ? String.valueOf(Annotations.attributeOf(of, "name"))
                    : "";
            if (!name.isEmpty()) {
                columns.put(String.valueOf(Annotations.attributeOf(override, "name")), name);
            }
        }
        return columns;
    }

    /** Tells whether objects of a class have an id, and so a row of their own. */
    public static boolean hasKey(Class<?> type) {
        return EntityMapping.isEntity(type)
                || (DocumentValue.isStructured(type)
                        && ShapeReader.keyOf(type, List.of()).isPresent());
    }

    static boolean marked(AnnotatedElement element) {
        return Arrays.stream(element.getAnnotations())
                .anyMatch(a -> a.annotationType().getSimpleName().equals("Nullable"));
    }

    static boolean marked(AnnotatedType annotated) {
        return marked((AnnotatedElement) annotated);
    }

    static <T> Constructor<T> recordConstructor(Class<T> type) {
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
    static <T> Constructor<T> pickConstructor(Class<T> type) {
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
}
