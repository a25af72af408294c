package dev.zabbet.store;

import dev.zabbet.error.ZabbetException;
import java.util.List;

/** Notices what changes in a store from the moment it was begun. */
public interface Watch extends AutoCloseable {

    /**
     * {@return what has changed so far, as net effect: a row stored and deleted again since is not mentioned, one changed
     * twice is mentioned once} Ordered by table (in the schema's order), then by key.
     */
    List<Change> changes();

    /**
     * Brings rows back to how they were when the watch began. Other than with a rewind, keys and counters go on from where they
     * are, so that a key that was given once is not given again.
     *
     * @throws ZabbetException if the store cannot, or the tables themselves were changed since; the rows stay as they are then
     */
    default void takeBack() {
        throw new ZabbetException(getClass().getName() + " cannot take back what has changed: it does not implement"
                + " Watch.takeBack().");
    }

    /** Stops noticing. */
    @Override
    void close();
}
