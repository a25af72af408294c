package dev.zabbet.examples.huts;

import static dev.zabbet.expect.Expected.near;
import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.row;
import static dev.zabbet.expect.Expected.seconds;
import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.Acted;
import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.EveryStage;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The desk, in memory over fakes and on every database over JDBC: the same tests. */
@EveryStage("/db/huts.sql")
class StayDeskTest {
    private final Factory<Hut> huts = Factory.forType(Hut.class);
    private final Factory<Stay> stays = Factory.forType(Stay.class)
            .with(Stay::nights, 2)
            .with(Stay::price, new BigDecimal("80.00"))
            .invent(Stay::arrives, values -> values.today().plusDays(10));
    private final Factory<Stay> confirmed = stays.with(Stay::status, Status.CONFIRMED);

    private StayDesk desk;

    @BeforeEach
    void openDesk(Stage stage) {
        desk = new StayDesk(
                stage.fakeOrReal(StayRepository.class, JdbcStayRepository::new),
                stage.fakeOrReal(GuestRepository.class, JdbcGuestRepository::new),
                stage.fakeOrReal(LedgerRepository.class, JdbcLedgerRepository::new),
                stage.clock());
    }

    @Test
    void cancellingEarlyRefundsInFull(Stage stage) {
        Stay stay = stage.add(confirmed);

        Footprint footprint = stage.act(() -> desk.cancel(stay.id()));

        footprint
                .expect()
                .changed(
                        "stay",
                        stay.id(),
                        row("status", "CANCELLED").with("cancelled_at", near(stage.now(), seconds(2))))
                .added(
                        "ledger_entry",
                        row("stay_id", stay.id()).with("amount", "-80.00").with("kind", "REFUND"))
                .nothingElse();
    }

    @Test
    void cancellingLateRefundsHalfOrNothing(Stage stage) {
        Stay inThreeDays =
                stage.add(confirmed.invent(Stay::arrives, v -> v.today().plusDays(3)));
        Stay tomorrow = stage.add(confirmed.invent(Stay::arrives, v -> v.today().plusDays(1)));

        stage.act(() -> desk.cancel(inThreeDays.id())).expect().added("ledger_entry", row("amount", "-40.00"));
        stage.act(() -> desk.cancel(tomorrow.id())).expect().unchanged("ledger_entry");
    }

    @Test
    void aStayOnlyRequestedCostsNothingToCancel(Stage stage) {
        Stay stay = stage.add(stays.with(Stay::status, Status.REQUESTED));

        stage.act(() -> desk.cancel(stay.id()))
                .expect()
                .changed("stay", stay.id(), row("status", "CANCELLED").with("cancelled_at", notNull()))
                .nothingElse();
    }

    @Test
    void confirmingChargesThePrice(Stage stage) {
        Hut hut = stage.add(huts.children(2, Factory.forType(Room.class)));
        List<Stay> booked =
                stage.add(2, stays.ref(Stay::hutId, hut).inTurn(Stay::status, Status.REQUESTED, Status.DONE));

        stage.act(() -> desk.confirm(booked.get(0).id()))
                .expect()
                .changed("stay", booked.get(0).id(), row("status", "CONFIRMED"))
                .added("ledger_entry", row("amount", 80).with("kind", "CHARGE"))
                .nothingElse();
        stage.expect("stay").where("hut_id", hut.id()).holdsOnly("""
                | status    | nights | cancelled_at |
                | CONFIRMED | 2      | `null`       |
                | DONE      | 2      | `null`       |
                """);
        stage.expect(Stay.class).holds(booked.get(1));
    }

    @Test
    void aFreeRoomIsBooked(Stage stage) {
        Room room = stage.add(Factory.forType(Room.class));
        Guest guest = stage.add(Factory.forType(Guest.class));

        Acted<Stay> act = stage.act(() -> desk.book(booking(room, guest)));

        act.expect().added("stay", act.value()).nothingElse();
        assertEquals(Status.REQUESTED, act.value().status());
    }

    @Test
    void aTakenRoomIsNotBookedTwice(Stage stage) {
        Room room = stage.add(Factory.forType(Room.class));
        Guest guest = stage.add(Factory.forType(Guest.class));
        Booking booking = booking(room, guest);
        desk.book(booking);

        stage.actFailing(OverbookedException.class, () -> desk.book(booking))
                .expect()
                .unchanged();
        stage.expect("stay").where("room_number", room.number()).count(1);
    }

    @Test
    void aStayMovesToAnotherRoomOfItsHut(Stage stage) {
        Hut hut = stage.add(huts);
        List<Room> rooms = stage.add(2, Factory.forType(Room.class).ref(Room::hutId, hut));
        Stay stay = stage.add(stays.ref("room_number", rooms.get(0)));

        stage.act(() -> desk.move(stay.id(), rooms.get(1).number()))
                .expect()
                .changed("stay", stay.id(), row("room_number", rooms.get(1).number()))
                .nothingElse();
    }

    private static Booking booking(Room room, Guest guest) {
        return new Booking(
                guest.id(), room.hutId(), room.number(), LocalDate.of(2031, 8, 1), 3, new BigDecimal("120.00"));
    }
}
