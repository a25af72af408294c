package dev.zabbet.fake;

/** A method is none that a fake knows how to answer; the message says why. */
final class NotUnderstood extends Exception {
    private static final long serialVersionUID = 1L;

    NotUnderstood(String why) {
        super(why);
    }
}
