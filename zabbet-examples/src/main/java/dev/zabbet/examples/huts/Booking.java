package dev.zabbet.examples.huts;

import java.math.BigDecimal;
import java.time.LocalDate;

/** What a guest asks for. */
public record Booking(long guestId, long hutId, int roomNumber, LocalDate arrives, int nights, BigDecimal price) {}
