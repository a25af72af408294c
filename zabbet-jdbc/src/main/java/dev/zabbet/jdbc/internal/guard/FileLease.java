package dev.zabbet.jdbc.internal.guard;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.sql.SQLException;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ThreadLocalRandom;

/** Keeps other processes from a database file by a lock on a file beside it, which the system takes from a dead process. */
public final class FileLease {
    /** What is locked is no byte that the file has. */
    private static final long BEHIND_ALL = Long.MAX_VALUE - 1;

    private static final Map<String, FileChannel> HELD = new ConcurrentHashMap<>();

    private FileLease() {}

    public static boolean take(String database) throws SQLException {
        FileChannel held = HELD.get(database);
        if (held != null && held.isOpen()) {
            return true; // by this process: between its stages the list of those taken decides
        }
        try {
            Path file = file(database);
            FileChannel channel = FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.WRITE);
            try {
                if (channel.tryLock(BEHIND_ALL, 1, false) != null && isStill(file, channel)) {
                    HELD.put(database, channel);
                    return true;
                }
            } finally {
                if (HELD.get(database) != channel) {
                    channel.close();
                }
            }
            return false;
        } catch (IOException e) {
            throw new SQLException("The lease beside " + database + " cannot be taken: " + e.getMessage(), e);
        }
    }

    /**
     * Whoever held the lease before may have taken its file away after it was opened here: then the lock is worth nothing.
     * The file is told by its size, since a process that opens and closes it once more gives up its lock (POSIX, fcntl).
     */
    private static boolean isStill(Path file, FileChannel channel) throws IOException {
        int size = ThreadLocalRandom.current().nextInt(1, 1 << 16);
        channel.truncate(0).write(ByteBuffer.allocate(size));
        try {
            return Files.size(file) == size;
        } catch (NoSuchFileException e) {
            return false;
        }
    }

    /** The file beside the database; where that is on a server, one in the folder for temporary files. */
    private static Path file(String database) {
        try {
            Path beside = Path.of(database + ".zabbet-lease");
            Path folder = beside.getParent();
            if (folder == null || Files.isDirectory(folder)) {
                return beside;
            }
        } catch (InvalidPathException e) {
            // then it is no file of this machine
        }
        String name = "zabbet-" + UUID.nameUUIDFromBytes(database.getBytes(StandardCharsets.UTF_8)) + ".lease";
        return Path.of(System.getProperty("java.io.tmpdir"), name);
    }

    public static void release(String database) {
        FileChannel channel = HELD.remove(database);
        if (channel != null) {
            try (channel) {
                Files.deleteIfExists(file(database)); // while nobody else can have the lock
            } catch (IOException e) {
                System.getLogger("dev.zabbet.jdbc")
                        .log(System.Logger.Level.DEBUG, "The lease beside " + database + " stays.", e);
            }
        }
    }
}
