package dev.zabbet.examples.huts;

import java.math.BigDecimal;
import java.time.LocalDateTime;
import java.util.UUID;

/** Money owed for a stay (a charge), or paid back (a refund, negative). */
public record LedgerEntry(UUID id, long stayId, BigDecimal amount, Kind kind, LocalDateTime enteredAt) {
    /** Which way the money goes. */
    public enum Kind {
        /** To the hut. */
        CHARGE,
        /** Back to the guest. */
        REFUND
    }
}
