package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;

/** Thrown when a database that is not dedicated to tests would have to be written to. Nothing was. */
public final class UndedicatedException extends ZabbetException {
    private static final long serialVersionUID = 1L;

    private final String database;

    UndedicatedException(String message, String database) {
        super(message);
        this.database = database;
    }

    /** Returns the database's name, of a file its last part, as {@link Jdbc#dedicate(javax.sql.DataSource, String)} takes it. */
    public String database() {
        return database;
    }
}
