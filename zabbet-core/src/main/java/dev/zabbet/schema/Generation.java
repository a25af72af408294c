package dev.zabbet.schema;

/** Who makes the values of a column when a row is stored without one. */
public enum Generation {
    /** Nobody: the value is given, or the default applies, or it is null. */
    NONE,
    /** The database numbers the rows; an explicit value is taken as it is. */
    IDENTITY,
    /** The database numbers the rows; an explicit value has to override it. */
    IDENTITY_ALWAYS,
    /** The default takes the next number of a sequence. */
    SEQUENCE,
    /** The value is computed from other columns and can never be written. */
    COMPUTED
}
