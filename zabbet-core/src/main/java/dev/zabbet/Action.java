package dev.zabbet;

/** Code under test that returns nothing. */
@FunctionalInterface
public interface Action {
    /**
     * Runs the code; it may throw anything.
     *
     * @throws Throwable whatever the code throws
     */
    void run() throws Throwable;
}
