package dev.zabbet.error;

/** Thrown when a database that is not dedicated to tests would have to be written to. Nothing was. */
public final class UndedicatedException extends ZabbetException {
    private static final long serialVersionUID = 1L;

    private final String database;

    /**
     * Makes one.
     *
     * @param message what was found, and how to dedicate the database
     * @param database its name, of a file its last part
     */
    public UndedicatedException(String message, String database) {
        super(message);
        this.database = database;
    }

    /** {@return the database's name, of a file its last part, as {@code Jdbc.dedicate} takes it} */
    public String database() {
        return database;
    }
}
