package dev.zabbet.factory;

import dev.zabbet.error.ZabbetException;
import java.util.stream.LongStream;
import java.util.stream.Stream;

/** Makes objects where there is no store. */
final class StandAlone {
    private StandAlone() {}

    static <T> Stream<T> stream(Factory<T> factory) {
        if (factory.shape().isEmpty()) {
            throw new ZabbetException("A row of " + factory.table()
                    + " cannot be built without a schema; use stage.build(factory), or a factory for a type.");
        }
        return LongStream.iterate(1, n -> n + 1).mapToObj(ordinal -> new Imagined<>(factory, ordinal).object());
    }
}
