package dev.zabbet.examples.proof;

import dev.zabbet.Stage;
import dev.zabbet.examples.huts.Booking;
import dev.zabbet.examples.huts.Guest;
import dev.zabbet.examples.huts.GuestRepository;
import dev.zabbet.examples.huts.JdbcGuestRepository;
import dev.zabbet.examples.huts.JdbcLedgerRepository;
import dev.zabbet.examples.huts.JdbcStayRepository;
import dev.zabbet.examples.huts.LedgerRepository;
import dev.zabbet.examples.huts.Room;
import dev.zabbet.examples.huts.Status;
import dev.zabbet.examples.huts.Stay;
import dev.zabbet.examples.huts.StayDesk;
import dev.zabbet.examples.huts.StayRepository;
import dev.zabbet.factory.Factory;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalDateTime;
import org.junit.jupiter.api.BeforeEach;

/** What the planted tests have in common: a desk, and factories. */
abstract class Desk {
    static final Factory<Stay> STAYS = Factory.forType(Stay.class)
            .with(Stay::nights, 2)
            .with(Stay::price, new BigDecimal("80.00"))
            .with(Stay::status, Status.CONFIRMED)
            .with(Stay::bookedAt, LocalDateTime.of(2031, 6, 1, 12, 0))
            .invent(Stay::arrives, values -> values.today().plusDays(10));

    StayRepository stays;
    LedgerRepository ledger;
    StayDesk desk;

    @BeforeEach
    void openDesk(Stage stage) {
        stays = stage.fakeOrReal(StayRepository.class, JdbcStayRepository::new);
        ledger = stage.fakeOrReal(LedgerRepository.class, JdbcLedgerRepository::new);
        desk = new StayDesk(
                stays, stage.fakeOrReal(GuestRepository.class, JdbcGuestRepository::new), ledger, stage.clock());
    }

    static Booking booking(Stage stage) {
        Room room = stage.add(Factory.forType(Room.class));
        Guest guest = stage.add(Factory.forType(Guest.class));
        return new Booking(
                guest.id(), room.hutId(), room.number(), LocalDate.of(2031, 8, 1), 3, new BigDecimal("120.00"));
    }
}
