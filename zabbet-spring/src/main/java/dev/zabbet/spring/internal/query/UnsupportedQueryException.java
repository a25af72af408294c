package dev.zabbet.spring.internal.query;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Text;

/** Thrown when a query is not understood; the fake names the method and how to define it. */
public final class UnsupportedQueryException extends Exception {
    private static final long serialVersionUID = 1L;

    /** @param part the part that is not understood */
    public UnsupportedQueryException(String part) {
        super("in it " + Text.of(Words.cut(part.strip().replaceAll("\\s+", " "), 60)) + " is not understood");
    }

    /** @param cause why it is not even a query */
    UnsupportedQueryException(Exception cause) {
        super("it cannot be parsed", cause);
    }
}
