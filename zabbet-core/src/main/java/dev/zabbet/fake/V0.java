package dev.zabbet.fake;

import java.io.Serializable;

/** Names a method with no argument, as in {@code StayRepository::findAll}. */
@FunctionalInterface
public interface V0<R> extends Serializable {
    /** Stands for the method; it is never called. */
    void call(R target) throws Throwable;
}
