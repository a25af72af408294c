package dev.zabbet.jdbc.internal.connect;

import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import javax.sql.DataSource;

/** A source of connections on which statements are run before they are handed out. */
public final class PreparingDataSource extends PlainDataSource {
    private final DataSource real;
    private final List<String> statements;

    /** @param statements read again for each connection */
    public PreparingDataSource(DataSource real, List<String> statements) {
        this.real = real;
        this.statements = statements;
    }

    @Override
    public Connection getConnection() throws SQLException {
        return prepared(real.getConnection());
    }

    @Override
    public Connection getConnection(String user, String password) throws SQLException {
        return prepared(real.getConnection(user, password));
    }

    private Connection prepared(Connection connection) throws SQLException {
        try {
            run(connection, statements);
            return connection;
        } catch (SQLException e) {
            connection.close();
            throw e;
        }
    }

    public static void run(Connection connection, List<String> statements) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            for (String sql : statements) {
                statement.execute(sql);
            }
        }
    }

    @Override
    public String toString() {
        return real.toString();
    }
}
