package dev.zabbet.rule;

import java.io.Serializable;

/** Names a method with five arguments, as in {@code StayRepository::book}. */
@FunctionalInterface
public interface MethodRef5<R, A, B, C, D, E> extends Serializable {
    /** Stands for the method; it is never called. */
    void call(R target, A a, B b, C c, D d, E e) throws Throwable;
}
