package dev.zabbet.examples.proof;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.platform.engine.discovery.DiscoverySelectors.selectClass;

import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.platform.engine.TestDescriptor;
import org.junit.platform.engine.TestExecutionResult;
import org.junit.platform.engine.TestExecutionResult.Status;
import org.junit.platform.testkit.engine.EngineTestKit;
import org.junit.platform.testkit.engine.Event;

/** A counterproof of planted tests, on every stage: it finds all that are hollow, and accuses no other. */
class CounterproofTest {
    private static final String PROPERTY = "zabbet.counterproof";

    @AfterEach
    void forgetProperty() {
        System.clearProperty(PROPERTY);
    }

    @Test
    void everyHollowTestIsFound() {
        assertEquals(Map.of("SUCCESSFUL", 20L), perStage(run(HollowCase.class)));

        System.setProperty(PROPERTY, "fail");
        List<Event> counterproof = run(HollowCase.class);

        assertEquals(
                List.of(),
                counterproof.stream()
                        .filter(event -> result(event).getStatus() != Status.FAILED)
                        .map(event -> event.getTestDescriptor().getUniqueId().toString())
                        .toList());
        assertEquals(Map.of("FAILED", 20L), perStage(counterproof));
        for (Event event : counterproof) {
            String message = failure(event);
            assertTrue(
                    message.startsWith("This test is hollow: it passes although what its acts store is taken away."
                            + "\nThe act at HollowCase.java:"),
                    message);
        }
    }

    @Test
    void noHonestTestIsAccused() {
        List<Event> asWritten = run(HonestCase.class);
        assertTrue(
                asWritten.stream().noneMatch(event -> result(event).getStatus() == Status.FAILED),
                () -> asWritten.stream().map(CounterproofTest::failure).toList().toString());
        System.setProperty(PROPERTY, "fail");

        List<Event> counterproof = run(HonestCase.class);

        assertTrue(
                counterproof.stream().noneMatch(event -> result(event).getStatus() == Status.FAILED),
                () -> counterproof.stream()
                        .map(CounterproofTest::failure)
                        .toList()
                        .toString());
        assertEquals(Map.of("SUCCESSFUL", 30L, "ABORTED", 1L), perStage(counterproof));
    }

    private static List<Event> run(Class<?> tests) {
        return EngineTestKit.engine("junit-jupiter")
                .configurationParameter("zabbet.tests", "none")
                .selectors(selectClass(tests))
                .execute()
                .testEvents()
                .finished()
                .filter(event ->
                        !event.getTestDescriptor().getUniqueId().toString().contains("dynamic-test:#"))
                .toList();
    }

    /** Counts tests by how they ended on one stage; it has to be the same on all of them. */
    private static Map<String, Long> perStage(List<Event> events) {
        Map<String, Map<String, Long>> stages = new TreeMap<>();
        for (Event event : events) {
            stages.computeIfAbsent(stage(event.getTestDescriptor()), stage -> new TreeMap<>())
                    .merge(result(event).getStatus().toString(), 1L, Long::sum);
        }
        assertTrue(stages.size() >= 2, stages.toString());
        Map<String, Long> first = stages.values().iterator().next();
        stages.forEach((stage, counts) -> assertEquals(
                first,
                counts,
                () -> stage + ": "
                        + events.stream()
                                .filter(event ->
                                        stage(event.getTestDescriptor()).equals(stage))
                                .map(event -> event.getTestDescriptor().getDisplayName() + " " + failure(event))
                                .toList()));
        return first;
    }

    private static String stage(TestDescriptor test) {
        return Stream.iterate(test, at -> at.getParent().orElse(null))
                .takeWhile(at -> at != null)
                .filter(at -> at.getUniqueId().getLastSegment().getType().equals("class-template-invocation"))
                .findFirst()
                .orElseThrow()
                .getDisplayName();
    }

    private static TestExecutionResult result(Event event) {
        return event.getRequiredPayload(TestExecutionResult.class);
    }

    private static String failure(Event event) {
        return result(event).getThrowable().map(Throwable::getMessage).orElse("");
    }
}
