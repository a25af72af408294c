package dev.zabbet.examples.huts;

/** How far a stay has come. */
public enum Status {
    /** Asked for. */
    REQUESTED,
    /** Promised to the guests. */
    CONFIRMED,
    /** Called off. */
    CANCELLED,
    /** Over. */
    DONE
}
