package dev.zabbet.jdbc.internal.server;

import dev.zabbet.error.ZabbetException;
import java.io.File;
import java.io.IOException;
import java.io.InputStream;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Properties;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * A server that runs, and stays for as long as this process lives: its {@link Keeper} stops it when no process has used it for
 * some minutes.
 *
 * @param folder where it lies
 * @param port the port on the loopback address that it listens at
 * @param password that of its administrator
 */
public record RunningServer(Path folder, Programs programs, int port, String password) {
    private static final int IDLE_SECONDS = 300;
    private static final int MOST_SECONDS = 120;

    /** The locks that tell keepers of this process's use; they go with the process. */
    private static final Map<Path, FileChannel> USED = new HashMap<>();

    /** Returns PostgreSQL, started if it does not run. */
    public static RunningServer postgres() {
        return require(new PostgresPrograms());
    }

    /** Returns MariaDB, started if it does not run. */
    public static RunningServer mariadb() {
        return require(new MariaDbPrograms());
    }

    /** Returns the JDBC URL of a database, with user and password. */
    public String url(String database) {
        return programs.url(port, database, password);
    }

    /** Returns the JDBC URL of the database that is there from the beginning. */
    public String url() {
        return url(programs.firstDatabase());
    }

    private static synchronized RunningServer require(Programs programs) {
        RunAs as = RunAs.here();
        Path cache = CacheFolder.require(as);
        Path home = home(programs, cache, as);
        List<String> settings = settings(programs);
        String name = home.getFileName() + (settings.isEmpty() ? "" : "-" + Integer.toHexString(settings.hashCode()));
        Path folder = cache.resolve("servers").resolve(name);
        try {
            Files.createDirectories(folder);
            try (FileChannel file = open(folder.resolve(Keeper.LOCK));
                    FileLock lock = lock(file, false, folder)) {
                Objects.requireNonNull(lock);
                RunningServer running = found(folder, programs).orElse(null);
                if (running == null) {
                    running = start(folder, home, programs, as, settings);
                }
                if (!USED.containsKey(folder)) {
                    FileChannel users = open(folder.resolve(Keeper.USERS));
                    lock(users, true, folder);
                    USED.put(folder, users);
                }
                return running;
            }
        } catch (IOException e) {
            throw new ZabbetException(
                    programs.name() + " cannot be run in " + folder + ": " + CacheFolder.reason(e), e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new ZabbetException("The start of " + programs.name() + " was interrupted.", e);
        }
    }

    /** What {@code -Dzabbet.postgres.settings} lists, with commas between them. */
    private static List<String> settings(Programs programs) {
        String said = System.getProperty("zabbet." + programs.word() + ".settings", "");
        List<String> settings = Stream.of(said.split(","))
                .map(String::strip)
                .filter(one -> !one.isEmpty())
                .toList();
        for (String setting : settings) {
            if (setting.indexOf('=') < 1) {
                throw new ZabbetException("zabbet." + programs.word() + ".settings has '" + setting
                        + "'; settings are written NAME=VALUE, with commas between them.");
            }
        }
        return settings;
    }

    private static FileChannel open(Path file) throws IOException {
        return FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE);
    }

    /** Waits for a lock that others hold for as long as a server takes to start. */
    private static @Nullable FileLock lock(FileChannel file, boolean shared, Path folder)
            throws IOException, InterruptedException {
        for (int i = 0; i < MOST_SECONDS * 50; i++) {
            try {
                FileLock lock = file.tryLock(0, Long.MAX_VALUE, shared);
                if (lock != null) {
                    return lock;
                }
            } catch (OverlappingFileLockException e) {
                if (shared) {
                    return null; // another class loader of this process has it, and that is enough
                }
            }
            Thread.sleep(20);
        }
        throw new ZabbetException("Another process has been starting the server in " + folder + " for " + MOST_SECONDS
                + " seconds. End it, or delete the folder.");
    }

