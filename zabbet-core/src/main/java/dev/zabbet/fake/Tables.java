package dev.zabbet.fake;

import dev.zabbet.row.Row;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/** The rows behind a fake, for a {@link Definition}. Writes obey the schema's constraints. */
public interface Tables {
    /**
     * {@return all objects of a type's table, in key order, as they are stored} Their relations lead to one another.
     *
     * @param <T> the type of the objects
     * @param type the Java type whose table is meant
     */
    <T> Stream<T> all(Class<T> type);

    /**
     * {@return the object that stands for the same row in the application's transaction; one that has no row as it is}
     *
     * @param object an object that was read
     */
    Object managed(Object object);

    /**
     * {@return all rows of a table, in key order}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     */
    List<Row> rows(String table);

    /**
     * Stores a row.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param row the row
     * @return the row as stored, with all columns
     * @throws dev.zabbet.store.ConstraintException if a constraint refuses it
     */
    Row insert(String table, Row row);

    /**
     * Changes the row that has a key.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @param changes the columns that change, with their new values
     * @return whether there was one
     */
    boolean update(String table, Object key, Row changes);

    /**
     * Deletes the row that has a key.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @return whether there was one
     */
    boolean delete(String table, Object key);

    /**
     * Deletes the row of an entity by its key alone, as a provider does where it does not read the entity: nothing is passed on,
     * but rows between it and others and those of its elements are deleted too.
     *
     * @param type the Java type whose table is meant
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @return whether there was one
     */
    boolean deleteUnread(Class<?> type, Object key);

    /**
     * Deletes the row of an entity by its key, with all that the deletion is passed on to.
     *
     * @param type the Java type whose table is meant
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @return whether there was one
     */
    boolean delete(Class<?> type, Object key);

    /**
     * Finds the object whose row has a key.
     *
     * @param type the Java type whose table is meant
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @return what was found; empty if there is none
     */
    Optional<Object> find(Class<?> type, Object key);

    /**
     * Finds the row that has a key.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param key the key: a plain value, or a row of all columns of a composite key
     * @return what was found; empty if there is none
     */
    Optional<Row> find(String table, Object key);

    /**
     * {@return the key of an object, in the order of its table's key columns}
     *
     * @param object an object of the type
     * @throws dev.zabbet.error.ZabbetException if it has none
     */
    List<Object> keyOf(Object object);

    /**
     * {@return the key of a type's table that a provider's identifier says: a value, or an object that has the parts of the key}
     *
     * @param type the Java type whose table is meant
     * @param identifier what the application knows the row by
     * @throws dev.zabbet.error.ZabbetException if it does not have them
     */
    List<Object> keyOf(Class<?> type, Object identifier);

    /** {@return the stage's clock} */
    Clock clock();
}
