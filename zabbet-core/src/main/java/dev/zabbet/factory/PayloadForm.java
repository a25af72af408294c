package dev.zabbet.factory;

import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** How an application reads its objects from JSON: what {@code Stage.payload} follows where it is said. Thread-safe. */
public interface PayloadForm {
    /**
     * Returns the name that a property of an object has in JSON.
     *
     * @param type the type that the property belongs to
     * @param property the property's name in Java
     * @return empty if the application does not read it
     */
    Optional<String> name(Class<?> type, String property);

    /**
     * {@return the name in JSON of something that is no property}
     *
     * @param name as {@code hutId}
     */
    String name(String name);

    /**
     * {@return a value as JSON has it: text, a number, a boolean, null, a list or a map with text as keys}
     *
     * @param value the property's value; may be null
     */
    @Nullable
    Object value(@Nullable Object value);
}
