package dev.zabbet.type;

import java.util.List;
import java.util.Optional;

/**
 * The type of a column.
 *
 * @param kind the family of values
 * @param sqlName the type as the database names it, with its length or precision, for example {@code NUMERIC(8, 2)}
 * @param length the maximum number of characters or bytes; {@link #UNLIMITED} if there is no limit
 * @param precision for {@code INTEGER} the bits (8, 16, 24, 32, 64), for {@code DECIMAL} the most digits, for times the
 *     digits after the second; {@link #UNLIMITED} if there is no limit
 * @param scale for {@code DECIMAL} the digits after the point; 0 otherwise
 * @param unsigned whether an {@code INTEGER} has no negative values
 * @param labels for {@code ENUM} the allowed names in their order; empty otherwise
 * @param element for {@code ARRAY} the type of its elements
 */
public record DataType(
        Kind kind,
        String sqlName,
        int length,
        int precision,
        int scale,
        boolean unsigned,
        List<String> labels,
        Optional<DataType> element) {

    /** Stands for "no limit" in {@code length} and {@code precision}. */
    public static final int UNLIMITED = -1;

    /**
     * Copies the labels.
     *
     * @param kind the family of values
     * @param sqlName the type as the database names it
     * @param length the maximum number of characters or bytes
     * @param precision bits, digits, or digits after the second, by the kind
     * @param scale for {@code DECIMAL} the digits after the point; 0 otherwise
     * @param unsigned whether an {@code INTEGER} has no negative values
     * @param labels the allowed names, in their order
     * @param element for {@code ARRAY} the type of its elements
     */
    public DataType {
        labels = List.copyOf(labels);
    }

    /**
     * A type without limits of its own, such as {@code DATE} or {@code UUID}.
     *
     * @param kind the family of values
     * @param sqlName the type as the database names it
     * @return the type
     */
    public static DataType of(Kind kind, String sqlName) {
        return new DataType(kind, sqlName, UNLIMITED, UNLIMITED, 0, false, List.of(), Optional.empty());
    }

    /**
     * A type limited in length: characters of text, or bytes.
     *
     * @param kind the family of values
     * @param sqlName the type as the database names it
     * @param length the maximum number of characters or bytes
     * @return the type
     */
    public static DataType sized(Kind kind, String sqlName, int length) {
        return new DataType(kind, sqlName, length, UNLIMITED, 0, false, List.of(), Optional.empty());
    }

    /**
     * A numeric or temporal type of a precision and scale, as the record's parameters say.
     *
     * @param kind the family of values
     * @param sqlName the type as the database names it
     * @param precision bits, digits, or digits after the second, by the kind
     * @param scale for {@code DECIMAL} the digits after the point; 0 otherwise
     * @return the type
     */
    public static DataType precise(Kind kind, String sqlName, int precision, int scale) {
        return new DataType(kind, sqlName, UNLIMITED, precision, scale, false, List.of(), Optional.empty());
    }

    /**
     * A type that allows only the given names.
     *
     * @param sqlName the type as the database names it
     * @param labels the allowed names, in their order
     * @return the type
     */
    public static DataType labelled(String sqlName, List<String> labels) {
        return new DataType(Kind.ENUM, sqlName, UNLIMITED, UNLIMITED, 0, false, labels, Optional.empty());
    }

    /** {@return whether the database fills shorter bytes up with zeros to the length: {@code BINARY(n)}} */
    public boolean isPadded() {
        return kind == Kind.BYTES
                && length != UNLIMITED
                && sqlName.toLowerCase(java.util.Locale.ROOT).startsWith("binary")
                && !sqlName.toLowerCase(java.util.Locale.ROOT).contains("varying")
                && !sqlName.toLowerCase(java.util.Locale.ROOT).contains("large");
    }

    /** {@return this type without negative values} */
    public DataType withoutSign() {
        return new DataType(kind, sqlName, length, precision, scale, true, labels, element);
    }

    /**
     * {@return an array type of the given elements}
     *
     * @param element for {@code ARRAY} the type of its elements
     * @param sqlName the type as the database names it
     */
    public static DataType arrayOf(DataType element, String sqlName) {
        return new DataType(Kind.ARRAY, sqlName, UNLIMITED, UNLIMITED, 0, false, List.of(), Optional.of(element));
    }
}
