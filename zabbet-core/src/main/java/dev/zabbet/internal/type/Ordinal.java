package dev.zabbet.internal.type;

import dev.zabbet.error.ZabbetException;
import org.jspecify.annotations.Nullable;

/** Keeps an enum by the number of its constant, from 0. */
record Ordinal(Class<?> type) implements Conversion {

    @Override
    public @Nullable Object toColumn(@Nullable Object value) {
        return value instanceof Enum<?> constant ? (Object) constant.ordinal() : value;
    }

    @Override
    public Class<?> columnType() {
        return Integer.class;
    }

    @Override
    public @Nullable Object toProperty(@Nullable Object stored) {
        if (!(stored instanceof Number number)) {
            return stored;
        }
        Object[] constants = type.getEnumConstants();
        if (number.longValue() < 0 || number.longValue() >= constants.length) {
            throw new ZabbetException(type.getSimpleName() + " has no constant with the number " + number + "; it has "
                    + constants.length + ".");
        }
        return constants[number.intValue()];
    }
}
