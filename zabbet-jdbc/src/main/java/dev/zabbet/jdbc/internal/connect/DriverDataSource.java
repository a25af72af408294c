package dev.zabbet.jdbc.internal.connect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Secrets;
import java.sql.Connection;
import java.sql.Driver;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Properties;
import org.jspecify.annotations.Nullable;

/** A source of connections that opens each one through {@link DriverManager}. */
public final class DriverDataSource extends PlainDataSource {
    private final String url;
    private final String user;
    private final String password;
    private final @Nullable Driver driver;

    public DriverDataSource(String url, String user, String password) {
        this(url, user, password, null);
    }

    /** @param driver the driver to use; null for whichever takes the URL */
    public DriverDataSource(String url, String user, String password, @Nullable Driver driver) {
        this.driver = driver;
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
        Driver own = driver;
        if (own != null) {
            Properties properties = new Properties();
            if (!asUser.isEmpty()) {
                properties.setProperty("user", asUser);
                properties.setProperty("password", withPassword);
            }
            Connection connection = own.connect(url, properties);
            if (connection == null) {
                throw new ZabbetException(
                        "The driver " + own.getClass().getName() + " does not take " + JdbcUrl.shown(url) + ".");
            }
            return connection;
        }
        try {
            return connect(EndingDatabases.lasting(url), asUser, withPassword);
        } catch (SQLException e) {
            if (EndingDatabases.mayNotLetItLast(e)) {
                return connect(url, asUser, withPassword); // somebody else made it, and sees to that
            }
            if ("08001".equals(e.getSQLState())
                    && String.valueOf(e.getMessage()).contains("suitable driver")) {
                throw new ZabbetException(
                        "No driver on the class path takes " + JdbcUrl.shown(url) + "." + JdbcUrl.driverHint(url), e);
            }
            throw (SQLException) Secrets.without(e, secrets(withPassword)); // drivers repeat what they were given
        } catch (RuntimeException e) {
            throw new SQLException(
                    "The URL " + JdbcUrl.shown(url) + " is not understood: "
                            + Secrets.without(e, secrets(withPassword)).getMessage(),
                    "08001");
        }
    }

    private List<String> secrets(String withPassword) {
        List<String> secrets = new ArrayList<>(Secrets.of(url));
        secrets.add(withPassword);
        return secrets;
    }

    private static Connection connect(String url, String asUser, String withPassword) throws SQLException {
        return asUser.isEmpty()
                ? DriverManager.getConnection(url)
                : DriverManager.getConnection(url, asUser, withPassword);
    }

    @Override
    public String toString() {
        return JdbcUrl.shown(url);
    }
}
