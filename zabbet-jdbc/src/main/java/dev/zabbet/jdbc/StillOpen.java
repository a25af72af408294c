package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import java.util.List;

/** Words for a transaction that is open when it should not be. */
final class StillOpen {
    private StillOpen() {}

    static ZabbetException of(List<String> open) {
        return new ZabbetException(
                "A transaction with changes is still open, so that what it leaves cannot be told yet:\n  "
                        + String.join("\n  ", open)
                        + "\nLet the code under test commit or roll back, and close its connection, before the act ends.");
    }
}
