package dev.zabbet.error;

import dev.zabbet.internal.text.Printable;
import dev.zabbet.internal.text.Secrets;
import org.jspecify.annotations.Nullable;

/**
 * Something that Zabbet was asked to do could not be done; the message says what, where, why and how to mend it. User
 * information of URLs and values of secrets (passwords, tokens) are left out of the message, and of quoted driver messages.
 */
public class ZabbetException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    /** @param message what could not be done, what was found, and what to do */
    public ZabbetException(String message) {
        super(Printable.of(Secrets.hidden(message)));
    }

    /**
     * @param message what could not be done, what was found, and what to do
     * @param cause what stood behind it; null if nothing did
     */
    public ZabbetException(String message, @Nullable Throwable cause) {
        super(Printable.of(Secrets.hidden(message)), Secrets.hidden(cause));
    }
}
