package dev.zabbet.rule;

import java.io.Serializable;

/** Names a method with three arguments, as in {@code StayRepository::book}. */
@FunctionalInterface
public interface MethodRef3<R, A, B, C> extends Serializable {
    /** Stands for the method; it is never called. */
    void call(R target, A a, B b, C c) throws Throwable;
}
