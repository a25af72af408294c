package dev.zabbet.junit.internal;

import java.net.URL;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Optional;

/** Finds the script that makes an application's tables on one database. */
final class Scripts {
    private Scripts() {}

    /** Returns the URL that stands for a server with nothing installed, of {@code postgres} or {@code postgres:}; else empty. */
    static Optional<String> server(String word) {
        String url = word.endsWith(":") ? word : word + ":";
        return url.equals("postgres:") || url.equals("mariadb:") ? Optional.of(url) : Optional.empty();
    }

    /**
     * Returns the script of an engine, if there is one beside the other: {@code huts.mariadb.sql} beside {@code huts.sql}.
     *
     * @param url the database's JDBC URL, which names the engine
     */
    static String of(String script, String url, Class<?> near) {
        String engine;
        if (url.startsWith("postgres:")) {
            engine = "postgresql";
        } else if (url.startsWith("mariadb:")) {
            engine = "mariadb";
        } else {
            engine = url.replaceFirst("^jdbc:([^:]*):.*", "$1");
        }
        String own = script.replaceFirst("(\\.[^./]*)?$", "." + engine + "$1");
        URL resource = near.getResource(own.startsWith("/") ? own : "/" + own);
        return resource != null || Files.exists(Path.of(own)) ? own : script;
    }
}
