package dev.zabbet.spring;

import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.jdbc.LocalServer;
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
        Made made = make(server);
        Runtime.getRuntime().addShutdownHook(new Thread(made::close));
        properties.add("spring.datasource.url", made::url);
        properties.add("zabbet.dedicate", made::name);
        return made.url();
    }

    /** Makes a database, which is dropped when it is closed. */
    static Made make(String server) {
        String url = LocalServer.jdbcUrl(System.getenv(server));
        String name =
                "zabbet_spring_" + UUID.randomUUID().toString().substring(0, 8).toLowerCase(Locale.ROOT);
        execute(Jdbc.dataSource(url, "", ""), "CREATE DATABASE " + name);
        return new Made(server, name, url.replaceFirst("/[^/?]+(\\?|$)", "/" + name + "$1"));
    }

    /** A database on a server. */
    record Made(String server, String name, String url) implements AutoCloseable {
        @Override
        public void close() {
            String all = LocalServer.jdbcUrl(System.getenv(server));
            execute(
                    Jdbc.dataSource(all, "", ""),
                    "DROP DATABASE " + name + (all.contains("postgres") ? " WITH (FORCE)" : ""));
        }
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
