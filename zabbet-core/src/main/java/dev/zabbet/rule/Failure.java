package dev.zabbet.rule;

import java.sql.SQLException;
import java.sql.SQLIntegrityConstraintViolationException;
import java.sql.SQLNonTransientConnectionException;
import java.sql.SQLTimeoutException;
import java.sql.SQLTransactionRollbackException;

/**
 * Failures of data access, as drivers throw them, with the SQLStates of ISO 9075 and PostgreSQL's documentation
 * ("PostgreSQL Error Codes"). For {@link CallRule#fails}; wrapped as the application's data access wraps them.
 */
public final class Failure {
    private Failure() {}

    /**
     * A key or unique value is stored already: 23505.
     *
     * @return an exception with that SQLState, as drivers throw it
     */
    public static SQLException duplicateKey() {
        return new SQLIntegrityConstraintViolationException("a row with this key is stored already", "23505");
    }

    /**
     * A reference leads nowhere, or a row is still referred to: 23503.
     *
     * @return an exception with that SQLState, as drivers throw it
     */
    public static SQLException brokenReference() {
        return new SQLIntegrityConstraintViolationException("a reference leads to no row", "23503");
    }

    /**
     * Two transactions wait for each other, and this one was chosen to give way: 40P01.
     *
     * @return an exception with that SQLState, as drivers throw it
     */
    public static SQLException deadlock() {
        return new SQLTransactionRollbackException("deadlock detected", "40P01");
    }

    /**
     * Another transaction came first, so that this one has to be tried again: 40001.
     *
     * @return an exception with that SQLState, as drivers throw it
     */
    public static SQLException serialization() {
        return new SQLTransactionRollbackException("could not serialize access", "40001");
    }

    /**
     * A statement took too long: 57014.
     *
     * @return an exception with that SQLState, as drivers throw it
     */
    public static SQLException timeout() {
        return new SQLTimeoutException("canceling statement due to timeout", "57014");
    }

    /**
     * The connection is gone: 08006.
     *
     * @return an exception with that SQLState, as drivers throw it
     */
    public static SQLException connectionLost() {
        return new SQLNonTransientConnectionException("the connection is lost", "08006");
    }

    /**
     * No room is left: 53100.
     *
     * @return an exception with that SQLState, as drivers throw it
     */
    public static SQLException diskFull() {
        return new SQLException("no space left on the device", "53100");
    }
}
