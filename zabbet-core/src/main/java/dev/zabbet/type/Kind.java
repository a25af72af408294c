package dev.zabbet.type;

/** The family of values that a column holds, the same for every database. */
public enum Kind {
    /** True or false. In memory: {@link Boolean}. */
    BOOLEAN,
    /** Whole numbers of a fixed number of bits. In memory: {@link Long}, or BigInteger beyond its range. */
    INTEGER,
    /** Decimal numbers of a precision and scale. In memory: {@link java.math.BigDecimal}. */
    DECIMAL,
    /** Binary floating point. In memory: {@link Double}. */
    FLOAT,
    /** Text of varying length. In memory: {@link String}. */
    TEXT,
    /** Text that the database pads with blanks to a fixed width. In memory: {@link String} without the padding. */
    FIXED_TEXT,
    /** Bytes. In memory: {@code byte[]}. */
    BYTES,
    /** A calendar date. In memory: {@link java.time.LocalDate}. */
    DATE,
    /** A time of day. In memory: {@link java.time.LocalTime}. */
    TIME,
    /** A date and time without a zone. In memory: {@link java.time.LocalDateTime}. */
    TIMESTAMP,
    /** A point on the time line. In memory: {@link java.time.Instant}. */
    INSTANT,
    /** A universally unique identifier. In memory: {@link java.util.UUID}. */
    UUID,
    /** A JSON document. In memory: {@link String}. */
    JSON,
    /** One of a fixed list of names. In memory: {@link String}. */
    ENUM,
    /** An array. In memory: a {@link java.util.List}. */
    ARRAY,
    /** Anything else; kept as the driver gives it. */
    OTHER
}
