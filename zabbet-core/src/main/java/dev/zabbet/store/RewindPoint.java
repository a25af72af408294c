package dev.zabbet.store;

/** A state of a store that it can be brought back to. What it holds is the store's own business. */
public interface RewindPoint {}
