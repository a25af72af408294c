package dev.zabbet.examples.huts;

/** A room is taken on the nights asked for. */
public final class OverbookedException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    OverbookedException(long hutId, int roomNumber) {
        super("room " + roomNumber + " of hut " + hutId + " is taken on these nights");
    }
}
