package dev.zabbet;

import org.jspecify.annotations.Nullable;

/**
 * The footprint of an act that returned something.
 *
 * @param <V> what it returned
 */
public final class Acted<V extends @Nullable Object> extends Footprint {
    private final V value;

    Acted(Footprint footprint, V value) {
        super(footprint);
        this.value = value;
    }

    /** {@return what the act returned; null if it returned null} */
    public V value() {
        if (act != null) {
            act.valueAsked();
        }
        return value;
    }
}
