package dev.zabbet.type;

import java.io.Serializable;
import org.jspecify.annotations.Nullable;

/**
 * A property of a type, given as a method reference such as {@code Stay::nights} or {@code Guest::getEmail}. It is
 * serialisable because the name of the method is read from its serialised form; a lambda has no name and is refused.
 *
 * @param <T> the type that has the property
 * @param <V> the property's type
 */
@FunctionalInterface
public interface Property<T, V extends @Nullable Object> extends Serializable {

    /**
     * Reads the property.
     *
     * @param object the object that is read
     * @return the property's value; may be null
     */
    V of(T object);
}
