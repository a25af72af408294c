package dev.zabbet.internal.check;

/** A condition uses something that this evaluator does not know. */
public final class UnknownSyntaxException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    UnknownSyntaxException(String what) {
        super(what, null, false, false);
    }
}
