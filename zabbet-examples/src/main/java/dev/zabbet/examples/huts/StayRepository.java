package dev.zabbet.examples.huts;

import java.util.List;
import java.util.Optional;

/** Stays, wherever they are kept. */
public interface StayRepository {
    /** Stores a stay, new if its id is 0; returns it with its id. */
    Stay save(Stay stay);

    /** Finds a stay. */
    Optional<Stay> find(long id);

    /** Returns all stays. */
    List<Stay> findAll();

    /** Returns the stays in a room. */
    List<Stay> findByHutIdAndRoomNumber(long hutId, int roomNumber);

    /** Deletes a stay; nothing happens if there is none. */
    void delete(long id);
}
