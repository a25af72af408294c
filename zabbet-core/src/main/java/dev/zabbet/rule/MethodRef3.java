package dev.zabbet.rule;

import java.io.Serializable;

/**
 * Names a method with three arguments, as in {@code StayRepository::book}.
 *
 * @param <R> the interface that the method belongs to
 * @param <A> the type of the method's first argument
 * @param <B> the type of the method's second argument
 * @param <C> the type of the method's third argument
 */
@FunctionalInterface
public interface MethodRef3<R, A, B, C> extends Serializable {
    /**
     * Stands for the method; it is never called.
     *
     * @param target the object whose method is called
     * @param a the first argument
     * @param b the second argument
     * @param c the third argument
     * @throws Throwable whatever the method throws
     */
    void call(R target, A a, B b, C c) throws Throwable;
}
