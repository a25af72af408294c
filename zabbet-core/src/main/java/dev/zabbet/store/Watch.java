package dev.zabbet.store;

import java.util.List;

/** Notices what changes in a store from the moment it was begun. */
public interface Watch extends AutoCloseable {

    /**
     * {@return what has changed so far, as net effect: a row stored and deleted again since is not mentioned, one changed
     * twice is mentioned once} Ordered by table (in the schema's order), then by key.
     */
    List<Change> changes();

    /** Stops noticing. */
    @Override
    void close();
}
