package dev.zabbet.rule;

import java.io.Serializable;

/**
 * Names a method with one argument, as in {@code StayRepository::save}.
 *
 * @param <R> the interface that the method belongs to
 * @param <A> the type of the method's first argument
 */
@FunctionalInterface
public interface MethodRef1<R, A> extends Serializable {
    /**
     * Stands for the method; it is never called.
     *
     * @param target the object whose method is called
     * @param a the first argument
     * @throws Throwable whatever the method throws
     */
    void call(R target, A a) throws Throwable;
}
