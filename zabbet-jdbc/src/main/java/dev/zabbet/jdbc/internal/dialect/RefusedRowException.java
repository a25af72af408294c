package dev.zabbet.jdbc.internal.dialect;

import java.sql.SQLException;

/** A database refused one row of many, in a way of its own to say which. */
public final class RefusedRowException extends SQLException {
    private static final long serialVersionUID = 1L;

    private final int row;

    /**
     * @param cause what the database said
     * @param row the row, from 0; -1 if it is not known
     */
    public RefusedRowException(SQLException cause, int row) {
        super(cause.getMessage(), cause.getSQLState(), cause.getErrorCode(), cause);
        this.row = row;
    }

    public int row() {
        return row;
    }
}
