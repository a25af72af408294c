package dev.zabbet;

import org.jspecify.annotations.Nullable;

/**
 * Code under test that returns something.
 *
 * @param <V> what it returns
 */
@FunctionalInterface
public interface Work<V extends @Nullable Object> {
    /**
     * Runs the code; it may throw anything.
     *
     * @return what the application returns
     * @throws Throwable whatever the code throws
     */
    V run() throws Throwable;
}
