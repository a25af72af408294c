package dev.zabbet.jdbc.internal.siblings;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.connect.DriverDataSource;
import dev.zabbet.jdbc.internal.connect.JdbcUrl;
import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.locks.ReentrantLock;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Database files of SQLite and H2, and H2's databases in this process's memory. */
final class FileSiblings implements Siblings {
    private static final Pattern SQLITE = Pattern.compile("^(jdbc:sqlite:)(?:file:)?([^?]+?)(\\.\\w+)?(\\?.*)?$");
    private static final Pattern H2 = Pattern.compile("^(jdbc:h2:(?:file:|mem:)?)([^;]+)()(;.*)?$");
    private static final Set<String> IN_MEMORY = ConcurrentHashMap.newKeySet();
    private static final ReentrantLock HERE = new ReentrantLock();

    private final String user;
    private final String password;
    private final String scheme;
    private final String path;
    private final String extension;
    private final String options;
    private final boolean sqlite;
    private final boolean memory;
    private final @Nullable FileChannel guard;

    private FileSiblings(Matcher url, boolean sqlite, String user, String password) throws SQLException {
        this.user = user;
        this.password = password;
        this.sqlite = sqlite;
        scheme = url.group(1);
        path = url.group(2);
        extension = url.group(3) == null ? "" : url.group(3);
        memory = scheme.equals("jdbc:h2:mem:");
        String given = url.group(4) == null ? "" : url.group(4);
        options = memory && !given.contains("DB_CLOSE_DELAY") ? given + ";DB_CLOSE_DELAY=-1" : given;
        HERE.lock();
        try {
            guard = memory ? null : guard();
        } catch (SQLException e) {
            HERE.unlock();
            throw e;
        }
    }

    static FileSiblings beside(String url, String user, String password) throws SQLException {
        boolean sqlite = url.startsWith("jdbc:sqlite:");
        Matcher parts = (sqlite ? SQLITE : H2).matcher(url);
        if (!parts.matches()
                || parts.group(2).contains(":memory:")
                || parts.group(2).contains("mode=memory")
                || parts.group(2).matches("(tcp|ssl|zip):.*")) {
            throw new ZabbetException("To make databases beside it, the URL has to name a file"
                    + (sqlite ? "" : " or a database in memory") + "; it is " + JdbcUrl.shown(url) + ".");
        }
        return new FileSiblings(parts, sqlite, user, password);
    }

    /** Waits for other processes; the system takes the lock from a dead one. */
    private FileChannel guard() throws SQLException {
        Path file = Path.of(file(path) + ".zabbet-guard");
        try {
            if (!sqlite && file.getParent() != null) {
                Files.createDirectories(file.getParent()); // as H2 does, but not SQLite
            }
            FileChannel channel = FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.WRITE);
            var unused = channel.lock();
            return channel;
        } catch (IOException e) {
            throw new SQLException("The file " + file + " cannot be locked: " + e, e);
        }
    }

    private static String file(String name) {
        return name.startsWith("~") ? System.getProperty("user.home") + name.substring(1) : name;
    }

    private Path file(int number) {
        return Path.of(file(path) + "_" + number + (sqlite ? extension : ".mv.db"));
    }

    @Override
    public String url(int number) {
        return scheme + path + "_" + number + extension + options;
    }

    @Override
    public String name(int number) {
        String name = path + "_" + number + extension;
        return name.substring(Math.max(name.lastIndexOf('/'), name.lastIndexOf('\\')) + 1);
    }

    @Override
    public boolean exists(int number) {
        return memory ? IN_MEMORY.contains(url(number)) : Files.exists(file(number));
    }

    @Override
    public boolean copies() {
        return sqlite;
    }

    @Override
    public void create(int number) throws SQLException {
        if (memory) {
            IN_MEMORY.add(url(number));
        } else if (sqlite && number > 0) {
            try {
                Files.copy(file(0), file(number));
            } catch (IOException e) {
                throw new SQLException(file(number) + " cannot be made: " + e, e);
            }
        } // else the file is made by whoever connects first
    }

    @Override
    public void drop(int number) throws SQLException {
        if (memory) {
            IN_MEMORY.remove(url(number));
            try (Connection connection = new DriverDataSource(url(number), user, password).getConnection();
                    Statement statement = connection.createStatement()) {
                statement.execute("SHUTDOWN");
            }
            return;
        }
        try {
            Files.deleteIfExists(file(number));
            Files.deleteIfExists(Path.of(file(number) + "-journal"));
            Files.deleteIfExists(Path.of(file(number) + "-wal"));
            Files.deleteIfExists(Path.of(file(number) + "-shm"));
        } catch (IOException e) {
            throw new SQLException(file(number) + " cannot be deleted: " + e, e);
        }
    }

    @Override
    public void close() throws SQLException {
        try {
            if (guard != null) {
                guard.close();
            }
        } catch (IOException e) {
            throw new SQLException("The guard beside " + path + " cannot be released: " + e, e);
        } finally {
            HERE.unlock();
        }
    }
}
