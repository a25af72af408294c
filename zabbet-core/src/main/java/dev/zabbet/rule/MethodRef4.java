package dev.zabbet.rule;

import java.io.Serializable;

/**
 * Names a method with four arguments, as in {@code StayRepository::book}.
 *
 * @param <R> the interface that the method belongs to
 * @param <A> the type of the method's first argument
 * @param <B> the type of the method's second argument
 * @param <C> the type of the method's third argument
 * @param <D> the type of the method's fourth argument
 */
@FunctionalInterface
public interface MethodRef4<R, A, B, C, D> extends Serializable {
    /**
     * Stands for the method; it is never called.
     *
     * @param target the object whose method is called
     * @param a the first argument
     * @param b the second argument
     * @param c the third argument
     * @param d the fourth argument
     * @throws Throwable whatever the method throws
     */
    void call(R target, A a, B b, C c, D d) throws Throwable;
}
