package dev.zabbet.jdbc.internal.dialect;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Prepared statements that stay open with their connection, for a driver that prepares each time: the ones used
 * last, of one connection. Not for several threads.
 */
public final class StatementCache {
    private static final int MOST = 64;

    private final Map<String, PreparedStatement> byText = new LinkedHashMap<>();
    private @Nullable Connection of;

    /** Runs work with a statement, which is kept afterwards unless the work failed. */
    public void run(Connection connection, String sql, Transactions.StatementWork work) throws SQLException {
        if (connection != of) {
            byText.clear(); // they ended with the connection
            of = connection;
        }
        PreparedStatement kept = byText.remove(sql); // so that work inside this work gets another
        PreparedStatement statement = kept == null ? connection.prepareStatement(sql) : kept;
        try {
            work.run(statement);
            statement.clearParameters(); // values may be long
        } catch (SQLException | RuntimeException e) {
            statement.close();
            throw e;
        }
        PreparedStatement other = byText.put(sql, statement);
        if (other != null) {
            other.close();
        }
        if (byText.size() > MOST) {
            Iterator<PreparedStatement> eldest = byText.values().iterator();
            eldest.next().close();
            eldest.remove();
        }
    }
}
