package dev.zabbet.jdbc.internal.siblings;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.connect.JdbcUrl;
import java.sql.SQLException;

/**
 * Makes and drops databases that stand beside a given one and are named after it: huts_1, huts_2 …; number 0 is the one
 * that others are copied from, where copying pays. While it is open, no other process makes or drops them.
 */
public interface Siblings extends AutoCloseable {

    /** Opens the neighbourhood of a URL. */
    static Siblings beside(String url, String user, String password) throws SQLException {
        if (url.startsWith("jdbc:postgresql:") || url.startsWith("jdbc:mariadb:")) {
            return new ServerSiblings(url, user, password);
        }
        if (url.startsWith("jdbc:sqlite:") || url.startsWith("jdbc:h2:")) {
            return FileSiblings.beside(url, user, password);
        }
        throw new ZabbetException("Databases can be made beside an H2, PostgreSQL, MariaDB or SQLite database; "
                + JdbcUrl.shown(url) + " is none.");
    }

    /** Returns the URL of a database. */
    String url(int number);

    /** Returns the name of a database, of a file its last part. */
    String name(int number);

    /** Tells whether there is such a database. */
    boolean exists(int number) throws SQLException;

    /** Tells whether new ones are copies of number 0. */
    boolean copies();

    /** Makes a database: a copy of number 0 if it copies, else an empty one; number 0 itself is empty. */
    void create(int number) throws SQLException;

    /** Drops a database, with all that it holds. */
    void drop(int number) throws SQLException;

    @Override
    void close() throws SQLException;
}
