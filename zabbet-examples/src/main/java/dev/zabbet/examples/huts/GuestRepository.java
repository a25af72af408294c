package dev.zabbet.examples.huts;

import java.util.Optional;

/** Guests, wherever they are kept. */
public interface GuestRepository {
    /** Stores a guest, new if the id is 0; returns it with its id. */
    Guest save(Guest guest);

    /** Finds a guest. */
    Optional<Guest> find(long id);
}
