package dev.zabbet.internal.type;

import java.lang.annotation.Annotation;
import java.lang.reflect.AnnotatedElement;
import java.lang.reflect.Field;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * A property of an entity by which it belongs together with other rows (Jakarta Persistence 3.1, 2.10 and 2.6): as its
 * annotations say it, without what follows from the tables.
 *
 * @param property its name
 * @param kind where the other rows are
 * @param target the class of the objects, or of the elements of the collection
 * @param mappedBy the property of the target that says the same from there; empty if this one says it
 * @param table the name of the table between or of the elements; empty if it follows from other names
 * @param columns the names of columns that refer to this entity; empty if they follow
 * @param otherColumns the names of columns that refer to the target, or hold an element; empty if they follow
 * @param cascades what is passed on to the others: PERSIST, MERGE, REMOVE; ALL stands for each of them
 * @param orphanRemoval whether what is taken out is deleted
 * @param isKey whether the key of what this entity refers to is its own, or a part of it
 */
public record Association(
        String property,
        Kind kind,
        Class<?> target,
        Optional<String> mappedBy,
        Optional<String> table,
        List<String> columns,
        List<String> otherColumns,
        Set<String> cascades,
        boolean orphanRemoval,
        boolean isKey) {

    /** Where the rows are that an association leads to. */
    public enum Kind {
        /** A row that this one refers to. */
        PARENT,
        /** The one row that refers to this one. */
        CHILD,
        /** Rows that refer to this one. */
        CHILDREN,
        /** Rows that a table between refers to. */
        LINKED,
        /** Values in a table of their own. */
        ELEMENTS
    }

    private static final ClassValue<List<Association>> KNOWN = new ClassValue<>() {
        @Override
        protected List<Association> computeValue(Class<?> type) {
            return read(type);
        }
    };

    /** Returns the associations of a class, in the order of its fields; none if it is no entity. */
    public static List<Association> of(Class<?> type) {
        return KNOWN.get(type);
    }

    /** Tells whether something that is done to this entity is done to the others too. */
    public boolean passesOn(String what) {
        return cascades.contains("ALL") || cascades.contains(what);
    }

    private static List<Association> read(Class<?> type) {
        List<Association> all = new ArrayList<>();
        if (!EntityMapping.isEntity(type)) {
            return all;
        }
        for (Class<?> c = type; c != null && c != Object.class; c = c.getSuperclass()) {
            for (Field field : c.getDeclaredFields()) {
                List<AnnotatedElement> places = PropertyReading.places(field);
                Stream.of("ManyToOne", "OneToOne", "OneToMany", "ManyToMany", "ElementCollection")
                        .filter(annotation -> Annotations.has(places, annotation))
                        .findFirst()
                        .ifPresent(annotation -> all.add(read(field, places, annotation)));
            }
        }
        return List.copyOf(all);
    }

    private static Association read(Field field, List<AnnotatedElement> places, String annotation) {
        Optional<String> mappedBy = Annotations.text(places, annotation, "mappedBy");
        boolean joined = Annotations.has(places, "JoinColumn");
        boolean between = Annotations.has(places, "JoinTable");
        Kind kind =
                switch (annotation) {
                    case "ElementCollection" -> Kind.ELEMENTS;
                    case "ManyToMany" -> Kind.LINKED;
                    case "OneToMany" -> mappedBy.isPresent() || (joined && !between) ? Kind.CHILDREN : Kind.LINKED;
                    default -> mappedBy.isPresent() ? Kind.CHILD : Kind.PARENT;
                };
        List<String> columns = new ArrayList<>();
        List<String> others = new ArrayList<>();
        Optional<String> table = Optional.empty();
        if (kind == Kind.ELEMENTS) {
            table = Annotations.text(places, "CollectionTable", "name");
            Annotations.value(places, "CollectionTable", "joinColumns").ifPresent(of -> addNames(of, columns));
            Annotations.text(places, "Column", "name").ifPresent(others::add);
        } else {
            table = Annotations.text(places, "JoinTable", "name");
            Annotations.value(places, "JoinTable", "joinColumns").ifPresent(of -> addNames(of, columns));
            Annotations.value(places, "JoinTable", "inverseJoinColumns").ifPresent(of -> addNames(of, others));
            if (columns.isEmpty()) {
                Annotations.text(places, "JoinColumn", "name").ifPresent(columns::add);
            }
        }
        return new Association(
                field.getName(),
                kind,
                target(field),
                mappedBy,
                table,
                List.copyOf(columns),
                List.copyOf(others),
                cascades(places, annotation),
                Annotations.text(places, annotation, "orphanRemoval")
                        .filter("true"::equals)
                        .isPresent(),
                Annotations.has(places, "MapsId") || Annotations.has(places, "Id"));
    }

    private static void addNames(Object joinColumns, List<String> names) {
        for (Object one : (Object[]) joinColumns) {
            Object name = Annotations.attributeOf((Annotation) one, "name");
            if (name != null && !name.toString().isEmpty()) {
                names.add(name.toString());
            }
        }
    }

    private static Set<String> cascades(List<AnnotatedElement> places, String annotation) {
        Set<String> names = new HashSet<>();
        Annotations.value(places, annotation, "cascade")
                .ifPresent(of -> Stream.of((Object[]) of).forEach(one -> names.add(one.toString())));
        return Set.copyOf(names);
    }

    private static Class<?> target(Field field) {
        Type type = FieldTypes.of(field, field.getDeclaringClass());
        if (type instanceof ParameterizedType of && Collection.class.isAssignableFrom(DocumentValue.raw(type))) {
            return DocumentValue.raw(of.getActualTypeArguments()[0]);
        }
        @Nullable Class<?> raw = DocumentValue.raw(type);
        return raw;
    }
}
