/**
 * A small application over a ring of alpine huts: guests book stays, the desk confirms, moves and cancels them. It knows
 * nothing of Zabbet; its tests and its story show what Zabbet is for.
 *
 * <pre>{@code
 * import java.time.Clock;
 * import java.time.LocalDate;
 *
 * StayDesk desk = new StayDesk(stays, guests, ledger, Clock.systemUTC());
 * Stay stay = desk.book(new Booking(guestId, hutId, roomNumber, LocalDate.of(2031, 8, 1), 2, price));
 * desk.confirm(stay.id());
 * desk.cancel(stay.id());
 * }</pre>
 */
@NullMarked
package dev.zabbet.examples.huts;

import org.jspecify.annotations.NullMarked;
