package dev.zabbet.internal.fake;

/** A method is none that a fake knows how to answer; the message says why. */
final class UnknownMethodException extends Exception {
    private static final long serialVersionUID = 1L;

    UnknownMethodException(String why) {
        super(why);
    }
}
