package dev.zabbet.internal.memory;

/** What code under test has changed and not sent to a store in memory yet; see {@link MemoryStore#heldBack}. */
public interface UnflushedChanges {

    /** Sends it to the store. */
    void flush();

    /** Forgets it: what it was part of has failed, or the rows are others by now. */
    void discard();
}
