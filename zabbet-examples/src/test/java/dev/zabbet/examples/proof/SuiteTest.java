package dev.zabbet.examples.proof;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.platform.engine.discovery.DiscoverySelectors.selectClass;

import com.fasterxml.jackson.databind.ObjectMapper;
import com.networknt.schema.JsonSchema;
import com.networknt.schema.JsonSchemaFactory;
import com.networknt.schema.SpecVersion;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.platform.engine.TestExecutionResult;
import org.junit.platform.testkit.engine.EngineExecutionResults;
import org.junit.platform.testkit.engine.EngineTestKit;

/** What a suite writes down of its tests, read from the files. */
class SuiteTest {
    @TempDir
    private Path folder;

    @Test
    void valuesThatNobodyLooksAtAreFound() throws IOException {
        Map<String, Map<String, Set<String>>> columns = new TreeMap<>();
        List<Map<String, Object>> tests = run(UnseenCase.class);
        for (Map<String, Object> test : tests) {
            assertEquals("passed", test.get("outcome"), test.toString());
            String stage = test.get("name").toString().replaceAll(" ›.*", "");
            for (Map<String, Object> act : list(test.get("acts"))) {
                map(act.get("written")).forEach((table, written) -> map(written)
                        .forEach((column, seen) -> columns.computeIfAbsent(stage, s -> new TreeMap<>())
                                .computeIfAbsent(seen.toString(), s -> new TreeSet<>())
                                .add(table + "." + column)));
            }
        }
        assertTrue(columns.size() >= 2, columns.keySet().toString());
        columns.forEach((stage, bySeen) -> {
            Set<String> unseen = new TreeSet<>(bySeen.get("unseen"));
            unseen.removeIf(column -> column.contains("("));
            assertEquals(25, unseen.size(), stage + ": " + unseen);
            assertTrue(unseen.stream().allMatch(column -> column.contains(".quiet_")), stage + ": " + unseen);
            Set<String> seen = new TreeSet<>(bySeen.get("seen"));
            seen.removeIf(column -> column.contains("("));
            assertEquals(75, seen.size(), stage + ": " + seen);
        });
    }

    @Test
    void whatIsReadByOtherMeansMayBeSeen() throws IOException {
        Files.writeString(folder.resolve("tests.json"), "{ spoilt");
        Map<String, String> written = new TreeMap<>();
        for (Map<String, Object> test : run(MaybeCase.class)) {
            assertEquals("passed", test.get("outcome"), test.toString());
            String name = test.get("test").toString().replaceAll(".*#", "");
            written.put(name, String.valueOf(list(test.get("acts")).get(0).get("written")));
            assertEquals(name.equals("manyRows") ? 8 : null, test.get("untried"), name);
        }
        assertEquals(MaybeCase.expected(), written);
    }

    @Test
    void looseEndsAreTold() throws IOException {
        Map<String, String> ends = new TreeMap<>();
        for (Map<String, Object> test : run(LooseCase.class)) {
            assertEquals("passed", test.get("outcome"), test.toString());
            String name = test.get("test").toString().replaceAll(".*#", "");
            String texts = list(test.getOrDefault("loose", List.of())).stream()
                    .filter(end -> !end.get("kind").equals("footprint"))
                    .map(end -> end.get("kind") + ": " + end.get("text"))
                    .toList()
                    .toString();
            assertEquals(ends.getOrDefault(name, texts), texts, "on every stage the same");
            boolean hint = list(test.getOrDefault("loose", List.of())).stream()
                    .anyMatch(end -> end.get("text").toString().startsWith("Expected without nothingElse()"));
            assertEquals(Set.of("expectation", "calls", "rule", "answer").contains(name), hint, name);
            ends.put(name, texts);
        }
        assertEquals(
                Map.of(
                        "act", "[act: Nobody asks what the act left, and nothing is looked at after it.]",
                        "actThatLeavesNothing", "[act: The act left nothing, and nobody asks for that.]",
                        "expectation", "[expectation: expect(\"stay\") is begun, and nothing is expected of it.]",
                        "calls", "[calls: calls(StayRepository::save) is begun, and nothing is expected of it.]",
                        "rule", "[rule: No call met the rule: StayRepository.delete fails.]",
                        "answer",
                                "[answer: Only the test itself was given the answer, not the code under test:"
                                        + " StayRepository.findAll gives.]",
                        "noneWithTheResult", "[]",
                        "noneWithAReadResult", "[]",
                        "noneWithAFailure", "[]",
                        "noneWithALookAfterwards", "[]"),
                ends);
    }

