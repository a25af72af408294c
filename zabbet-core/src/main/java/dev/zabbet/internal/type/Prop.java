package dev.zabbet.internal.type;

import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.util.Optional;

/**
 * A property of a type.
 *
 * @param name its name, for example {@code hutId}
 * @param type its class; for an {@link Optional} the class of what it may hold
 * @param optional whether it is declared as an {@link Optional}
 * @param nullable whether it may be without a value
 */
public record Prop(String name, Class<?> type, boolean optional, boolean nullable) {

    static Prop of(String name, Class<?> declared, Type generic, boolean marked) {
        if (declared == Optional.class
                && generic instanceof ParameterizedType p
                && p.getActualTypeArguments()[0] instanceof Class<?> inner) {
            return new Prop(name, inner, true, true);
        }
        return new Prop(name, declared, false, marked);
    }
}
