package dev.zabbet.serve.internal;

import java.time.Duration;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** Where stages come from: all on one database, in turns, or each on its own. Thread-safe. */
public final class StageOpener {
    private final Supplier<OpenedStage> opening;
    private final @Nullable Semaphore turns;

    private StageOpener(Supplier<OpenedStage> opening, @Nullable Semaphore turns) {
        this.opening = opening;
        this.turns = turns;
    }

    public static StageOpener one(Supplier<OpenedStage> opening) {
        return new StageOpener(opening, new Semaphore(1, true));
    }

    public static StageOpener many(Supplier<OpenedStage> opening) {
        return new StageOpener(opening, null);
    }

    /** Waits for a turn; {@link #done} has to be called afterwards. */
    void await(Duration patience) throws InterruptedException {
        if (turns != null && !turns.tryAcquire(patience.toMillis(), TimeUnit.MILLISECONDS)) {
            throw new Problem(
                    409,
                    "The database is in use",
                    "Another stage of this server holds the database and was not closed within " + patience.toSeconds()
                            + " seconds. Close it by DELETE /stages/{id}, or start the server with --script, so that each stage"
                            + " gets a database of its own.");
        }
    }

    OpenedStage open() {
        return opening.get();
    }

    void done() {
        if (turns != null) {
            turns.release();
        }
    }
}