    @Test
    void looseEndsFailByChoice() {
        System.setProperty("zabbet.loose", "fail");
        try {
            List<String> failures = execute(LooseCase.class).testEvents().failed().list().stream()
                    .map(event -> event.getRequiredPayload(TestExecutionResult.class)
                            .getThrowable()
                            .orElseThrow()
                            .getMessage())
                    .distinct()
                    .sorted()
                    .toList();
            assertEquals(6, failures.size(), failures.toString());
            assertTrue(
                    failures.get(0).matches("This test leaves 1 loose end:\n  LooseCase.java:\\d+: .*"),
                    failures.get(0));
        } finally {
            System.clearProperty("zabbet.loose");
        }
    }

    @Test
    void whatIsWrittenDownKeepsItsSchema() throws IOException {
        run(LooseCase.class);
        System.setProperty("zabbet.counterproof", "true");
        try {
            execute(HollowCase.class);
        } finally {
            System.clearProperty("zabbet.counterproof");
        }
        ObjectMapper json = new ObjectMapper();
        JsonSchema schema = JsonSchemaFactory.getInstance(SpecVersion.VersionFlag.V202012)
                .getSchema(json.readTree(Path.of(System.getProperty("zabbet.repository.root"))
                        .resolve("docs/suite.schema.json")
                        .toFile()));
        for (String file : List.of("tests.json", "counterproof.json")) {
            assertEquals(
                    Set.of(), schema.validate(json.readTree(folder.resolve(file).toFile())), file);
        }
    }

    @Test
    void processesOfARunWriteTogether() throws Exception {
        List<Process> processes = new ArrayList<>();
        for (Class<?> tests : List.of(UnseenCase.class, LooseCase.class, HollowCase.class)) {
            processes.add(process("first", tests));
        }
        for (Process process : processes) {
            assertEquals(0, process.waitFor());
        }
        Map<String, Object> run = read("tests.json");
        assertEquals(
                Set.of("UnseenCase", "LooseCase", "HollowCase"),
                list(run.get("tests")).stream()
                        .map(test -> test.get("test").toString().replaceAll(".*\\.|\\$.*|#.*", ""))
                        .collect(Collectors.toSet()));
        assertTrue(list(run.get("tests")).stream()
                        .map(test -> test.get("process"))
                        .distinct()
                        .count()
                == 3);
        assertFalse(Files.exists(folder.resolve("before.json")));

        assertEquals(0, process("second", UnseenCase.class).waitFor());
        assertEquals(run.get("tests"), read("before.json").get("tests"));
        assertEquals(0, process("second", UnseenCase.class).waitFor(), "the same tests again are another run");
        assertEquals("second", read("before.json").get("run"));
    }

    private Process process(String run, Class<?> tests) throws IOException {
        return new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-Dzabbet.run=" + run,
                        "-cp",
                        System.getProperty("java.class.path"),
                        SuiteTest.class.getName(),
                        folder.toString(),
                        tests.getName())
                .inheritIO()
                .start();
    }

    /** Runs tests in a process of its own. */
    public static void main(String[] arguments) throws ClassNotFoundException {
        EngineTestKit.engine("junit-jupiter")
                .configurationParameter("zabbet.tests", arguments[0])
                .selectors(selectClass(Class.forName(arguments[1])))
                .execute();
    }

    private Map<String, Object> read(String file) throws IOException {
        return map(new ObjectMapper().readValue(folder.resolve(file).toFile(), Map.class));
    }

    private EngineExecutionResults execute(Class<?> tests) {
        return EngineTestKit.engine("junit-jupiter")
                .configurationParameter("zabbet.tests", folder.toString())
                .selectors(selectClass(tests))
                .execute();
    }

    private List<Map<String, Object>> run(Class<?> tests) throws IOException {
        execute(tests);
        return list(
                map(new ObjectMapper().readValue(folder.resolve("tests.json").toFile(), Map.class))
                        .get("tests"));
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> map(Object tree) {
        return tree == null ? Map.of() : (Map<String, Object>) tree;
    }

    @SuppressWarnings("unchecked")
    private static List<Map<String, Object>> list(Object tree) {
        return (List<Map<String, Object>>) tree;
    }
}
