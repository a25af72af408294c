package dev.zabbet.internal.value;

/** A value does not fit a type exactly. The message is a clause such as {@code "'two' is not a whole number"}. */
public final class InexactValueException extends Exception {
    private static final long serialVersionUID = 1L;

    public InexactValueException(String clause) {
        super(clause, null, false, false);
    }

    /** Returns the clause that says what does not fit. */
    public String clause() {
        return String.valueOf(getMessage());
    }
}
