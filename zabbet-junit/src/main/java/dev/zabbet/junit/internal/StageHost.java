package dev.zabbet.junit.internal;

import dev.zabbet.Stage;
import dev.zabbet.junit.Staged;
import org.junit.jupiter.api.extension.ExtensionContext;

/**
 * A framework that sets up a database for tests and runs callbacks of its own around them. A class that it hosts gets its
 * stage from it: it opens a {@link ClassStage}, and calls that at the right moments between its own callbacks. Found by
 * {@link java.util.ServiceLoader}; called on the threads of the tests.
 */
public interface StageHost {

    /** Tells whether a test class is run by this framework. */
    boolean hosts(Class<?> testClass);

    /**
     * Returns the stage of a test class; it is opened with the first call.
     *
     * @param testClass the class that carries {@link Staged}: the class of the test, or one around it
     * @throws dev.zabbet.error.ZabbetException if it cannot be opened
     */
    Stage stage(Class<?> testClass, ExtensionContext context);
}
