package dev.zabbet.junit;

import java.net.URL;
import java.nio.file.Files;
import java.nio.file.Path;

/** Finds the script that makes an application's tables on one database. */
final class Scripts {
    private Scripts() {}

    /**
     * Returns the script of an engine, if there is one beside the other: {@code huts.mariadb.sql} beside {@code huts.sql}.
     *
     * @param url the database's JDBC URL, which names the engine
     */
    static String of(String script, String url, Class<?> near) {
        String engine = url.replaceFirst("^jdbc:([^:]*):.*", "$1");
        String own = script.replaceFirst("(\\.[^./]*)?$", "." + engine + "$1");
        URL resource = near.getResource(own.startsWith("/") ? own : "/" + own);
        return resource != null || Files.exists(Path.of(own)) ? own : script;
    }
}
