package dev.zabbet.cli;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;

/** An application that adds a guest, then adds another and deletes all rooms, and is killed before it commits that. */
final class WritingApplication {
    private WritingApplication() {}

    /** Takes the URL of the database. */
    public static void main(String[] arguments) throws SQLException, InterruptedException {
        try (Connection connection = DriverManager.getConnection(arguments[0]);
                Statement statement = connection.createStatement()) {
            add(statement, "Ada");
            connection.setAutoCommit(false);
            add(statement, "Bea");
            statement.executeUpdate("DELETE FROM room");
            System.out.println("written");
            Thread.sleep(600_000);
        }
    }

    private static void add(Statement statement, String name) throws SQLException {
        statement.executeUpdate("INSERT INTO guest (full_name, email, password_hash) VALUES ('" + name + "', '" + name
                + "@huts.example', 'x')");
    }
}
