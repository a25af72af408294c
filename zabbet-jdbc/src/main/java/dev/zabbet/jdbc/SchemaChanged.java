package dev.zabbet.jdbc;

/** The tables are no longer those that the journal was installed for. Caught by the store, which reads them again. */
final class SchemaChanged extends RuntimeException {
    private static final long serialVersionUID = 1L;

    SchemaChanged() {
        super("the tables were changed", null, false, false);
    }
}
