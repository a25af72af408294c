package dev.zabbet.examples.proof;

import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.row;
import static java.time.Duration.ofSeconds;
import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTimeoutPreemptively;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;
import static org.junit.jupiter.api.DynamicTest.dynamicTest;

import dev.zabbet.Acted;
import dev.zabbet.Failed;
import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.examples.huts.Booking;
import dev.zabbet.examples.huts.OverbookedException;
import dev.zabbet.examples.huts.Status;
import dev.zabbet.examples.huts.Stay;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.EveryStage;
import dev.zabbet.junit.ResultOnly;
import java.math.BigDecimal;
import java.util.List;
import java.util.NoSuchElementException;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Nested;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Thirty tests that a counterproof has nothing to say against. Run by {@link CounterproofTest}. */
@EveryStage("/db/huts.sql")
class HonestCase extends Desk {

    @Test
    void footprintWithChange(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id())).expect().changed("stay", stay.id(), row("status", "CANCELLED"));
    }

    @Test
    void footprintWithAddition(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.confirm(stay.id())).expect().added("ledger_entry", row("kind", "CHARGE"));
    }

    @Test
    void footprintWithCounts(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.confirm(stay.id())).expect().counts("ledger_entry", 1, 0, 0);
    }

    @Test
    void footprintWithRemoval(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> stays.delete(stay.id())).expect().removed("stay", stay.id());
    }

    @Test
    void tableHolds(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        stage.expect("stay").holds(row("id", stay.id()).with("cancelled_at", notNull()));
    }

    @Test
    void tableIsEmpty(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> stays.delete(stay.id()));
        stage.expect("stay").empty();
    }

    @Test
    void tableCount(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.confirm(stay.id()));
        stage.expect("ledger_entry").where("kind", "CHARGE").count(1);
    }

    @Test
    void tableRowIsHandedOut(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        assertEquals("CANCELLED", stage.expect("stay").one(stay.id()).get("status"));
    }

    @Test
    void rowsAreCompared(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        assertThat(stage.rows("stay")).extracting(row -> row.get("status")).containsExactly("CANCELLED");
    }

    @Test
    void footprintIsComparedByJUnit(Stage stage) {
        Stay stay = stage.add(STAYS);
        Footprint footprint = stage.act(() -> desk.confirm(stay.id()));
        assertEquals(1, footprint.added("ledger_entry").size());
    }

    @Test
    void repositoryIsReadByJUnit(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        assertEquals(Status.CANCELLED, stays.find(stay.id()).orElseThrow().status());
    }

    @Test
    void repositoryIsReadByAnotherLibrary(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.confirm(stay.id()));
        assertThat(ledger.findByStayId(stay.id())).hasSize(1);
    }

    @Test
    void whatIsNotFoundThrows(Stage stage) {
        Booking booking = booking(stage);
        Stay booked = stage.act(() -> desk.book(booking)).value();
        assertEquals(3, stays.find(booked.id()).orElseThrow().nights());
    }

    @Test
    void theSecondActFailsAsItShould(Stage stage) {
        Booking booking = booking(stage);
        stage.act(() -> desk.book(booking));
        stage.actFailing(OverbookedException.class, () -> desk.book(booking));
    }

    @Test
    void onlyTheSecondActIsLookedAt(Stage stage) {
        Stay stay = stage.add(STAYS.with(Stay::status, Status.REQUESTED));
        stage.act(() -> desk.confirm(stay.id()));
        stage.act(() -> desk.cancel(stay.id())).expect().added("ledger_entry", row("kind", "REFUND"));
    }

    // Acts that store nothing.

    @Test
    void nothingIsStoredAndNothingExpected(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> stays.find(stay.id()));
    }

    @Test
    void nothingIsToBeStored(Stage stage) {
        Booking booking = booking(stage);
        desk.book(booking);
        stage.actFailing(OverbookedException.class, () -> desk.book(booking))
                .expect()
                .unchanged();
    }

    @Test
    void theFailureIsWhatCounts(Stage stage) {
        Failed<NoSuchElementException> failed = stage.actFailing(NoSuchElementException.class, () -> desk.cancel(404));
        assertTrue(failed.changes().isEmpty());
    }

    @Test
    void theSameValuesAreWritten(Stage stage) {
        Stay stay = stage.add(STAYS);
        assertEquals(stay.id(), stage.act(() -> stays.save(stay)).value().id());
    }

    // Tests without a verdict.

    @Test
    @ResultOnly("the price list is checked here, and bookings elsewhere")
    void onlyTheResultCounts(Stage stage) {
        Booking booking = booking(stage);
        assertEquals(
                new BigDecimal("120.00"),
                stage.act(() -> desk.book(booking)).value().price());
    }

    @Test
    void anAssumptionEndsIt(Stage stage) {
        Booking booking = booking(stage);
        Stay booked = stage.act(() -> desk.book(booking)).value();
        assumeTrue(booked.nights() > 20, "only for long stays");
    }

    @Test
    void aLaterActNeedsTheFirst(Stage stage) {
        Booking booking = booking(stage);
        Acted<Stay> first = stage.act(() -> desk.book(booking));
        stage.act(() -> desk.confirm(first.value().id()));
    }

    @Test
    void whatIsArrangedLaterNeedsTheAct(Stage stage) {
        Acted<Stay> first = stage.act(() -> stays.save(stage.build(STAYS)));
        stage.add(Factory.forTable("ledger_entry").ref("stay_id", List.of(first.value())));
    }

    // Shapes of tests.

    @ParameterizedTest
    @EnumSource(names = {"CONFIRMED", "REQUESTED"})
    void withParameters(Status status, Stage stage) {
        Stay stay = stage.add(STAYS.with(Stay::status, status));
        stage.act(() -> desk.cancel(stay.id()));
        assertEquals(Status.CANCELLED, stays.find(stay.id()).orElseThrow().status());
    }

    @RepeatedTest(2)
    void repeated(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id())).expect().counts("stay", 0, 1, 0);
    }

    @TestFactory
    Stream<DynamicTest> dynamic(Stage stage) {
        return Stream.of(1, 2)
                .map(beds -> dynamicTest("stay " + beds, () -> {
                    Stay stay = stage.add(STAYS);
                    stage.act(() -> desk.cancel(stay.id())).expect().counts("stay", 0, 1, 0);
                }));
    }

    @Test
    void onAnotherThread(Stage stage) {
        Stay stay = stage.add(STAYS);
        assertTimeoutPreemptively(
                ofSeconds(20),
                () -> stage.act(() -> desk.cancel(stay.id())).expect().counts("stay", 0, 1, 0));
    }

    @Test
    void keysAreNotGivenTwice(Stage stage) {
        Stay first = stage.act(() -> stays.save(stage.build(STAYS))).value();
        Stay second = stage.add(STAYS);
        assertThat(second.id()).isNotEqualTo(first.id());
        stage.expect("stay").where("id", first.id()).count(1);
    }

    @Nested
    class Before {
        @BeforeEach
        void confirm(Stage stage) {
            Stay stay = stage.add(STAYS);
            stage.act(() -> desk.confirm(stay.id()));
        }

        @Test
        void theLedgerIsLookedAt(Stage stage) {
            stage.expect("ledger_entry").count(1);
        }
    }

    @Nested
    class After {
        private Stay stay;

        @Test
        void cancels(Stage stage) {
            stay = stage.add(STAYS);
            stage.act(() -> desk.cancel(stay.id()));
        }

        @AfterEach
        void looks() {
            assertEquals(Status.CANCELLED, stays.find(stay.id()).orElseThrow().status());
        }
    }
}
