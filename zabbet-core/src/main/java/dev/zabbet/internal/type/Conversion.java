package dev.zabbet.internal.type;

import org.jspecify.annotations.Nullable;

/** How the value of a property is stored, where the column holds something else; null is given and taken as well. */
public interface Conversion {

    /** Returns what the column holds for a value of the property. */
    @Nullable
    Object toColumn(@Nullable Object value);

    /** Returns the property's value for what the column holds, in the one form that rows have it in. */
    @Nullable
    Object toProperty(@Nullable Object stored);

    /** Returns the class of what the column holds; Object if that is not known. */
    default Class<?> columnType() {
        return Object.class;
    }
}
