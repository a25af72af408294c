package dev.zabbet.factory;

import org.jspecify.annotations.Nullable;

/**
 * Objects of a factory that the application's own code stores, so that its rules and events apply. Immutable; made by {@link
 * Factory#through}, and given to {@code Stage.add}.
 *
 * @param <T> what the factory makes
 * @param <R> what the code returns
 */
public final class Through<T, R extends @Nullable Object> {
    private final Factory<T> factory;
    private final Storing<? super T, ? extends R> code;

    /**
     * The application's code.
     *
     * @param <T> what it is given
     * @param <R> what it returns
     */
    @FunctionalInterface
    public interface Storing<T, R extends @Nullable Object> {
        /**
         * Stores an object that has not been stored.
         *
         * @param object the object, not stored yet
         * @return what the application's code returns for it
         * @throws Throwable whatever the application throws
         */
        R store(T object) throws Throwable;
    }

    Through(Factory<T> factory, Storing<? super T, ? extends R> code) {
        this.factory = factory;
        this.code = code;
    }

    /** {@return the factory whose objects are stored} */
    public Factory<T> factory() {
        return factory;
    }

    /** {@return the code that stores them} */
    public Storing<? super T, ? extends R> code() {
        return code;
    }
}
