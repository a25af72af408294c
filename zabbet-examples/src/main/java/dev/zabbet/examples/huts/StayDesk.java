package dev.zabbet.examples.huts;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Clock;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.NoSuchElementException;
import java.util.UUID;

/** Where stays are booked, confirmed, moved and cancelled. */
public final class StayDesk {
    private final StayRepository stays;
    private final GuestRepository guests;
    private final LedgerRepository ledger;
    private final Clock clock;

    /** A desk over the given repositories; the clock says what today is. */
    public StayDesk(StayRepository stays, GuestRepository guests, LedgerRepository ledger, Clock clock) {
        this.stays = stays;
        this.guests = guests;
        this.ledger = ledger;
        this.clock = clock;
    }

    /**
     * Books a stay.
     *
     * @throws OverbookedException if the room is taken on one of the nights
     * @throws NoSuchElementException if the guest is not known
     */
    public Stay book(Booking booking) {
        if (guests.find(booking.guestId()).isEmpty()) {
            throw new NoSuchElementException("guest " + booking.guestId() + " is not known");
        }
        requireFree(booking.hutId(), booking.roomNumber(), booking.arrives(), booking.nights(), 0);
        return stays.save(new Stay(
                0,
                booking.hutId(),
                booking.roomNumber(),
                booking.arrives(),
                booking.nights(),
                Status.REQUESTED,
                booking.price(),
                now(),
                null));
    }

    /** Confirms a stay and charges its price. */
    public void confirm(long stayId) {
        Stay stay = stays.find(stayId).orElseThrow();
        stays.save(stay.withStatus(Status.CONFIRMED));
        ledger.add(new LedgerEntry(UUID.randomUUID(), stayId, stay.price(), LedgerEntry.Kind.CHARGE, now()));
    }

    /**
     * Cancels a stay. A confirmed one is refunded: in full a week or more before arrival, half of it two days or more
     * before, and nothing later than that.
     */
    public void cancel(long stayId) {
        Stay stay = stays.find(stayId).orElseThrow();
        stays.save(stay.cancelled(now()));
        BigDecimal refund = refund(stay);
        if (stay.status() == Status.CONFIRMED && refund.signum() > 0) {
            ledger.add(new LedgerEntry(UUID.randomUUID(), stayId, refund.negate(), LedgerEntry.Kind.REFUND, now()));
        }
    }

    /**
     * Moves a stay to another room of the same hut.
     *
     * @throws OverbookedException if that room is taken on one of the nights
     */
    public void move(long stayId, int roomNumber) {
        Stay stay = stays.find(stayId).orElseThrow();
        requireFree(stay.hutId(), roomNumber, stay.arrives(), stay.nights(), stayId);
        stays.save(stay.inRoom(roomNumber));
    }

    private BigDecimal refund(Stay stay) {
        long days = ChronoUnit.DAYS.between(now().toLocalDate(), stay.arrives());
        if (days >= 7) {
            return stay.price();
        }
        return days >= 2 ? stay.price().divide(BigDecimal.valueOf(2), 2, RoundingMode.HALF_UP) : BigDecimal.ZERO;
    }

    private void requireFree(long hutId, int room, LocalDate arrives, int nights, long except) {
        boolean taken = stays.findByHutIdAndRoomNumber(hutId, room).stream()
                .anyMatch(s -> s.id() != except && s.overlaps(arrives, nights));
        if (taken) {
            throw new OverbookedException(hutId, room);
        }
    }

    private LocalDateTime now() {
        return LocalDateTime.ofInstant(clock.instant(), ZoneOffset.UTC);
    }
}
