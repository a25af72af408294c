package dev.zabbet.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import java.lang.reflect.Method;
import java.util.Arrays;
import org.jspecify.annotations.Nullable;

/** The arguments of a call, for a {@link Definition}. */
public final class CallArguments {
    private final Method method;
    private final @Nullable Object[] arguments;

    /**
     * Holds the arguments of a call.
     *
     * @param method the method, for messages
     * @param arguments copied
     */
    public CallArguments(Method method, @Nullable Object[] arguments) {
        this.method = method;
        this.arguments = arguments.clone();
    }

    /** {@return how many there are} */
    public int size() {
        return arguments.length;
    }

    /**
     * {@return an argument by its place, from 0}
     *
     * @param place which argument, from 0
     */
    public @Nullable Object get(int place) {
        requirePlace(place);
        return arguments[place];
    }

    /**
     * {@return an argument by its place, from 0, as a type}
     *
     * @param <T> the type of the value
     * @param place which argument, from 0
     * @param type the type of the value that is returned
     * @throws ZabbetException if it is null or no such value
     */
    public <T> T get(int place, Class<T> type) {
        requirePlace(place);
        Object value = arguments[place];
        try {
            Object converted = type.isInstance(value) ? value : JavaValue.to(type, value);
            if (converted != null) {
                return type.cast(converted);
            }
        } catch (InexactValueException e) {
            throw new ZabbetException("Argument " + (place + 1) + " of " + method.getName() + ": " + e.clause() + ".");
        }
        throw new ZabbetException("Argument " + (place + 1) + " of " + method.getName() + " is null.");
    }

    private void requirePlace(int place) {
        if (place < 0 || place >= arguments.length) {
            throw new IllegalArgumentException(method.getName() + " has " + arguments.length
                    + " arguments, from place 0; " + place + " was asked for.");
        }
    }

    @Override
    public String toString() {
        return Arrays.toString(arguments);
    }
}
