package dev.zabbet.jdbc;

import dev.zabbet.Stage;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;

/** A process that opens a stage on a server with nothing installed. */
final class LocalServerUser {
    private LocalServerUser() {}

    /** @param arguments which server, a script, a query, and for how many seconds the stage stays open */
    public static void main(String[] arguments) throws Exception {
        long begun = System.nanoTime();
        try (Stage stage = arguments[0].equals("postgres") ? Jdbc.postgres(arguments[1]) : Jdbc.mariadb(arguments[1])) {
            long ready = (System.nanoTime() - begun) / 1_000_000;
            stage.add("stay");
            stage.expect("stay").count(1);
            try (Connection connection = stage.dataSource().getConnection();
                    Statement statement = connection.createStatement();
                    ResultSet row = statement.executeQuery(arguments[2])) {
                row.next();
                System.out.println("open after " + ready + " ms: " + row.getString(1));
            }
            Thread.sleep(Long.parseLong(arguments[3]) * 1000);
        }
    }
}
