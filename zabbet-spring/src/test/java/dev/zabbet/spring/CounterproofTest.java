package dev.zabbet.spring;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotNull;
import static org.junit.platform.engine.discovery.DiscoverySelectors.selectClass;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.Staged;
import dev.zabbet.spring.huts.FrontDesk;
import dev.zabbet.spring.huts.Hut;
import dev.zabbet.spring.huts.HutsApplication;
import dev.zabbet.spring.huts.Stay;
import dev.zabbet.spring.huts.Stays;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.platform.engine.TestExecutionResult;
import org.junit.platform.testkit.engine.EngineTestKit;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.boot.test.context.SpringBootTest;
import org.springframework.transaction.annotation.Transactional;

/** A counterproof of Spring tests, inside the test's own transaction and outside of any. */
class CounterproofTest {
    @AfterEach
    void forgetProperty() {
        System.clearProperty("zabbet.counterproof");
    }

    @SpringBootTest(classes = HutsApplication.class)
    @Staged
    abstract static class Desk {
        @Autowired
        FrontDesk desk;

        @Autowired
        Stays stays;

        @Test
        void isHollow(Stage stage) {
            Hut hut = stage.add(Factory.forType(Hut.class));
            assertNotNull(
                    stage.act(() -> desk.book(hut.getId(), "Ana Stampa", 3)).value());
        }

        @Test
        void expects(Stage stage) {
            Hut hut = stage.add(Factory.forType(Hut.class));
            stage.act(() -> desk.book(hut.getId(), "Ana Stampa", 3)).expect().added("stay", row("nights", 3));
        }

        @Test
        void readsTheRepository(Stage stage) {
            Hut hut = stage.add(Factory.forType(Hut.class));
            Stay booked =
                    stage.act(() -> desk.book(hut.getId(), "Ana Stampa", 3)).value();
            assertEquals(3, stays.findById(booked.getId()).orElseThrow().getNights());
        }

        @Test
        void seesTheChange(Stage stage) {
            Stay stay = stage.add(Factory.forType(Stay.class));
            stage.act(() -> desk.cancel(stay.getId()));
            assertEquals(
                    "CANCELLED",
                    stays.findById(stay.getId()).orElseThrow().getStatus().name());
        }
    }

    static class Committed extends Desk {}

    @Transactional
    static class InATransaction extends Desk {}

    @Test
    void whatAnActStoresIsTakenAwayFromTheProviderToo() {
        Map<String, String> asWritten = Map.of(
                "expects", "SUCCESSFUL",
                "isHollow", "SUCCESSFUL",
                "readsTheRepository", "SUCCESSFUL",
                "seesTheChange", "SUCCESSFUL");
        assertEquals(asWritten, run(Committed.class));
        assertEquals(asWritten, run(InATransaction.class));

        System.setProperty("zabbet.counterproof", "fail");
        Map<String, String> counterproof = new TreeMap<>(asWritten);
        counterproof.put(
                "isHollow", "FAILED This test is hollow: it passes although what its acts store is taken away.");
        assertEquals(counterproof, run(Committed.class));
        assertEquals(counterproof, run(InATransaction.class));
    }

    private static Map<String, String> run(Class<?> tests) {
        Map<String, String> ends = new TreeMap<>();
        EngineTestKit.engine("junit-jupiter")
                .configurationParameter("zabbet.tests", "none")
                .selectors(selectClass(tests))
                .execute()
                .testEvents()
                .finished()
                .list()
                .forEach(event -> {
                    TestExecutionResult result = event.getRequiredPayload(TestExecutionResult.class);
                    ends.put(
                            event.getTestDescriptor().getDisplayName().replaceAll("\\(.*", ""),
                            result.getStatus()
                                    + result.getThrowable()
                                            .map(thrown -> " "
                                                    + String.valueOf(thrown.getMessage())
                                                            .lines()
                                                            .findFirst()
                                                            .orElse(""))
                                            .orElse(""));
                });
        return ends;
    }
}
