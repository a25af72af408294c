package dev.zabbet.jdbc.internal.connect;

import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import javax.sql.DataSource;

/** Connections that have a role set until they are closed, so that a pool gets them back as it gave them. */
public final class RoleDataSource extends PlainDataSource {
    private final DataSource dataSource;
    private final String quoted;

    public RoleDataSource(DataSource dataSource, String role) {
        this.dataSource = dataSource;
        this.quoted = '"' + role.replace("\"", "\"\"") + '"';
    }

    @Override
    public Connection getConnection() throws SQLException {
        return entered(dataSource.getConnection());
    }

    @Override
    public Connection getConnection(String user, String password) throws SQLException {
        return entered(dataSource.getConnection(user, password));
    }

    private Connection entered(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SET ROLE " + quoted);
        } catch (SQLException e) {
            connection.close();
            throw e;
        }
        return (Connection) Proxy.newProxyInstance(
                Connection.class.getClassLoader(), new Class<?>[] {Connection.class}, (proxy, method, arguments) -> {
                    if (method.getName().equals("close") && !connection.isClosed()) {
                        leave(connection);
                    }
                    try {
                        return method.invoke(connection, arguments);
                    } catch (InvocationTargetException e) {
                        throw e.getCause() == null ? e : e.getCause();
                    }
                });
    }

    private static void leave(Connection connection) throws SQLException {
        if (!connection.getAutoCommit()) {
            connection.rollback();
        }
        try (Statement statement = connection.createStatement()) {
            statement.execute("RESET ROLE");
        }
        if (!connection.getAutoCommit()) {
            connection.commit();
        }
    }

    @Override
    public String toString() {
        return dataSource + " as " + quoted;
    }
}
