package dev.zabbet.cli;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;

/** An application that adds, changes and deletes rows until it is killed; every second transaction is never committed. */
final class WritingApplication {
    private WritingApplication() {}

    /** Takes the URL of the database. */
    public static void main(String[] arguments) throws InterruptedException {
        for (int round = 0; ; round++) {
            try (Connection connection = DriverManager.getConnection(arguments[0]);
                    Statement statement = connection.createStatement()) {
                connection.setAutoCommit(false);
                statement.executeUpdate("INSERT INTO guest (full_name, email, password_hash) VALUES ('Ada', 'ada"
                        + round + "@huts.example', 'x')");
                statement.executeUpdate("UPDATE hut SET beds = " + (5 + round % 90));
                statement.executeUpdate("DELETE FROM room");
                Thread.sleep(5);
                if (round % 2 == 0) {
                    connection.commit();
                } else {
                    connection.rollback();
                }
            } catch (SQLException e) {
                Thread.sleep(5); // another has the row, or the tables are being rewound
            }
        }
    }
}
