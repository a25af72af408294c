package dev.zabbet.internal.type;

import java.lang.reflect.Modifier;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicReference;

/**
 * How a persistence provider stores the objects of a class. Properties are named by their paths: {@code address.street}. What
 * is not said here follows from annotations and names.
 *
 * @param table the name of the class's own table
 * @param columns columns by properties
 * @param without properties that have no column in that table
 * @param readOnly properties that the provider reads and never writes: another writes their column
 * @param generated properties that the provider fills when it stores an object
 * @param conversions how properties are converted
 * @param fixed what columns hold for every object of the class: the value that tells subclasses apart
 * @param above where superclasses with tables of their own keep what the class has from them: columns by properties, by tables
 * @param subclass of an abstract class one of those of which objects are made
 * @param restriction the condition in SQL without which the provider does not find a row; empty if it finds all
 * @param deletion the statement that the provider runs in place of a DELETE; empty if it runs none
 */
public record EntityMapping(
        Optional<String> table,
        Map<String, String> columns,
        Set<String> without,
        Set<String> readOnly,
        Set<String> generated,
        Map<String, Conversion> conversions,
        Map<String, Object> fixed,
        Map<String, Map<String, String>> above,
        Optional<Class<?>> subclass,
        Optional<String> restriction,
        Optional<String> deletion) {

    private static final ClassValue<AtomicReference<EntityMapping>> KNOWN = new ClassValue<>() {
        @Override
        protected AtomicReference<EntityMapping> computeValue(Class<?> type) {
            return new AtomicReference<>();
        }
    };

    private static final ClassValue<Optional<EntityMapping>> ANNOTATED = new ClassValue<>() {
        @Override
        protected Optional<EntityMapping> computeValue(Class<?> type) {
            noteBelow(type);
            return AnnotatedEntity.mapping(type);
        }
    };
    private static final ClassValue<Set<Class<?>>> BELOW = new ClassValue<>() {
        @Override
        protected Set<Class<?>> computeValue(Class<?> type) {
            return ConcurrentHashMap.newKeySet();
        }
    };
    private static final ClassValue<Boolean> IS_ENTITY = new ClassValue<>() {
        @Override
        protected Boolean computeValue(Class<?> type) {
            return AnnotatedEntity.isEntity(type);
        }
    };

    /** Says how a class is stored, for all stages of this process: a provider's own answer is worth more than a guess. */
    public static void say(Class<?> type, EntityMapping mapping) {
        KNOWN.get(type).set(mapping);
        noteBelow(type);
        TypeShape.forget(type);
    }

    /** Finds how a class is stored: as a provider has said, or else as its annotations say; empty if it is no entity. */
    public static Optional<EntityMapping> of(Class<?> type) {
        EntityMapping known = KNOWN.get(type).get();
        return known != null ? Optional.of(known) : ANNOTATED.get(type);
    }

    /** Finds how a class is stored as far as its annotations say it. */
    public static Optional<EntityMapping> annotated(Class<?> type) {
        return ANNOTATED.get(type);
    }

    /** Tells whether objects of a class have rows of their own, be they made or only referred to. */
    public static boolean isEntity(Class<?> type) {
        return KNOWN.get(type).get() != null || IS_ENTITY.get(type);
    }

    private static void noteBelow(Class<?> type) {
        if (!isAbstract(type)) {
            for (Class<?> c = type.getSuperclass(); c != null && c != Object.class; c = c.getSuperclass()) {
                BELOW.get(c).add(type);
            }
        }
    }

    /** Returns the classes that objects of a class may be of: itself, and those below it that have been met by now. */
    public static List<Class<?>> variants(Class<?> type) {
        List<Class<?>> variants = new ArrayList<>(isAbstract(type) ? List.of() : List.of(type));
        BELOW.get(type).stream()
                .filter(below -> of(below).isPresent() && IS_ENTITY.get(below))
                .sorted(Comparator.comparing(Class::getName))
                .forEach(variants::add);
        return variants;
    }

    /** Returns the name of a property's column in the table of a superclass, behind that table's; empty if it is in none. */
    Optional<String> columnAbove(String property) {
        return above.entrySet().stream()
                .filter(table -> table.getValue().containsKey(property))
                .map(table -> table.getKey() + "." + table.getValue().get(property))
                .findFirst();
    }

    /** Returns a class itself, or of an abstract one a subclass that objects can be made of; empty if none is known. */
    public static Optional<Class<?>> concrete(Class<?> type) {
        return isAbstract(type)
                ? of(type).flatMap(EntityMapping::subclass)
                        .or(() -> variants(type).stream().findFirst())
                : Optional.of(type);
    }

    static boolean isAbstract(Class<?> type) {
        return type.isInterface() || Modifier.isAbstract(type.getModifiers());
    }
}
