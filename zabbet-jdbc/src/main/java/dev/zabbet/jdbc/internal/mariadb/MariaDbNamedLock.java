package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;

/** The server's named lock that says a stage is open on a database (GET_LOCK). */
final class MariaDbNamedLock {
    boolean lock(Connection connection, DatabaseIdentity place) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("SELECT GET_LOCK(?, 0)")) {
            statement.setString(1, lockName(place));
            try (ResultSet row = statement.executeQuery()) {
                row.next();
                return row.getInt(1) == 1;
            }
        }
    }

    void unlock(Connection connection, DatabaseIdentity place) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("SELECT RELEASE_LOCK(?)")) {
            statement.setString(1, lockName(place));
            statement.execute();
        }
    }

    String holder(Connection connection, DatabaseIdentity place) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("SELECT IS_USED_LOCK(?)")) {
            statement.setString(1, lockName(place));
            try (ResultSet row = statement.executeQuery()) {
                row.next();
                return "server connection " + row.getString(1);
            }
        }
    }

    private static String lockName(DatabaseIdentity place) {
        String name = "zabbet." + place.database();
        return name.length() <= 64 ? name : name.substring(0, 55) + Integer.toHexString(name.hashCode());
    }
}
