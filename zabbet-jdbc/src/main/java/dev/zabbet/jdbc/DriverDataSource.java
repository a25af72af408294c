package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import java.io.PrintWriter;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.SQLFeatureNotSupportedException;
import java.util.logging.Logger;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** A source of connections that opens each anew through {@link DriverManager}. */
final class DriverDataSource implements DataSource {
    private final String url;
    private final String user;
    private final String password;

    DriverDataSource(String url, String user, String password) {
        this.url = url;
        this.user = user;
        this.password = password;
    }

    @Override
    public Connection getConnection() throws SQLException {
        return getConnection(user, password);
    }

    @Override
    public Connection getConnection(String asUser, String withPassword) throws SQLException {
        try {
            return asUser.isEmpty()
                    ? DriverManager.getConnection(url)
                    : DriverManager.getConnection(url, asUser, withPassword);
        } catch (SQLException e) {
            if ("08001".equals(e.getSQLState())
                    && String.valueOf(e.getMessage()).contains("suitable driver")) {
                throw new ZabbetException(
                        "No driver on the class path takes " + JdbcUrl.shown(url) + "." + JdbcUrl.driverHint(url), e);
            }
            throw e;
        }
    }

    @Override
    public @Nullable PrintWriter getLogWriter() {
        return null;
    }

    @Override
    public void setLogWriter(@Nullable PrintWriter out) {}

    @Override
    public void setLoginTimeout(int seconds) {}

    @Override
    public int getLoginTimeout() {
        return 0;
    }

    @Override
    public Logger getParentLogger() throws SQLFeatureNotSupportedException {
        throw new SQLFeatureNotSupportedException();
    }

    @Override
    public <T> T unwrap(Class<T> type) throws SQLException {
        if (type.isInstance(this)) {
            return type.cast(this);
        }
        throw new SQLException("This data source is no " + type.getName() + ".");
    }

    @Override
    public boolean isWrapperFor(Class<?> type) {
        return type.isInstance(this);
    }

    @Override
    public String toString() {
        return JdbcUrl.shown(url);
    }
}
