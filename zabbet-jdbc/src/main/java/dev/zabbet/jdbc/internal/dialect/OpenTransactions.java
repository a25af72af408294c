package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import java.sql.SQLException;
import java.util.List;

/** Words for a transaction that is open when it should not be. */
public final class OpenTransactions {
    /** What keeps a statement from going on, before the database's own words. */
    public static final String LOCKED =
            "a transaction or a result set of another connection is open, and did not end in time. Let the code under test"
                    + " end it and close its connection. The database says: ";

    private static final String ROLLED_BACK = "40"; // the standard's class of states: a deadlock, for one

    private OpenTransactions() {}

    /** Tells whether a database took back what it was asked because of others, so that it may be asked again. */
    public static boolean isRolledBack(SQLException refusal) {
        return String.valueOf(refusal.getSQLState()).startsWith(ROLLED_BACK);
    }

    public static ZabbetException of(List<String> open) {
        return new ZabbetException("A transaction with changes is still open, so its effect is not yet known:\n  "
                + String.join("\n  ", open)
                + "\nLet the code under test commit or roll back, and close its connection, before the act ends.");
    }

    /** Others write so often that there is no moment to undo what they did. */
    public static ZabbetException beside(int attempts) {
        return new ZabbetException(
                "Others go on changing rows of this database: so they did while a rewind was under way,"
                        + " which began again, " + Words.count(attempts, "time")
                        + ". What is to be undone stays written down.\nLet the code under test end its work, then call rewind again.");
    }

    /** A transaction keeps triggers from being made. */
    public static ZabbetException toBegin(List<String> open) {
        return new ZabbetException("A transaction on these tables is open, so that nothing can be noted yet:\n  "
                + String.join("\n  ", open)
                + "\nLet the code under test commit or roll back, and close its connection, before the first act or rewind"
                + " point.");
    }
}
