package dev.zabbet.rule;

import java.io.Serializable;

/** Names a method with one argument, as in {@code StayRepository::save}. */
@FunctionalInterface
public interface MethodRef1<R, A> extends Serializable {
    /** Stands for the method; it is never called. */
    void call(R target, A a) throws Throwable;
}
