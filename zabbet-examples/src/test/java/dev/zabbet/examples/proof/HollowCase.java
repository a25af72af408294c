package dev.zabbet.examples.proof;

import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.row;
import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assertions.assertDoesNotThrow;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotNull;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Acted;
import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.examples.huts.Booking;
import dev.zabbet.examples.huts.GuestRepository;
import dev.zabbet.examples.huts.LedgerEntry;
import dev.zabbet.examples.huts.LedgerRepository;
import dev.zabbet.examples.huts.Status;
import dev.zabbet.examples.huts.Stay;
import dev.zabbet.examples.huts.StayDesk;
import dev.zabbet.examples.huts.StayRepository;
import dev.zabbet.junit.EveryStage;
import dev.zabbet.row.Row;
import java.lang.reflect.Proxy;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Nested;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Twenty tests, two of each of ten kinds, that pass whatever the desk stores. Run by {@link CounterproofTest}. */
@EveryStage("/db/huts.sql")
class HollowCase extends Desk {

    // Only what is returned.

    @Test
    void returnsSomething(Stage stage) {
        Booking booking = booking(stage);
        assertNotNull(stage.act(() -> desk.book(booking)).value());
    }

    @Test
    void returnsTheRightThing(Stage stage) {
        Booking booking = booking(stage);
        assertThat(stage.act(() -> desk.book(booking)).value().status()).isEqualTo(Status.REQUESTED);
    }

    // Only that calls came.

    @Test
    void savesOnce(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        stage.rules(stays).calls(StayRepository::save).exactly(1);
    }

    @Test
    void addsToTheLedger(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.confirm(stay.id()));
        stage.rules(ledger).calls(LedgerRepository::add).atLeast(1);
    }

    // Only that nothing was thrown.

    @Test
    void doesNotThrow(Stage stage) {
        Stay stay = stage.add(STAYS);
        assertDoesNotThrow(() -> stage.act(() -> desk.cancel(stay.id())));
    }

    @RepeatedTest(1)
    void runsThrough(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.confirm(stay.id()));
    }

    // What the act did not touch.

    @Test
    void leavesHutsAlone(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id())).expect().unchanged("hut");
    }

    @Test
    void doesNotDeleteTheStay(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        stage.expect("stay").count(1);
    }

    // What was arranged.

    @Test
    void theOtherStayIsStillThere(Stage stage) {
        List<Stay> two = stage.add(2, STAYS);
        stage.act(() -> desk.cancel(two.get(0).id()));
        stage.expect("stay").holds(row("id", two.get(1).id()).with("status", "CONFIRMED"));
    }

    @Test
    void theStayWasConfirmed(Stage stage) {
        Stay stay = stage.add(STAYS);
        Row before = stage.expect("stay").one();
        stage.act(() -> desk.cancel(stay.id()));
        assertEquals("CONFIRMED", before.get("status"));
    }

    // Expectations that cannot fail.

    @Test
    void columnsAreFilled(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        stage.expect("stay").holds(row("status", notNull()));
    }

    @Test
    void thereIsNoStrangeKind(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.confirm(stay.id()));
        stage.expect("ledger_entry").holdsNoneOf(row("kind", "REFUND"));
    }

    // Loops over what is not there.

    @Test
    void eachEntryIsNegative(Stage stage) {
        Stay stay = stage.add(STAYS);
        Footprint footprint = stage.act(() -> desk.cancel(stay.id()));
        footprint.added("ledger_entry").forEach(entry -> assertTrue(((Number) entry.get("amount")).intValue() < 0));
    }

    @ParameterizedTest
    @ValueSource(ints = 1)
    void eachStoredEntryIsNegative(int times, Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        assertThat(ledger.findByStayId(stay.id()))
                .allMatch(entry -> entry.amount().signum() == -times);
    }

    // A double that was written by hand remembers; what is stored is another matter.

    @Test
    void theListHasTheEntry(Stage stage) {
        List<LedgerEntry> entries = new ArrayList<>();
        StayDesk other = withLedger(stage, entries);
        Stay stay = stage.add(STAYS);
        stage.act(() -> other.cancel(stay.id()));
        assertEquals(1, entries.size());
    }

    @Test
    void theListHasTheAmount(Stage stage) {
        List<LedgerEntry> entries = new ArrayList<>();
        StayDesk other = withLedger(stage, entries);
        Stay stay = stage.add(STAYS);
        stage.act(() -> other.cancel(stay.id()));
        assertThat(entries).singleElement().satisfies(entry -> assertThat(entry.amount())
                .isEqualByComparingTo("-80"));
    }

    private StayDesk withLedger(Stage stage, List<LedgerEntry> entries) {
        LedgerRepository list = (LedgerRepository) Proxy.newProxyInstance(
                HollowCase.class.getClassLoader(), new Class<?>[] {LedgerRepository.class}, (proxy, method, given) -> {
                    entries.add((LedgerEntry) given[0]);
                    return null;
                });
        GuestRepository guests =
                stage.fakeOrReal(GuestRepository.class, dev.zabbet.examples.huts.JdbcGuestRepository::new);
        return new StayDesk(stays, guests, list, stage.clock());
    }

    // Failures that nobody sees.

    @Test
    void theFailureIsSwallowed(Stage stage) {
        Stay stay = stage.add(STAYS);
        Footprint footprint = stage.act(() -> desk.cancel(stay.id()));
        try {
            footprint.expect().changed("stay", stay.id(), row("status", "CANCELLED"));
        } catch (AssertionError ignored) {
            assertNotNull(stay);
        }
    }

    @Test
    void onlyIfThereIsOne(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.confirm(stay.id()));
        List<Row> entries = stage.rows("ledger_entry");
        if (!entries.isEmpty()) {
            assertEquals("CHARGE", entries.get(0).get("kind"));
        }
    }

    // Acts in lifecycle methods.

    @Nested
    class Before {
        private Acted<Stay> booked;

        @BeforeEach
        void book(Stage stage) {
            Booking booking = booking(stage);
            booked = stage.act(() -> desk.book(booking));
        }

        @Test
        void theBookingHasItsPrice() {
            assertThat(booked.value().price()).isEqualByComparingTo("120");
        }
    }

    @Nested
    class After {
        private Stay stay;

        @Test
        void begins(Stage stage) {
            stay = stage.add(STAYS);
            stage.expect("guest").empty();
        }

        @AfterEach
        void cleansUp(Stage stage) {
            stage.act(() -> desk.cancel(stay.id()));
        }
    }
}
