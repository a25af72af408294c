package dev.zabbet.fake;

import dev.zabbet.row.Row;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/** The rows behind a fake, for a {@link Definition}. What is written obeys the schema's constraints. */
public interface Tables {
    /** Returns all objects of a type's table, in key order, as they are stored. Their relations lead to one another. */
    <T> Stream<T> all(Class<T> type);

    /** Returns the object that stands for the same row in the application's transaction; one that has no row as it is. */
    Object managed(Object object);

    /** Returns all rows of a table, in key order. */
    List<Row> rows(String table);

    /**
     * Stores a row.
     *
     * @return the row as stored, with all columns
     * @throws dev.zabbet.store.ConstraintException if a constraint refuses it
     */
    Row insert(String table, Row row);

    /**
     * Changes the row that has a key.
     *
     * @return whether there was one
     */
    boolean update(String table, Object key, Row changes);

    /**
     * Deletes the row that has a key.
     *
     * @return whether there was one
     */
    boolean delete(String table, Object key);

    /**
     * Deletes the row of an entity by its key alone, as a provider does where it does not read the entity: nothing is passed on,
     * but rows between it and others and those of its elements are deleted too.
     *
     * @return whether there was one
     */
    boolean deleteUnread(Class<?> type, Object key);

    /**
     * Deletes the row of an entity by its key, with all that the deletion is passed on to.
     *
     * @return whether there was one
     */
    boolean delete(Class<?> type, Object key);

    /** Finds the object whose row has a key. */
    Optional<Object> find(Class<?> type, Object key);

    /** Finds the row that has a key. */
    Optional<Row> find(String table, Object key);

    /**
     * Returns the key of an object, in the order of its table's key columns.
     *
     * @throws dev.zabbet.error.ZabbetException if it has none
     */
    List<Object> keyOf(Object object);

    /**
     * Returns the key of a type's table that a provider's identifier says: a value, or an object that has the parts of the key.
     *
     * @throws dev.zabbet.error.ZabbetException if it does not have them
     */
    List<Object> keyOf(Class<?> type, Object identifier);

    /** Returns the stage's clock. */
    Clock clock();
}
