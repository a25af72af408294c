package dev.zabbet.cli;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;

/**
 * An application that adds a guest, then adds another and deletes all rooms, and is killed before it commits that; or one that goes
 * on writing until it is killed.
 */
final class WritingApplication {
    private WritingApplication() {}

    /** Takes the URL of the database, and whether to go on writing. */
    public static void main(String[] arguments) throws SQLException, InterruptedException {
        if (arguments.length > 1) {
            goOn(arguments[0]);
        }
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

    private static void goOn(String url) throws SQLException, InterruptedException {
        try (Connection connection = DriverManager.getConnection(url);
                Statement statement = connection.createStatement()) {
            connection.setAutoCommit(false);
            System.out.println("written");
            for (int round = 0; ; round++) {
                try {
                    add(statement, "Ada" + round);
                    statement.executeUpdate(
                            round % 3 == 0 ? "DELETE FROM room" : "UPDATE hut SET beds = " + (5 + round % 30));
                    statement.executeUpdate("DELETE FROM guest WHERE full_name LIKE '%7'");
                    connection.commit();
                } catch (SQLException e) {
                    connection.rollback(); // a row that the server has just taken away, or a deadlock with it
                }
                Thread.sleep(round % 4);
            }
        }
    }

    private static void add(Statement statement, String name) throws SQLException {
        statement.executeUpdate("INSERT INTO guest (full_name, email, password_hash) VALUES ('" + name + "', '" + name
                + "@huts.example', 'x')");
    }
}
