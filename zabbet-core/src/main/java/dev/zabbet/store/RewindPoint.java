package dev.zabbet.store;

/** A state of a store that it can be brought back to. Its content is private to the store. */
public interface RewindPoint {}
