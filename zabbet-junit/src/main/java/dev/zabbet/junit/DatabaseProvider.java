package dev.zabbet.junit;

import javax.sql.DataSource;

/**
 * Gives test classes their database, from wherever the application's tests keep it (a framework's context, for example). Named in
 * {@link Staged#provider}; it is made by its constructor without parameters, once for each test class, and asked once.
 */
public interface DatabaseProvider {

    /**
     * {@return the database for a test class}
     *
     * @param testClass the class whose tests need it
     */
    DataSource database(Class<?> testClass);
}
