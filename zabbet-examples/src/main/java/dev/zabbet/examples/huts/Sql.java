package dev.zabbet.examples.huts;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** The few lines of JDBC that the repositories share. */
final class Sql {
    private final DataSource dataSource;

    Sql(DataSource dataSource) {
        this.dataSource = dataSource;
    }

    /** Reads an object off the present row. */
    @FunctionalInterface
    interface Reader<T> {
        T read(ResultSet rows) throws SQLException;
    }

    <T> List<T> query(Reader<T> reader, String sql, @Nullable Object... parameters) {
        try (Connection connection = dataSource.getConnection();
                PreparedStatement statement = connection.prepareStatement(sql)) {
            bind(statement, parameters);
            try (ResultSet rows = statement.executeQuery()) {
                List<T> found = new ArrayList<>();
                while (rows.next()) {
                    found.add(reader.read(rows));
                }
                return found;
            }
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    int update(String sql, @Nullable Object... parameters) {
        try (Connection connection = dataSource.getConnection();
                PreparedStatement statement = connection.prepareStatement(sql)) {
            bind(statement, parameters);
            return statement.executeUpdate();
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Changes a row that has to be there. */
    void updateOne(String sql, @Nullable Object... parameters) {
        if (update(sql, parameters) == 0) {
            throw new IllegalStateException("There is no such row to update.");
        }
    }

    /** Stores a row and returns the number that the database gave it. */
    long insert(String sql, @Nullable Object... parameters) {
        try (Connection connection = dataSource.getConnection();
                PreparedStatement statement = connection.prepareStatement(sql, Statement.RETURN_GENERATED_KEYS)) {
            bind(statement, parameters);
            statement.executeUpdate();
            try (ResultSet keys = statement.getGeneratedKeys()) {
                keys.next();
                return keys.getLong(1);
            }
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    private static void bind(PreparedStatement statement, @Nullable Object... parameters) throws SQLException {
        for (int i = 0; i < parameters.length; i++) {
            statement.setObject(i + 1, parameters[i]);
        }
    }
}
