package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import java.util.stream.LongStream;
import java.util.stream.Stream;

/** Makes objects where there is no store. */
public final class StandAlone {
    private StandAlone() {}

    public static <T> Stream<T> stream(Recipe<T> factory) {
        if (factory.shape().isEmpty()) {
            throw new ZabbetException("A row of " + factory.table()
                    + " cannot be built without a schema; use stage.build(factory), or a factory for a type.");
        }
        return LongStream.iterate(1, n -> n + 1).mapToObj(ordinal -> new StandAloneObject<>(factory, ordinal).object());
    }
}
