package dev.zabbet.jdbc.internal.connect;

import dev.zabbet.error.ZabbetException;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Locale;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** H2 databases in memory, which end with their last connection unless DB_CLOSE_DELAY says otherwise. */
public final class EndingDatabases {
    private static final String MEMORY = "jdbc:h2:mem:";
    private static final int ADMIN_RIGHTS_REQUIRED = 90040;

    private EndingDatabases() {}

    /** Refuses a database without a name, of which each connection has one of its own. */
    public static void requireName(String url) {
        if (url.startsWith(MEMORY)
                && (url.substring(MEMORY.length()).isEmpty() || url.charAt(MEMORY.length()) == ';')) {
            throw new ZabbetException(
                    "'" + url + "' gives each connection an empty database of its own, so that nothing"
                            + " stored by one is seen by another. Give it a name: " + MEMORY + "huts");
        }
    }

    /**
     * Returns a URL under which the database stays while this process lives: a test's stage and its application each take and
     * give back connections, and must find the same tables.
     */
    static String lasting(String url) {
        return !url.startsWith(MEMORY) || url.toUpperCase(Locale.ROOT).contains("DB_CLOSE_DELAY")
                ? url
                : url + ";DB_CLOSE_DELAY=-1";
    }

    /** Tells whether only an administrator may say how long the database stays. */
    static boolean mayNotLetItLast(SQLException refusal) {
        return refusal.getErrorCode() == ADMIN_RIGHTS_REQUIRED
                && String.valueOf(refusal.getMessage()).contains("DB_CLOSE_DELAY");
    }

    /**
     * A connection to a database that would end without one.
     *
     * @param connection null where the database stays by itself
     */
    public record Alive(@Nullable Connection connection) implements AutoCloseable {
        @Override
        public void close() throws SQLException {
            if (connection != null) {
                connection.close();
            }
        }
    }

    public static Alive keptAlive(DataSource dataSource) throws SQLException {
        Connection connection = dataSource.getConnection();
        if (connection.getMetaData().getURL().startsWith(MEMORY)) {
            return new Alive(connection);
        }
        connection.close();
        return new Alive(null);
    }
}
