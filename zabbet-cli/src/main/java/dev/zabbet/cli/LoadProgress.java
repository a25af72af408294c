package dev.zabbet.cli;

import dev.zabbet.store.Progress;
import java.io.PrintWriter;
import java.util.Locale;
import java.util.function.LongSupplier;

/**
 * Work that may take long: after two seconds a line on a terminal says how far it is, and if it is interrupted, that nothing
 * was stored: a transaction that was not committed is rolled back by the database.
 */
final class LoadProgress implements Progress, AutoCloseable {
    private static final long PATIENCE = 2_000; // milliseconds
    private static final long BETWEEN = 200;

    private final PrintWriter err;
    private final boolean terminal;
    private final LongSupplier milliseconds;
    private final long begun;
    private final Thread atInterrupt;
    private long shown;
    private volatile boolean done;

    /**
     * @param err where it is told
     * @param terminal whether that is a terminal
     * @param milliseconds the time
     */
    LoadProgress(PrintWriter err, boolean terminal, LongSupplier milliseconds) {
        this.err = err;
        this.terminal = terminal;
        this.milliseconds = milliseconds;
        this.begun = milliseconds.getAsLong();
        this.atInterrupt = new Thread(this::interrupted, "zabbet-interrupted");
        Runtime.getRuntime().addShutdownHook(atInterrupt);
    }

    static LoadProgress on(PrintWriter err) {
        return new LoadProgress(err, Terminal.isThere(), () -> System.nanoTime() / 1_000_000);
    }

    @Override
    public void at(String table, int rows, int of) {
        long now = milliseconds.getAsLong();
        if (terminal && now - begun >= PATIENCE && now - shown >= BETWEEN) {
            shown = now;
            err.print(String.format(
                    Locale.ROOT,
                    "\r\u001B[K%s: %,d of %,d rows (%d %%)",
                    table,
                    rows,
                    of,
                    100L * rows / Math.max(1, of)));
            err.flush();
        }
    }

    private void interrupted() {
        if (!done) {
            wipe();
            err.println("zabbet: interrupted before the end; nothing was stored.");
            err.flush();
        }
    }

    private void wipe() {
        if (shown > 0) {
            err.print("\r\u001B[K");
            err.flush();
        }
    }

    @Override
    public void close() {
        done = true;
        wipe();
        try {
            Runtime.getRuntime().removeShutdownHook(atInterrupt);
        } catch (IllegalStateException e) {
            // the process is ending already
        }
    }
}
