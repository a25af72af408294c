package dev.zabbet.bench;

import dev.zabbet.jdbc.Jdbc;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import javax.sql.DataSource;

/** A database made again by its own means: a template, a copy of its file, or the script of its tables. */
final class Copies implements AutoCloseable {
    private final Target target;
    private final List<String> ddl;
    private final String server;
    private final Path folder;

    private Copies(Target target, List<String> ddl, String server, Path folder) {
        this.target = target;
        this.ddl = ddl;
        this.server = server;
        this.folder = folder;
    }

    static Copies of(Target target, String[] ddl) throws Exception {
        List<String> statements = List.of(target.ddl(ddl));
        String server = String.valueOf(System.getenv("ZABBET_TEST_" + target.name()));
        Copies copies = new Copies(target, statements, server, Files.createTempDirectory("zabbet"));
        if (target == Target.POSTGRES) {
            Target.execute(copies.database(""), "CREATE DATABASE zabbet_bench_template");
            copies.make("zabbet_bench_template");
        } else if (target == Target.SQLITE) {
            copies.make("template");
        }
        return copies;
    }

    private DataSource database(String name) {
        return switch (target) {
            case H2 -> Jdbc.dataSource("jdbc:h2:mem:" + name, "sa", "");
            case SQLITE -> Jdbc.dataSource("jdbc:sqlite:" + folder.resolve(name) + "?foreign_keys=on", "", "");
            default ->
                Jdbc.dataSource(name.isEmpty() ? server : server.replaceFirst("(//[^/]+/)[^?]*", "$1" + name), "", "");
        };
    }

    private void make(String name) throws SQLException {
        try (Connection connection = database(name).getConnection();
                Statement statement = connection.createStatement()) {
            for (String sql : ddl) {
                statement.execute(sql);
            }
        }
    }

    /** Makes the database that a test would use, in the place of the one before it. */
    void renew() throws Exception {
        switch (target) {
            case POSTGRES -> {
                Target.execute(database(""), "DROP DATABASE IF EXISTS zabbet_bench_copy WITH (FORCE)");
                Target.execute(database(""), "CREATE DATABASE zabbet_bench_copy TEMPLATE zabbet_bench_template");
                Target.execute(database("zabbet_bench_copy"), "SELECT 1");
            }
            case SQLITE -> {
                Files.copy(folder.resolve("template"), folder.resolve("copy"), StandardCopyOption.REPLACE_EXISTING);
                Target.execute(database("copy"), "SELECT 1 FROM hut");
            }
            case MARIADB -> {
                Target.execute(database(""), "DROP DATABASE IF EXISTS zabbet_bench_copy");
                Target.execute(database(""), "CREATE DATABASE zabbet_bench_copy");
                make("zabbet_bench_copy");
            }
            default -> make("zabbet_bench_" + Long.toString(System.nanoTime(), 36));
        }
    }

    @Override
    public void close() throws SQLException {
        if (target == Target.POSTGRES || target == Target.MARIADB) {
            Target.execute(database(""), "DROP DATABASE IF EXISTS zabbet_bench_copy");
        }
        if (target == Target.POSTGRES) {
            Target.execute(database(""), "DROP DATABASE zabbet_bench_template");
        }
    }
}
