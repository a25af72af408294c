package dev.zabbet.internal.type;

import dev.zabbet.internal.value.Json;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * A property of a type. That of a value object inside it is named by its path: {@code address.street}.
 *
 * @param name its name, for example {@code hutId}
 * @param type its class; for an {@link Optional} the class of what it may hold
 * @param generic its type with what stands in angle brackets; for an {@link Optional} that of what it may hold
 * @param optional whether it is declared as an {@link Optional}
 * @param nullable whether it may be without a value
 * @param column the name of its column, if an annotation says one
 * @param key for an object that has a row of its own the property that is its key
 */
public record Prop(
        String name,
        Class<?> type,
        Type generic,
        boolean optional,
        boolean nullable,
        Optional<String> column,
        Optional<Prop> key) {

    /** Returns the property as one of an object that another object holds. */
    Prop inside(String owner) {
        return new Prop(owner + "." + name, type, generic, optional, nullable, column, key);
    }

    /** Returns the property as it is kept in another column. */
    Prop inColumn(Optional<String> other) {
        return new Prop(name, type, generic, optional, nullable, other, key);
    }

    /** Tells whether it leads to an object that has a row of its own. */
    public boolean isReference() {
        return key.isPresent();
    }

    /** Tells whether it is a collection of objects that have rows of their own. */
    public boolean isRelations() {
        return generic instanceof ParameterizedType of
                && Stream.of(of.getActualTypeArguments())
                        .anyMatch(held -> held instanceof Class<?> type && EntityMapping.isEntity(type));
    }

    /** Tells whether it is a collection of objects of a class. */
    public boolean holds(Class<?> element) {
        return generic instanceof ParameterizedType of
                && of.getActualTypeArguments().length == 1
                && of.getActualTypeArguments()[0] instanceof Class<?> held
                && held.isAssignableFrom(element);
    }

    /** Tells whether it can only be stored as a document: a map, a tree, or a collection of what has no row of its own. */
    public boolean isDocument() {
        if (Json.isTree(type) || Map.class.isAssignableFrom(type)) {
            return true;
        }
        Type element;
        if (generic instanceof ParameterizedType p && p.getActualTypeArguments().length == 1) {
            element = p.getActualTypeArguments()[0];
        } else if (type.isArray()) {
            element = type.getComponentType();
        } else {
            element = Object.class;
        }
        return DocumentValue.isCollection(type) && !PropertyReading.hasKey(DocumentValue.raw(element));
    }

    /** Returns the class of the value that is stored: for a reference that of the key. */
    public Class<?> storedType() {
        @Nullable Prop of = key.orElse(null);
        return of == null ? type : of.type();
    }
}
