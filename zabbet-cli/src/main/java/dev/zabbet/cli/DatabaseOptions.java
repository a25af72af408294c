package dev.zabbet.cli;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.Jdbc;
import java.nio.file.Path;
import java.util.Optional;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** Which database a command works on. */
final class DatabaseOptions {
    @Option(
            names = "--db",
            paramLabel = "URL",
            description = "The database's JDBC URL, or postgres:NAME or mariadb:NAME for one on a server with nothing"
                    + " installed; without it, the environment's ZABBET_DB.")
    private @Nullable String url;

    @Option(names = "--driver", paramLabel = "PATH", description = "A JDBC driver's jar, in place of those inside.")
    private @Nullable Path driver;

    DataSource dataSource() {
        return dataSource(chosenUrl());
    }

    /** Returns a data source for another database, with the user and the driver that were given. */
    DataSource dataSource(String other) {
        Path jar = driver;
        return jar == null
                ? Jdbc.dataSource(other, user(), password())
                : Jdbc.dataSource(other, user(), password(), jar);
    }

    String chosenUrl() {
        String chosen = url != null ? url : environment("ZABBET_DB");
        if (chosen.isBlank()) {
            throw new ZabbetException(
                    "Which database? Name it by --db jdbc:…, or set ZABBET_DB." + " For example: --db jdbc:h2:./huts");
        }
        return chosen;
    }

    String user() {
        return environment("ZABBET_USER");
    }

    String password() {
        return environment("ZABBET_PASSWORD");
    }

    boolean hasDriver() {
        return driver != null;
    }

    private static String environment(String name) {
        return Optional.ofNullable(System.getenv(name)).orElse("");
    }
}
