package dev.zabbet.jdbc;

import java.sql.SQLException;

/** A database refused one row of many, in a way of its own to say which. */
final class RefusedRow extends SQLException {
    private static final long serialVersionUID = 1L;

    private final int row;

    /**
     * @param cause what the database said
     * @param row the row, from 0; -1 if it is not known
     */
    RefusedRow(SQLException cause, int row) {
        super(cause.getMessage(), cause.getSQLState(), cause.getErrorCode(), cause);
        this.row = row;
    }

    int row() {
        return row;
    }
}