    /** Returns the folder of the programs, unpacked if they are not yet; of a jar that has gone, the newest. */
    private static Path home(Programs programs, Path cache, RunAs as) {
        Platform platform = Platform.here();
        Path all = cache.resolve("programs");
        ServerJar jar = programs.find(platform).orElse(null);
        if (jar == null) {
            return newest(programs, all).orElseThrow(() -> new ZabbetException(missing(programs, platform)));
        }
        Path home = all.resolve(programs.word() + "-" + jar.version());
        try {
            Files.createDirectories(all);
            try (FileChannel file = open(all.resolve(Keeper.LOCK));
                    FileLock lock = lock(file, false, all)) {
                Objects.requireNonNull(lock);
                if (!Files.isDirectory(home)) {
                    unpack(programs, jar, home, as);
                }
            }
            return home;
        } catch (IOException e) {
            throw new ZabbetException(
                    programs.name() + " cannot be unpacked from " + jar.file() + " into " + home + ": "
                            + CacheFolder.reason(e),
                    e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new ZabbetException("Unpacking " + programs.name() + " was interrupted.", e);
        }
    }

    private static String missing(Programs programs, Platform platform) {
        return programs.coordinates(platform)
                .map(coordinates -> "No jar with " + programs.name() + " for " + platform
                        + " is on the class path. Add " + coordinates
                        + " as a test dependency, or name the jar: -Dzabbet.binaries=FILE.")
                .orElse("There is no jar with " + programs.name() + " for " + platform
                        + " that Zabbet knows of. Give the URL of a server instead.");
    }

    private static Optional<Path> newest(Programs programs, Path all) {
        if (!Files.isDirectory(all)) {
            return Optional.empty();
        }
        try (Stream<Path> folders = Files.list(all)) {
            return folders.filter(one -> one.getFileName().toString().startsWith(programs.word() + "-"))
                    .max(Comparator.comparing(one -> java.lang.module.ModuleDescriptor.Version.parse(one.getFileName()
                            .toString()
                            .substring(programs.word().length() + 1))));
        } catch (IOException e) {
            return Optional.empty();
        }
    }

    /** Half of it is never there under its name. */
    private static void unpack(Programs programs, ServerJar jar, Path home, RunAs as)
            throws IOException, InterruptedException {
        Path unfinished = home.resolveSibling("unfinished");
        CacheFolder.delete(unfinished);
        Files.createDirectories(unfinished);
        try {
            programs.unpack(jar, unfinished);
            if (as.isOther()) {
                new RunAs(null, List.of())
                        .run(home.resolveSibling("chmod.log"), "chmod", "-R", "a+rX", unfinished.toString());
            }
            Files.move(unfinished, home, StandardCopyOption.ATOMIC_MOVE);
        } finally {
            CacheFolder.delete(unfinished);
        }
    }

    /** Returns the server that runs in a folder; one whose keeper has died gets another. */
    private static Optional<RunningServer> found(Path folder, Programs programs)
            throws IOException, InterruptedException {
        Path running = folder.resolve(Keeper.RUNNING);
        if (!Files.isRegularFile(running)) {
            return Optional.empty();
        }
        Properties told = Keeper.read(running);
        int port = Integer.parseInt(told.getProperty("port"));
        if (!isAlive(told, "server", folder) || !answers(port)) {
            return Optional.empty();
        }
        if (!isAlive(told, "keeper", folder)) {
            Properties orders = Keeper.read(folder.resolve(Keeper.ORDERS));
            orders.setProperty("adopted", told.getProperty("server"));
            Keeper.write(folder.resolve(Keeper.ORDERS), orders);
            Files.delete(running);
            keep(folder, programs);
        }
        return Optional.of(new RunningServer(folder, programs, port, Files.readString(folder.resolve("password"))));
    }

    /** In a copy of the folder, or after a restart of the machine, the number may be that of another process. */
    private static boolean isAlive(Properties told, String process, Path folder) {
        return ProcessHandle.of(Long.parseLong(told.getProperty(process)))
                .filter(ProcessHandle::isAlive)
                .filter(alive -> alive.info()
                        .commandLine()
                        .map(line -> line.contains(folder + File.separator) || line.endsWith(folder.toString()))
                        .orElse(Platform.here().isWindows())) // where it is not told
                .isPresent();
    }

    private static boolean answers(int port) {
        try (Socket socket = new Socket()) {
            socket.connect(new InetSocketAddress(InetAddress.getLoopbackAddress(), port), 2000);
            return true;
        } catch (IOException e) {
            return false;
        }
    }

    private static RunningServer start(Path folder, Path home, Programs programs, RunAs as, List<String> settings)
            throws IOException, InterruptedException {
        Files.deleteIfExists(folder.resolve(Keeper.RUNNING));
        Path data = folder.resolve("data");
        String password = password(folder);
        IOException failure = null;
        for (int attempt = 0; attempt < 3; attempt++) { // another process may take the port in between
            int port = lastPort(folder);
            if (port == 0 || !Files.exists(folder.resolve(Keeper.CLEAN)) || !Files.isDirectory(data)) {
                port = freePort();
                begin(folder, home, data, programs, as, password);
                Files.writeString(folder.resolve("port"), String.valueOf(port));
            }
            order(folder, home, data, programs, as, settings, port);
            try {
                keep(folder, programs);
                awaitAnswer(folder, programs, port);
                return new RunningServer(folder, programs, port, password);
            } catch (IOException e) {
                failure = e;
                if (!String.valueOf(e.getMessage()).matches("(?si).*(in use|can't start server: bind).*")) {
                    break;
                }
            }
        }
        throw Objects.requireNonNull(failure);
    }

    private static void begin(Path folder, Path home, Path data, Programs programs, RunAs as, String password)
            throws IOException, InterruptedException {
        CacheFolder.delete(data);
        CacheFolder.delete(folder.resolve("used"));
        Files.createDirectories(data);
        as.give(data);
        try {
            programs.prepare(home, data, as, password);
        } catch (IOException e) {
            CacheFolder.delete(data);
            throw e;
        }
    }

    /** Marks of databases speak of the port too: at another one, what is there would be taken for somebody else's. */
    private static int lastPort(Path folder) throws IOException {
        Path file = folder.resolve("port");
        if (!Files.isRegularFile(file)) {
            return 0;
        }
        int port = Integer.parseInt(Files.readString(file));
        try (ServerSocket socket = new ServerSocket(port, 1, InetAddress.getLoopbackAddress())) {
            return socket.getLocalPort();
        } catch (IOException e) {
            return 0;
        }
    }

    private static String password(Path folder) throws IOException {
        Path file = folder.resolve("password");
        if (!Files.isRegularFile(file)) {
            byte[] some = new byte[12];
            new SecureRandom().nextBytes(some);
            Path made = Files.getFileStore(folder).supportsFileAttributeView("posix")
                    ? Files.createTempFile(
                            folder,
                            "password",
                            "",
                            PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")))
                    : Files.createTempFile(folder, "password", "");
            Files.writeString(made, HexFormat.of().formatHex(some));
            Files.move(made, file, StandardCopyOption.ATOMIC_MOVE);
        }
        return Files.readString(file);
    }

    private static int freePort() throws IOException {
        try (ServerSocket socket = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
            return socket.getLocalPort();
        }
    }

    private static void order(
            Path folder, Path home, Path data, Programs programs, RunAs as, List<String> settings, int port)
            throws IOException {
        Properties orders = new Properties();
        number(orders, "start", as.command(programs.start(home, data, port, settings)));
        List<String> stop = programs.stop(home, data);
        number(orders, "stop", stop.isEmpty() ? stop : as.command(stop));
        orders.setProperty("port", String.valueOf(port));
        orders.setProperty(
                "idleSeconds", String.valueOf(Integer.getInteger("zabbet.server.idleSeconds", IDLE_SECONDS)));
        Keeper.write(folder.resolve(Keeper.ORDERS), orders);
    }

    private static void number(Properties properties, String name, List<String> words) {
        for (int i = 0; i < words.size(); i++) {
            properties.setProperty(name + "." + i, words.get(i));
        }
    }

    /** Starts the process that keeps the server, and waits until it tells that it does. */
    private static void keep(Path folder, Programs programs) throws IOException, InterruptedException {
        Path classes = folder.resolve("keeper");
        String name = Keeper.class.getName().replace('.', '/') + ".class";
        Path copy = classes.resolve(name);
        Files.createDirectories(Objects.requireNonNull(copy.getParent()));
        try (InputStream own = Keeper.class.getClassLoader().getResourceAsStream(name)) {
            Files.copy(
                    Objects.requireNonNull(own, "Zabbet's own class Keeper"),
                    copy,
                    StandardCopyOption.REPLACE_EXISTING);
        }
        List<String> command = new ArrayList<>();
        if (Files.isExecutable(Path.of("/usr/bin/setsid"))) {
            command.add("/usr/bin/setsid"); // what interrupts the tests does not reach it
        }
        command.addAll(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-Xmx16m",
                "-XX:+UseSerialGC",
                "-XX:TieredStopAtLevel=1",
                "-cp",
                classes.toString(),
                Keeper.class.getName(),
                folder.toString()));
        ProcessBuilder builder = new ProcessBuilder(command)
                .directory(folder.toFile())
                .redirectErrorStream(true)
                .redirectInput(ProcessBuilder.Redirect.from(emptyFile(folder)))
                .redirectOutput(folder.resolve("keeper.log").toFile());
        List.of("JAVA_TOOL_OPTIONS", "JDK_JAVA_OPTIONS", "_JAVA_OPTIONS").forEach(builder.environment()::remove);
        Process keeper = builder.start();
        for (int i = 0; i < 1500; i++) {
            if (Files.isRegularFile(folder.resolve(Keeper.RUNNING))) {
                return;
            }
            if (!keeper.isAlive() && i > 50) {
                break;
            }
            Thread.sleep(10);
        }
        throw new IOException("it ends at once" + said(folder, programs));
    }

    private static java.io.File emptyFile(Path folder) throws IOException {
        Path empty = folder.resolve("empty");
        if (!Files.exists(empty)) {
            Files.writeString(empty, "");
        }
        return empty.toFile();
    }

    private static void awaitAnswer(Path folder, Programs programs, int port) throws IOException, InterruptedException {
        for (int i = 0; i < 3000; i++) {
            if (answers(port)) {
                return;
            }
            if (!Files.isRegularFile(folder.resolve(Keeper.RUNNING))) {
                break;
            }
            Thread.sleep(10);
        }
        throw new IOException("it does not answer" + said(folder, programs));
    }

    private static String said(Path folder, Programs programs) throws IOException {
        String said = Stream.of("keeper.log", "server.log", "data/" + programs.word() + ".log")
                .map(folder::resolve)
                .map(RunAs::end)
                .filter(end -> !end.isBlank())
                .collect(Collectors.joining("\n"));
        return said.isEmpty() ? "" : ". It said:\n" + said;
    }
}
