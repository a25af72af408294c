package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.FutureTask;
import java.util.function.Consumer;

/**
 * Reads rows on a thread of its own while those before are looked at on the thread that asked for them. The reading
 * thread has ended when {@link #run} returns, and never is more than a few thousand rows ahead.
 */
final class ReadAhead {
    private static final int AT_ONCE = 512;
    private static final int AHEAD = 4;

    private final BlockingQueue<List<Row>> read = new ArrayBlockingQueue<>(AHEAD);
    private volatile boolean stopped;
    private List<Row> chunk = new ArrayList<>(AT_ONCE);

    private ReadAhead() {}

    /** Reads rows and hands them on. */
    @FunctionalInterface
    interface Reading {
        void into(Consumer<Row> reader) throws SQLException;
    }

    /** Says that nobody wants further rows. */
    private static final class Stopped extends RuntimeException {
        private static final long serialVersionUID = 1;
    }

    /**
     * Reads on another thread, and hands the rows to the reader on this one, in their order.
     *
     * @throws SQLException if reading fails; the rows before have been handed on
     */
    static void run(Reading reading, Consumer<Row> reader) throws SQLException {
        new ReadAhead().handOn(reading, reader);
    }

    private void handOn(Reading reading, Consumer<Row> reader) throws SQLException {
        FutureTask<Boolean> task = new FutureTask<>(() -> readAll(reading));
        Thread thread = new Thread(task, "zabbet-read-ahead");
        thread.setDaemon(true);
        thread.start();
        boolean interrupted = false;
        try {
            for (List<Row> rows = read.take(); !rows.isEmpty(); rows = read.take()) {
                rows.forEach(reader);
            }
        } catch (InterruptedException e) {
            interrupted = true;
        } finally {
            stopped = true;
            read.clear(); // a reader that waits for room goes on, and stops
            interrupted |= awaitEnd(thread);
        }
        if (interrupted) {
            Thread.currentThread().interrupt();
            throw new ZabbetException("Reading was interrupted.");
        }
        requireNoTrouble(task);
    }

    /** Waits, as the connection is in use until the other thread has ended; tells whether it was interrupted meanwhile. */
    private static boolean awaitEnd(Thread thread) {
        boolean interrupted = false;
        while (true) {
            try {
                thread.join();
                return interrupted;
            } catch (InterruptedException e) {
                interrupted = true;
            }
        }
    }

    private static void requireNoTrouble(FutureTask<Boolean> ended) throws SQLException {
        try {
            ended.get();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (ExecutionException e) {
            if (e.getCause() instanceof SQLException refused) {
                throw refused;
            }
            if (e.getCause() instanceof RuntimeException trouble) {
                throw trouble;
            }
            throw new IllegalStateException(e.getCause());
        }
    }

    private boolean readAll(Reading reading) throws SQLException, InterruptedException {
        try {
            reading.into(this::add);
            if (!chunk.isEmpty()) {
                put(chunk);
            }
        } catch (Stopped e) {
            return false;
        } finally {
            if (!stopped) {
                read.put(List.of());
            }
        }
        return true;
    }

    private void add(Row row) {
        chunk.add(row);
        if (chunk.size() == AT_ONCE) {
            put(chunk);
            chunk = new ArrayList<>(AT_ONCE);
        }
    }

    private void put(List<Row> rows) {
        try {
            if (!stopped) {
                read.put(rows);
            }
        } catch (InterruptedException e) {
            throw new Stopped();
        }
        if (stopped) {
            throw new Stopped();
        }
    }
}
