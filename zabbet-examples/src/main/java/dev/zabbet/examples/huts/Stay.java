package dev.zabbet.examples.huts;

import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalDateTime;
import org.jspecify.annotations.Nullable;

/** Nights in a room of a hut. An id of 0 means that it is not stored yet; times are at UTC. */
public record Stay(
        long id,
        long hutId,
        int roomNumber,
        LocalDate arrives,
        int nights,
        Status status,
        BigDecimal price,
        LocalDateTime bookedAt,
        @Nullable LocalDateTime cancelledAt) {

    Stay withStatus(Status other) {
        return new Stay(id, hutId, roomNumber, arrives, nights, other, price, bookedAt, cancelledAt);
    }

    Stay cancelled(LocalDateTime at) {
        return new Stay(id, hutId, roomNumber, arrives, nights, Status.CANCELLED, price, bookedAt, at);
    }

    Stay inRoom(int number) {
        return new Stay(id, hutId, number, arrives, nights, status, price, bookedAt, cancelledAt);
    }

    boolean overlaps(LocalDate from, int forNights) {
        return status != Status.CANCELLED
                && arrives.isBefore(from.plusDays(forNights))
                && from.isBefore(arrives.plusDays(nights));
    }
}
