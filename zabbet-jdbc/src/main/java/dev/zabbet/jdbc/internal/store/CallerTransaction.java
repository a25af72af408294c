package dev.zabbet.jdbc.internal.store;

import java.sql.Connection;
import java.util.Optional;

/**
 * The transaction that a test runs in when somebody else manages it: a test framework that rolls back what a test method
 * does, for example. {@link CallerStore#stage} opens a stage that works inside it.
 *
 * <p>A stage calls it on the thread that the stage was called on, before each of its own accesses to the database.
 */
public interface CallerTransaction {

    /**
     * A transaction that is open.
     *
     * @param identity an object that is another one for each transaction; compared with {@code ==}
     * @param connection the connection that it is open on; the stage never commits, rolls back or closes it
     */
    record Open(Object identity, Connection connection) {}

    /** Returns the transaction that is open on this thread; empty if there is none, and the stage works beside all others. */
    Optional<Open> open();

    /**
     * Sends to the database what the code under test has changed and holds back, as an object-relational mapper does. What it
     * throws is thrown by the call of the stage, or by the act that has just run.
     */
    default void flush() {}

    /** Takes note that the stage has taken back changes in the transaction: objects read from it may be out of date. */
    default void takenBack() {}
}
