package dev.zabbet.rule;

import java.io.Serializable;

/**
 * Names a method with no argument, as in {@code StayRepository::findAll}.
 *
 * @param <R> the interface that the method belongs to
 */
@FunctionalInterface
public interface MethodRef0<R> extends Serializable {
    /**
     * Stands for the method; it is never called.
     *
     * @param target the object whose method is called
     * @throws Throwable whatever the method throws
     */
    void call(R target) throws Throwable;
}
