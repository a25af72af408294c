package dev.zabbet.cli;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.jdbc.LocalServer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The huts application, tested by Node's own test runner and in a browser, through {@code zabbet serve}; two workers. */
class FromAnyLanguageTest {
    private static final Path EXAMPLE = Path.of(System.getProperty("zabbet.repository.root"), "zabbet-examples/node");
    private static final String BROWSER =
            Optional.ofNullable(System.getenv("ZABBET_TEST_BROWSER")).orElse("/usr/bin/chromium");

    @TempDir
    Path folder = Path.of("");

    @ParameterizedTest
    @ValueSource(strings = {"H2", "POSTGRES"})
    void thirtyTestsInTwoWorkersHold(String engine) throws Exception {
        String url = "jdbc:h2:" + folder.resolve("huts") + ";AUTO_SERVER=TRUE";
        if (engine.equals("POSTGRES")) {
            String server = System.getenv("ZABBET_TEST_POSTGRES");
            assumeTrue(server != null && !server.isBlank(), "no PostgreSQL");
            url = LocalServer.jdbcUrl(server);
        }
        Path out = folder.resolve("out");
        ProcessBuilder tests = new ProcessBuilder(node(), "run.mjs", "--test-reporter=tap")
                .directory(EXAMPLE.toFile())
                .redirectErrorStream(true)
                .redirectOutput(out.toFile());
        tests.environment().put("ZABBET_DB", url);
        tests.environment().put("HUTS_JAR", System.getProperty("java.class.path"));
        tests.environment().put("BROWSER", BROWSER);
        tests.environment()
                .compute("PATH", (name, path) -> Path.of(System.getProperty("java.home"), "bin") + ":" + path);
        Process process = tests.start();
        boolean ended = process.waitFor(300, TimeUnit.SECONDS);
        process.destroy();
        String said = Files.readString(out);
        assertTrue(ended, said);
        assertEquals(0, process.exitValue(), said);
        boolean browser = Files.isExecutable(Path.of(BROWSER))
                && Files.isDirectory(EXAMPLE.resolve("node_modules").resolve("puppeteer-core"));
        assertTrue(browser || System.getenv("ZABBET_TEST_BROWSER") == null, "the browser is left out: " + said);
        assertTrue(said.contains("\n# pass " + (browser ? 30 : 24) + "\n# fail 0\n"), said);
        System.out.println(engine + ", from Node: " + said.replaceAll("(?s).*# duration_ms ", "") + " ms");
    }

    private static String node() throws Exception {
        String given = System.getenv("ZABBET_TEST_NODE");
        String node = given == null ? "/usr/bin/node" : given;
        assumeTrue(given != null || Files.isExecutable(Path.of(node)), "Node is not there");
        Process asked = new ProcessBuilder(node, "--version").start();
        String version = asked.inputReader().readLine();
        boolean fits = Integer.parseInt(version.replaceFirst("v(\\d+)\\..*", "$1")) >= 20;
        assertTrue(fits || given == null, "Node 20 is needed; it is " + version);
        assumeTrue(fits, "Node is " + version);
        return node;
    }

    /** With nothing but Python's standard library. */
    @Test
    void testsInPythonHold() throws Exception {
        String python = Optional.ofNullable(System.getenv("ZABBET_TEST_PYTHON")).orElse("/usr/bin/python3");
        boolean there = Files.isExecutable(Path.of(python));
        assertTrue(there || System.getenv("ZABBET_TEST_PYTHON") == null, python);
        assumeTrue(there, "Python is not there");
        String url = "jdbc:h2:" + folder.resolve("huts") + ";AUTO_SERVER=TRUE";
        Path script = Commands.EXAMPLES.resolve("db/huts.sql");
        Process serve =
                Commands.start(url, folder.resolve("serve.err"), "serve", "--json", "--script", script.toString());
        try {
            Map<?, ?> told = (Map<?, ?>)
                    Objects.requireNonNull(JsonTree.read(serve.inputReader().readLine()));
            ProcessBuilder tests = new ProcessBuilder(python, "-B", "-m", "unittest", "-v", "test_desk")
                    .directory(EXAMPLE.resolveSibling("python").toFile())
                    .redirectErrorStream(true);
            tests.environment().put("ZABBET_URL", (String) told.get("url"));
            tests.environment().put("ZABBET_TOKEN", (String) told.get("token"));
            tests.environment().put("HUTS_JAR", System.getProperty("java.class.path"));
            tests.environment()
                    .compute("PATH", (name, path) -> Path.of(System.getProperty("java.home"), "bin") + ":" + path);
            Process process = tests.start();
            String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
            assertEquals(0, process.waitFor(), said);
            assertTrue(said.contains("Ran 3 tests in"), said);
        } finally {
            serve.destroy();
            assertTrue(serve.waitFor(30, TimeUnit.SECONDS));
        }
    }
}
