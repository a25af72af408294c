package dev.zabbet.factory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Text;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Whether a value fits the property that it is said for. */
final class PropertyFit {
    private PropertyFit() {}

    @SuppressWarnings({"unchecked", "NullAway", "TypeParameterUnusedInFormals"}) // the property says what it may be
    static <V extends @Nullable Object> V asProperty(Prop prop, @Nullable Object value) {
        try {
            return (V) JavaValue.to(prop.type(), value);
        } catch (InexactValueException e) {
            throw new ZabbetException("Property " + prop.name() + " cannot be read: " + e.clause() + ".");
        }
    }

    static @Nullable Object fitting(Class<?> type, Prop prop, @Nullable Object value) {
        if (value == null) {
            if (prop.type().isPrimitive()) {
                throw new ZabbetException("Property " + prop.name() + " of " + type.getSimpleName() + " is "
                        + prop.type() + " and cannot be null.");
            }
            return null;
        }
        try {
            if (prop.isReference()) {
                return value;
            }
            boolean textForOther = value instanceof CharSequence
                    && prop.type() != String.class
                    && !prop.type().isInstance(value);
            if (!textForOther) {
                return value instanceof Optional<?> ? value : JavaValue.to(prop.type(), value);
            }
            throw new ZabbetException("Property " + prop.name() + " of " + type.getSimpleName() + " is "
                    + prop.type().getSimpleName() + ", and " + Text.of(value) + " is text.");
        } catch (InexactValueException e) {
            throw new ZabbetException("Property " + prop.name() + " of " + type.getSimpleName() + " is "
                    + prop.type().getSimpleName() + ", and " + e.clause() + ".");
        }
    }

    static List<@Nullable Object> list(@Nullable Object first, @Nullable Object second, @Nullable Object[] rest) {
        List<@Nullable Object> values = new ArrayList<>();
        values.add(first);
        values.add(second);
        Collections.addAll(values, rest);
        return values;
    }
}
