package dev.zabbet.rule;

import java.io.Serializable;

/** Names a method with no argument, as in {@code StayRepository::findAll}. */
@FunctionalInterface
public interface MethodRef0<R> extends Serializable {
    /** Stands for the method; it is never called. */
    void call(R target) throws Throwable;
}
