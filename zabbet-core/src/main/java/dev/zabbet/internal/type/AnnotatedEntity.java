package dev.zabbet.internal.type;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import java.lang.annotation.Annotation;
import java.lang.reflect.AnnotatedElement;
import java.lang.reflect.Constructor;
import java.lang.reflect.Field;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Reads how a class is stored from the annotations of Jakarta Persistence 3.1, chapters 2 and 11, and from those of the same
 * kind that providers and Spring Data add.
 */
final class AnnotatedEntity {
    /** What is kept in other tables. */
    private static final List<String> ELSEWHERE =
            List.of("OneToMany", "ManyToMany", "ElementCollection", "Any", "ManyToAny");

    /** What the application's framework fills in, by the simple names of annotations. */
    private static final Set<String> FILLED_IN =
            Set.of("GeneratedValue", "CreatedDate", "LastModifiedDate", "CreatedBy", "LastModifiedBy");

    /** Annotations that stand on annotations by which a provider fills something in. */
    private static final Set<String> GENERATORS =
            Set.of("org.hibernate.annotations.IdGeneratorType", "org.hibernate.annotations.ValueGenerationType");

    private AnnotatedEntity() {}

    static boolean isEntity(Class<?> type) {
        return Annotations.has(List.of(type), "Entity");
    }

    static Optional<EntityMapping> mapping(Class<?> type) {
        boolean entity = isEntity(type);
        if (!entity && !Annotations.has(List.of(type), "Embeddable")) {
            return Optional.empty();
        }
        Set<String> without = new HashSet<>();
        Set<String> readOnly = new HashSet<>();
        Set<String> generated = new HashSet<>();
        Map<String, Conversion> conversions = new HashMap<>();
        Set<String> keys = new HashSet<>();
        boolean derived = false; // the key is that of a parent
        Class<?> root = rootOf(type);
        boolean joined = root != type && strategy(root).equals("JOINED");
        Map<String, Map<String, String>> above = new LinkedHashMap<>();
        Class<?> owner = type; // what a mapped superclass says is kept with the entity below it
        for (Class<?> c = type; c != null && c != Object.class; c = c.getSuperclass()) {
            owner = isEntity(c) ? c : owner;
            for (Field field : c.getDeclaredFields()) {
                if (Modifier.isStatic(field.getModifiers())) {
                    continue;
                }
                List<AnnotatedElement> places = PropertyReading.places(field);
                String name = field.getName();
                boolean key = Annotations.has(places, "Id") || Annotations.has(places, "EmbeddedId");
                if (key) {
                    keys.add(name);
                }
                derived |= Annotations.has(places, "MapsId")
                        && Annotations.text(places, "MapsId", "value").isEmpty();
                boolean ofParent = joined && owner != type && !key;
                boolean mapped =
                        Annotations.text(places, "OneToOne", "mappedBy").isPresent();
                boolean otherTable = Annotations.text(places, "Column", "table").isPresent();
                boolean formula = Annotations.named(places, "Formula").isPresent();
                if (ofParent || mapped || otherTable || formula || isElsewhere(places)) {
                    without.add(name);
                }
                if (ofParent && !mapped && !otherTable && !formula && !isElsewhere(places)) {
                    above.computeIfAbsent(tableOf(owner, root), table -> new LinkedHashMap<>())
                            .putAll(columns(field, places));
                }
                if (Stream.of("Column", "JoinColumn").anyMatch(kind -> Annotations.text(places, kind, "insertable")
                        .filter("false"::equals)
                        .isPresent())) {
                    readOnly.add(name);
                }
                if (isFilledIn(places)) {
                    generated.add(name);
                }
                Annotations.value(places, "Convert", "converter")
                        .filter(Class.class::isInstance)
                        .map(Class.class::cast)
                        .filter(converter -> Stream.of(converter.getMethods())
                                .anyMatch(m -> m.getName().equals("convertToDatabaseColumn")))
                        .ifPresent(converter -> conversions.put(name, converted(converter)));
            }
        }
        if (derived) {
            generated.addAll(keys);
        }
        return Optional.of(new EntityMapping(
                entity ? table(type, root) : Optional.empty(),
                Map.of(),
                without,
                readOnly,
                generated,
                conversions,
                entity ? fixed(type, root) : Map.of(),
                above,
                Optional.empty(),
                inherited(type, "SQLRestriction", "value").or(() -> inherited(type, "Where", "clause")),
                inherited(type, "SQLDelete", "sql")));
    }

    /** Returns an attribute of an annotation of Hibernate's on a class, or on the nearest one above it. */
    private static Optional<String> inherited(Class<?> type, String annotation, String attribute) {
        for (Class<?> c = type; c != null; c = c.getSuperclass()) {
            for (Annotation one : c.getAnnotations()) {
                if (one.annotationType().getName().equals("org.hibernate.annotations." + annotation)) {
                    return Optional.of(String.valueOf(Annotations.attributeOf(one, attribute)));
                }
            }
        }
        return Optional.empty();
    }

    private static boolean isElsewhere(List<AnnotatedElement> places) {
        return ELSEWHERE.stream()
                .anyMatch(kind -> Annotations.named(places, kind).isPresent());
    }

    private static String tableOf(Class<?> entity, Class<?> root) {
        return table(entity, root).orElseGet(() -> Words.snakeCase(entity.getSimpleName()));
    }

