package dev.zabbet.rule;

import java.io.Serializable;

/**
 * Names a method with two arguments, as in {@code StayRepository::findByHutIdAndRoomNumber}.
 *
 * @param <R> the interface that the method belongs to
 * @param <A> the type of the method's first argument
 * @param <B> the type of the method's second argument
 */
@FunctionalInterface
public interface MethodRef2<R, A, B> extends Serializable {
    /**
     * Stands for the method; it is never called.
     *
     * @param target the object whose method is called
     * @param a the first argument
     * @param b the second argument
     * @throws Throwable whatever the method throws
     */
    void call(R target, A a, B b) throws Throwable;
}
