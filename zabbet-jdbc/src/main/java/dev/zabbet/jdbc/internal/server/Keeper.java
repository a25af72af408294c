package dev.zabbet.jdbc.internal.server;

import java.io.IOException;
import java.io.Reader;
import java.io.Writer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import java.util.Properties;
import java.util.concurrent.TimeUnit;

/**
 * The process that a server belongs to: starts it, and stops it when nobody has used it for a while. It runs from a copy of this
 * one class, so that nothing but the JDK is needed, and no jar stays open.
 */
final class Keeper {
    /**
     * What is to be done: {@code start.0}, {@code start.1} … is the command that starts the server, or {@code adopted} the number
     * of the process of one whose keeper has died; {@code stop.0} … stops it; {@code idleSeconds}, {@code port}.
     */
    static final String ORDERS = "orders.properties";

    /** What runs: {@code port}, {@code server} and {@code keeper} by the numbers of their processes. */
    static final String RUNNING = "running.properties";

    /** Held by whoever starts or stops the server. */
    static final String LOCK = "lock";

    /** Shared by all who use the server. */
    static final String USERS = "users";

    /** There if the server ended as it should. */
    static final String CLEAN = "clean";

    private final Path folder;
    private final Properties orders;
    private final ProcessHandle server;
    private boolean stopped;

    private Keeper(Path folder, Properties orders, ProcessHandle server) {
        this.folder = folder;
        this.orders = orders;
        this.server = server;
    }

    /**
     * Keeps one server until nobody uses it.
     *
     * @param arguments the server's folder
     */
    public static void main(String[] arguments) throws IOException, InterruptedException {
        Path folder = Path.of(arguments[0]);
        Properties orders = read(folder.resolve(ORDERS));
        Files.deleteIfExists(folder.resolve(CLEAN));
        Keeper keeper = new Keeper(folder, orders, server(folder, orders));
        Runtime.getRuntime().addShutdownHook(new Thread(keeper::stop));
        keeper.tell();
        keeper.watch();
        System.exit(0);
    }

    private static ProcessHandle server(Path folder, Properties orders) throws IOException {
        String running = orders.getProperty("adopted", "");
        if (!running.isEmpty()) {
            return ProcessHandle.of(Long.parseLong(running)).orElseThrow(() -> new IOException("the server has ended"));
        }
        return new ProcessBuilder(words(orders, "start"))
                .redirectErrorStream(true)
                .redirectOutput(folder.resolve("server.log").toFile())
                .start()
                .toHandle();
    }

    static Properties read(Path file) throws IOException {
        Properties properties = new Properties();
        try (Reader reader = Files.newBufferedReader(file)) {
            properties.load(reader);
        }
        return properties;
    }

    static void write(Path file, Properties properties) throws IOException {
        Path unfinished = file.resolveSibling(
                file.getFileName() + "." + ProcessHandle.current().pid());
        try (Writer writer = Files.newBufferedWriter(unfinished)) {
            properties.store(writer, null);
        }
        Files.move(unfinished, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    }

    private static List<String> words(Properties properties, String name) {
        List<String> words = new ArrayList<>();
        for (int i = 0; properties.containsKey(name + "." + i); i++) {
            words.add(properties.getProperty(name + "." + i));
        }
        return words;
    }

    private void tell() throws IOException {
        Properties running = new Properties();
        running.setProperty("port", orders.getProperty("port"));
        running.setProperty("server", String.valueOf(server.pid()));
        running.setProperty("keeper", String.valueOf(ProcessHandle.current().pid()));
        write(folder.resolve(RUNNING), running);
    }

    /** Looks every half second whether the server runs, and whether somebody uses it. */
    private void watch() throws IOException, InterruptedException {
        long idle = Long.parseLong(orders.getProperty("idleSeconds")) * 1000;
        long last = System.nanoTime();
        try (FileChannel users = open(USERS);
                FileChannel lock = open(LOCK)) {
            while (server.isAlive() && Files.isDirectory(folder)) {
                Thread.sleep(500);
                boolean inUse = isTaken(users);
                long now = System.nanoTime();
                if (inUse) {
                    last = now;
                } else if ((now - last) / 1_000_000 >= idle && stopUnlessUsed(lock, users)) {
                    return;
                }
            }
            Files.deleteIfExists(folder.resolve(RUNNING));
        }
    }

    private FileChannel open(String name) throws IOException {
        return FileChannel.open(folder.resolve(name), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
    }

    private static boolean isTaken(FileChannel file) throws IOException {
        try (FileLock lock = file.tryLock()) {
            return lock == null;
        }
    }

    /** Somebody may have come in the meantime: who does holds the lock. */
    private boolean stopUnlessUsed(FileChannel lockFile, FileChannel users) throws IOException {
        try (FileLock lock = lockFile.tryLock()) {
            if (lock == null || isTaken(users)) {
                return false;
            }
            stop();
            return true;
        }
    }

    private boolean hasEnded() throws InterruptedException {
        for (int i = 0; i < 200 && server.isAlive(); i++) {
            Thread.sleep(100);
        }
        return !server.isAlive();
    }

    private synchronized void stop() {
        if (stopped) {
            return;
        }
        stopped = true;
        try {
            Files.deleteIfExists(folder.resolve(RUNNING));
            List<String> command = words(orders, "stop");
            boolean running = server.isAlive();
            if (running && command.isEmpty()) {
                server.destroy();
            } else if (running) {
                new ProcessBuilder(command)
                        .redirectErrorStream(true)
                        .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                        .start()
                        .waitFor(20, TimeUnit.SECONDS);
            }
            if (running && hasEnded()) {
                Files.writeString(folder.resolve(CLEAN), "");
            }
        } catch (IOException e) {
            System.err.println("The server cannot be stopped as it should: " + e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } finally {
            server.destroyForcibly();
        }
    }
}
