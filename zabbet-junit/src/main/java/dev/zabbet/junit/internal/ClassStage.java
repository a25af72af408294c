package dev.zabbet.junit.internal;

import dev.zabbet.Stage;
import dev.zabbet.files.RowDocument;
import dev.zabbet.junit.Staged;
import dev.zabbet.seed.Seed;
import dev.zabbet.store.RewindPoint;
import java.util.Arrays;
import java.util.concurrent.Semaphore;
import org.jspecify.annotations.Nullable;

/**
 * The stage of a test class; one test at a time uses it, and finds it as the class set it up. Opened and called by what runs
 * the tests: {@link Staged} does it, or a {@link StageHost}.
 */
public final class ClassStage implements AutoCloseable {
    private final Stage stage;
    private final Semaphore turn = new Semaphore(1);
    private final @Nullable RewindPoint found;
    private final @Nullable RowDocument expected;
    private @Nullable RewindPoint start;
    private boolean closed;

    /**
     * @param shared whether the database outlives the class, and has to be left as it was found
     * @param load what is stored before the first test: files or resources; none if empty
     * @param expect the row document that has to hold after each test that did not fail; empty for none
     */
    ClassStage(Stage stage, boolean shared, String[] load, String expect) {
        this.expected = expect.isEmpty() ? null : RowDocument.read(expect);
        this.stage = stage;
        this.found = shared ? stage.mark() : null;
        if (load.length > 0) {
            try {
                stage.load(Seed.read(load[0], Arrays.copyOfRange(load, 1, load.length)));
            } catch (RuntimeException e) {
                close();
                throw e;
            }
        }
    }

    /**
     * Opens the stage that the annotation of a class asks for.
     *
     * @param testClass the class that carries {@link Staged}
     * @param hosted the database for a class that names none itself
     * @throws dev.zabbet.error.ZabbetException if it cannot be opened
     */
    public static ClassStage open(Class<?> testClass, Staged staged, HostedDatabase hosted) {
        return new StageOpening(testClass, staged, hosted).hold();
    }

    /** Returns the stage. */
    public Stage stage() {
        return stage;
    }

    /**
     * Notes how things are before a test; waits until no other test uses the stage.
     *
     * @throws InterruptedException if the thread is interrupted while it waits
     */
    public void beforeTest() throws InterruptedException {
        turn.acquire();
        try {
            start = stage.mark();
        } finally {
            if (start == null) {
                turn.release();
            }
        }
    }

    /**
     * Checks what has to hold after each test, {@link Staged#expect}, for one that has passed.
     *
     * @throws AssertionError if it does not hold
     */
    public void expect() {
        if (expected != null) {
            stage.expect(expected);
        }
    }

    /** Brings everything back to how it was before the test. Does nothing if no test has begun. */
    public void afterTest() {
        if (start == null) {
            return;
        }
        try {
            stage.rewind(start);
        } finally {
            start = null;
            turn.release();
        }
    }

    /** Closes the stage; a database that outlives the class is as the class found it. A second call does nothing. */
    @Override
    public void close() {
        if (closed) {
            return;
        }
        closed = true;
        try (stage) {
            if (found != null) {
                stage.rewind(found);
            }
        }
    }
}
