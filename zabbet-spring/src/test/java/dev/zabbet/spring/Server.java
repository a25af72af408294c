package dev.zabbet.spring;

import dev.zabbet.jdbc.Jdbc;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Locale;
import java.util.UUID;
import javax.sql.DataSource;
import org.springframework.test.context.DynamicPropertyRegistry;

/** New databases on the servers that the environment names. */
public final class Server {
    private Server() {}

    /**
     * Makes a database and says where it is, and that all that migrations put there may be lost.
     *
     * @return its URL
     */
    public static String register(String server, DynamicPropertyRegistry properties) {
        String url = System.getenv(server);
        String name =
                "zabbet_spring_" + UUID.randomUUID().toString().substring(0, 8).toLowerCase(Locale.ROOT);
        DataSource all = Jdbc.dataSource(url, "", "");
        execute(all, "CREATE DATABASE " + name);
        Runtime.getRuntime()
                .addShutdownHook(new Thread(() ->
                        execute(all, "DROP DATABASE " + name + (url.contains("postgres") ? " WITH (FORCE)" : ""))));
        String made = url.replaceFirst("/[^/?]+(\\?|$)", "/" + name + "$1");
        properties.add("spring.datasource.url", () -> made);
        properties.add("zabbet.dedicate", () -> name);
        return made;
    }

    private static void execute(DataSource database, String sql) {
        try (Connection connection = database.getConnection();
                var statement = connection.createStatement()) {
            statement.execute(sql);
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }
}
