package dev.zabbet.jdbc;

import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.sql.SQLException;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** Keeps other processes from a database file by a lock on a file beside it, which the system takes from a dead process. */
final class FileLease {
    private static final Map<String, FileChannel> HELD = new ConcurrentHashMap<>();

    private FileLease() {}

    static boolean take(String database) throws SQLException {
        try {
            FileChannel channel = FileChannel.open(
                    Path.of(database + ".zabbet-lease"), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
            FileLock lock = channel.tryLock();
            if (lock == null) {
                channel.close();
                return false;
            }
            HELD.put(database, channel);
            return true;
        } catch (IOException e) {
            throw new SQLException("The lease beside " + database + " cannot be taken: " + e.getMessage(), e);
        }
    }

    static void release(String database) {
        FileChannel channel = HELD.remove(database);
        if (channel != null) {
            try {
                channel.close();
                java.nio.file.Files.deleteIfExists(Path.of(database + ".zabbet-lease"));
            } catch (IOException e) {
                System.getLogger("dev.zabbet.jdbc")
                        .log(System.Logger.Level.DEBUG, "The lease beside " + database + " stays.", e);
            }
        }
    }
}
