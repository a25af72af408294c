package dev.zabbet.examples.proof;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.platform.engine.discovery.DiscoverySelectors.selectClass;

import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;
import org.junit.platform.engine.TestExecutionResult;
import org.junit.platform.testkit.engine.EngineTestKit;

/** Which values decide whether a test passes is found exactly, for planted faults on every stage. */
class DecidingValuesTest {
    private static final Map<String, Set<String>> EXPECTED = Map.of(
            "theShortestStay", Set.of("stay.nights"),
            "theLongestStay", Set.of("stay.nights"),
            "anEmptyBirthday", Set.of("guest.born"),
            "aParentThatIsThere", Set.of("hut.warden_id"),
            "aFreeStay", Set.of("stay.price"),
            "aLeapDay", Set.of("stay.arrives"),
            "aLongName", Set.of("warden.full_name"),
            "bookedAfterArrival", Set.of("stay.arrives", "stay.booked_at"),
            "longAndCancelled", Set.of("stay.nights", "stay.status"),
            "theSecondIsLonger", Set.of("stay.nights of row 1", "stay.nights of row 2"));

    @Test
    void theColumnsThatDecideAreFound() {
        Map<String, Map<String, String>> reports = new TreeMap<>();
        EngineTestKit.engine("junit-jupiter")
                .configurationParameter("zabbet.tests", "none")
                .selectors(selectClass(DecidingCase.class))
                .execute()
                .testEvents()
                .finished()
                .list()
                .stream()
                .filter(event -> event.getTestDescriptor().getDisplayName().equals("what decides"))
                .forEach(event -> {
                    String id = event.getTestDescriptor().getUniqueId().toString();
                    Matcher parts = Pattern.compile("invocation:#(\\d+).*test-template:(\\w+)")
                            .matcher(id);
                    assertTrue(parts.find(), id);
                    reports.computeIfAbsent(parts.group(1), stage -> new TreeMap<>())
                            .put(
                                    parts.group(2),
                                    event.getRequiredPayload(TestExecutionResult.class)
                                            .getThrowable()
                                            .orElseThrow()
                                            .getMessage());
                });

        assertTrue(reports.size() >= 2, reports.keySet().toString());
        reports.forEach((stage, ofStage) -> {
            assertEquals(new TreeSet<>(EXPECTED.keySet()), new TreeSet<>(ofStage.keySet()));
            ofStage.forEach((test, report) -> assertEquals(EXPECTED.get(test), columns(report), test + ": " + report));
        });
        assertEquals("""
                In memory: This test fails in 1 of 40 variations: 21.
                It fails only where
                  stay.price = 0.00
                It passes for 0.01, 7.65, 9.11, 9.25, 12.42, 13.46.
                Found by 12 exchanges of values between variations.
                As a test of its own: Factory.forTable("stay").with("price", 0.00)
                In variation 21: the application goes wrong ==> expected: <false> but was: <true>""", reports.values().iterator().next().get("aFreeStay"));
    }

    private static Set<String> columns(String report) {
        Set<String> columns = new TreeSet<>();
        Matcher lines =
                Pattern.compile("\n  (\\w+\\.\\w+(?: of row \\d+)?)(?: =| is )").matcher(report);
        while (lines.find()) {
            columns.add(lines.group(1));
        }
        return columns;
    }
}
