package dev.zabbet.rule;

import java.io.Serializable;

/** Names a method with four arguments, as in {@code StayRepository::book}. */
@FunctionalInterface
public interface MethodRef4<R, A, B, C, D> extends Serializable {
    /** Stands for the method; it is never called. */
    void call(R target, A a, B b, C c, D d) throws Throwable;
}
