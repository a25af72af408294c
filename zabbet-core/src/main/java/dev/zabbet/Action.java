package dev.zabbet;

/** Code under test that returns nothing. */
@FunctionalInterface
public interface Action {
    /** Runs the code; it may throw anything. */
    void run() throws Throwable;
}
