package dev.zabbet.jdbc.internal.dialect;

/** The tables are no longer those that the journal was installed for. Caught by the store, which reads them again. */
public final class SchemaChangedException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    public SchemaChangedException() {
        super("the tables were changed", null, false, false);
    }
}
