package dev.zabbet.store;

import dev.zabbet.row.Row;
import java.util.function.Predicate;

/**
 * What a role may do with rows in memory. Nothing is allowed unless it is stated. Rows that a role may not read, change or
 * remove are not there for it; a row that it adds, or makes of another, has to be one that it may add or change. The rules
 * are those of row-level policies in PostgreSQL (its documentation, "Row Security Policies").
 *
 * <p>Thread-safe. Each method returns this object, allows more than before, and throws a {@link
 * dev.zabbet.error.UnknownNameException} if there is no such table.
 */
public interface Permits {
    /**
     * Allows to read the rows of a table for which a predicate holds.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param rows for which rows it is allowed
     * @return what is allowed, with this; the other stays as it is
     */
    Permits reads(String table, Predicate<Row> rows);

    /**
     * Allows to add such rows to a table.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param rows for which rows it is allowed
     * @return what is allowed, with this; the other stays as it is
     */
    Permits adds(String table, Predicate<Row> rows);

    /**
     * Allows to change such rows of a table, to others for which the predicate holds too.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param rows for which rows it is allowed
     * @return what is allowed, with this; the other stays as it is
     */
    Permits changes(String table, Predicate<Row> rows);

    /**
     * Allows to remove such rows from a table.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param rows for which rows it is allowed
     * @return what is allowed, with this; the other stays as it is
     */
    Permits removes(String table, Predicate<Row> rows);

    /**
     * Allows everything with all rows of a table.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @return what is allowed, with this; the other stays as it is
     */
    Permits all(String table);
}
