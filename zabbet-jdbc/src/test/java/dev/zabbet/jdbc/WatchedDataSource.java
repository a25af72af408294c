package dev.zabbet.jdbc;

import dev.zabbet.jdbc.internal.connect.PlainDataSource;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import javax.sql.DataSource;

/** A source of connections that calls somebody before each statement is prepared: to fail, or to change rows meanwhile. */
final class WatchedDataSource extends PlainDataSource {
    private final DataSource real;
    private final Watcher watcher;

    /** What is done before a statement. */
    @FunctionalInterface
    interface Watcher {
        void before(String sql) throws SQLException;
    }

    WatchedDataSource(DataSource real, Watcher watcher) {
        this.real = real;
        this.watcher = watcher;
    }

    @Override
    public Connection getConnection() throws SQLException {
        Connection connection = real.getConnection();
        return (Connection) Proxy.newProxyInstance(
                Connection.class.getClassLoader(), new Class<?>[] {Connection.class}, (proxy, method, arguments) -> {
                    if (method.getName().equals("prepareStatement")) {
                        watcher.before(String.valueOf(arguments[0]));
                    }
                    try {
                        return method.invoke(connection, arguments);
                    } catch (InvocationTargetException e) {
                        throw e.getCause();
                    }
                });
    }

    @Override
    public Connection getConnection(String user, String password) throws SQLException {
        return getConnection();
    }
}