    /** Returns the columns of a property, or of those of an embedded one, by their names. */
    private static Map<String, String> columns(Field field, List<AnnotatedElement> places) {
        String name = field.getName();
        if (Annotations.has(places, "Embedded") || Annotations.has(List.of(field.getType()), "Embeddable")) {
            Map<String, String> columns = new LinkedHashMap<>();
            Map<String, String> overridden = PropertyReading.overridden(places);
            for (Field inner : field.getType().getDeclaredFields()) {
                if (!Modifier.isStatic(inner.getModifiers()) && !Modifier.isTransient(inner.getModifiers())) {
                    columns.put(
                            name + "." + inner.getName(),
                            overridden.getOrDefault(inner.getName(), column(inner, PropertyReading.places(inner))));
                }
            }
            return columns;
        }
        return Map.of(name, column(field, places));
    }

    private static String column(Field field, List<AnnotatedElement> places) {
        return Annotations.text(places, "Column", "name")
                .or(() -> Annotations.text(places, "JoinColumn", "name"))
                .orElse(Words.snakeCase(field.getName()) + (isEntity(field.getType()) ? "_id" : ""));
    }

    /** Returns the topmost entity above a class that shares a hierarchy with it. */
    private static Class<?> rootOf(Class<?> type) {
        Class<?> root = type;
        for (Class<?> c = type.getSuperclass(); c != null; c = c.getSuperclass()) {
            if (isEntity(c)) {
                root = c;
            }
        }
        return root;
    }

    private static String strategy(Class<?> root) {
        return Annotations.text(List.of(root), "Inheritance", "strategy").orElse("SINGLE_TABLE");
    }

    private static Optional<String> table(Class<?> type, Class<?> root) {
        Class<?> of = root != type && strategy(root).equals("SINGLE_TABLE") ? root : type;
        return Annotations.text(List.of(of), "Table", "name")
                .or(() -> Annotations.text(List.of(of), "Entity", "name").map(Words::snakeCase))
                .or(() -> of == type ? Optional.empty() : Optional.of(Words.snakeCase(of.getSimpleName())))
                .map(name -> name.replaceAll("[`\"\\[\\]]", ""));
    }

    /** An object that is made is not one that has been deleted. */
    private static Map<String, Object> fixed(Class<?> type, Class<?> root) {
        Map<String, Object> fixed = new HashMap<>(discriminator(type, root));
        for (Annotation annotation : root.getAnnotations()) {
            if (annotation.annotationType().getName().equals("org.hibernate.annotations.SoftDelete")) {
                String strategy = String.valueOf(Annotations.attributeOf(annotation, "strategy"));
                String column = String.valueOf(Annotations.attributeOf(annotation, "columnName"));
                boolean active = strategy.equals("ACTIVE");
                if (active || strategy.equals("DELETED")) {
                    String usual = active ? "active" : "deleted";
                    fixed.put(column.isEmpty() ? usual : column, active);
                }
            }
        }
        return fixed;
    }

    private static Map<String, Object> discriminator(Class<?> type, Class<?> root) {
        boolean alone =
                root == type && Annotations.all(List.of(root), "Inheritance").isEmpty();
        if (alone || !strategy(root).equals("SINGLE_TABLE") || EntityMapping.isAbstract(type)) {
            return Map.of();
        }
        String column =
                Annotations.text(List.of(root), "DiscriminatorColumn", "name").orElse("dtype");
        String value = Annotations.text(List.of(type), "DiscriminatorValue", "value")
                .or(() -> Annotations.text(List.of(type), "Entity", "name"))
                .orElse(type.getSimpleName());
        return Map.of(column, value);
    }

    private static boolean isFilledIn(List<AnnotatedElement> places) {
        return places.stream()
                .flatMap(place -> Stream.of(place.getAnnotations()))
                .map(Annotation::annotationType)
                .anyMatch(kind -> FILLED_IN.contains(kind.getSimpleName())
                        || Stream.of(kind.getAnnotations())
                                .anyMatch(on ->
                                        GENERATORS.contains(on.annotationType().getName())));
    }

    /** A converter of the application is a class with two methods, whose interface nobody needs here. */
    private static Conversion converted(Class<?> type) {
        try {
            Constructor<?> constructor = type.getDeclaredConstructor();
            constructor.setAccessible(true);
            Object converter = constructor.newInstance();
            Method to = method(type, "convertToDatabaseColumn");
            Method from = method(type, "convertToEntityAttribute");
            return new Conversion() {
                @Override
                public @Nullable Object toColumn(@Nullable Object value) {
                    return call(converter, to, value);
                }

                @Override
                public @Nullable Object toProperty(@Nullable Object stored) {
                    return call(converter, from, stored);
                }

                @Override
                public Class<?> columnType() {
                    return to.getReturnType();
                }
            };
        } catch (ReflectiveOperationException e) {
            throw new ZabbetException(
                    "The converter " + type.getName() + " cannot be made: it needs a constructor without parameters.",
                    e);
        }
    }

    private static Method method(Class<?> type, String name) {
        List<Method> all = new ArrayList<>(List.of(type.getMethods()));
        all.removeIf(m -> !m.getName().equals(name) || m.getParameterCount() != 1);
        Method method = all.stream().filter(m -> !m.isBridge()).findFirst().orElseGet(() -> all.get(0));
        method.setAccessible(true);
        return method;
    }

    private static @Nullable Object call(Object converter, Method method, @Nullable Object value) {
        try {
            Object given =
                    value == null ? null : dev.zabbet.internal.value.JavaValue.to(method.getParameterTypes()[0], value);
            return method.invoke(converter, given);
        } catch (ReflectiveOperationException | dev.zabbet.internal.value.InexactValueException e) {
            Throwable cause = e.getCause() == null ? e : e.getCause();
            throw new ZabbetException(
                    "The converter " + converter.getClass().getName() + " does not take "
                            + dev.zabbet.internal.value.Text.of(value) + ": " + cause
                            + "\nSay what the property is to hold: with(…) or invent(…).",
                    cause);
        }
    }
}
