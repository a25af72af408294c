package dev.zabbet.rule;

import java.io.Serializable;

/** Names a method with two arguments, as in {@code StayRepository::findByHutIdAndRoomNumber}. */
@FunctionalInterface
public interface MethodRef2<R, A, B> extends Serializable {
    /** Stands for the method; it is never called. */
    void call(R target, A a, B b) throws Throwable;
}
