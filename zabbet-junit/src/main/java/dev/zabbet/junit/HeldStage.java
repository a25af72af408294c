package dev.zabbet.junit;

import dev.zabbet.Stage;
import dev.zabbet.files.RowDocument;
import dev.zabbet.seed.Seed;
import dev.zabbet.store.RewindPoint;
import java.util.Arrays;
import java.util.concurrent.Semaphore;
import org.jspecify.annotations.Nullable;

/** The stage of a test class; one test at a time uses it, and finds it as the class set it up. */
final class HeldStage implements AutoCloseable {
    private final Stage stage;
    private final Semaphore turn = new Semaphore(1);
    private final @Nullable RewindPoint found;
    private final @Nullable RowDocument expected;
    private @Nullable RewindPoint start;

    /**
     * @param shared whether the database outlives the class, and has to be left as it was found
     * @param load what is stored before the first test: files or resources; none if empty
     * @param expect the row document that has to hold after each test that did not fail; empty for none
     */
    HeldStage(Stage stage, boolean shared, String[] load, String expect) {
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

    Stage stage() {
        return stage;
    }

    void beforeEach() throws InterruptedException {
        turn.acquire();
        start = stage.mark();
    }

    void afterEach(boolean passed) {
        try {
            if (passed && expected != null) {
                stage.expect(expected);
            }
        } finally {
            leave();
        }
    }

    private void leave() {
        try {
            if (start != null) {
                stage.rewind(start);
            }
        } finally {
            start = null;
            turn.release();
        }
    }

    @Override
    public void close() {
        try (stage) {
            if (found != null) {
                stage.rewind(found);
            }
        }
    }
}
