package dev.zabbet.bench;

import dev.zabbet.Stage;
import dev.zabbet.factory.Bulk;
import dev.zabbet.jdbc.Jdbc;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import javax.sql.DataSource;
import org.postgresql.PGConnection;

/** The command as a process: how it starts, beside {@code java -version}, and how it loads, beside the server's own copy. */
final class Commands {
    private static final int ROUNDS = 7;
    private static final String COPY = "COPY stay (id, hut_id, room_number, arrives, nights, status, price, booked_at)";

    private Commands() {}

    /** @param schema a database with many tables */
    static String starting(DataSource schema) throws Exception {
        String java = Path.of(System.getProperty("java.home"), "bin", "java").toString();
        run(Map.of(), launcher(), "--version"); // the first run makes what the others start from
        List<Double> bare = new ArrayList<>();
        List<Double> version = new ArrayList<>();
        List<Double> tables = new ArrayList<>();
        for (int i = 0; i < ROUNDS; i++) {
            bare.add(run(Map.of(), java, "-version"));
            version.add(run(Map.of(), launcher(), "--version"));
            tables.add(run(Map.of("ZABBET_DB", schema.toString()), launcher(), "schema"));
        }
        return String.format(
                Locale.ROOT,
                "java -version %.2f s; zabbet --version %.2f s (%.1f times); zabbet schema of 200 tables %.2f s (%.1f times)",
                Bench.median(bare),
                Bench.median(version),
                Bench.median(version) / Bench.median(bare),
                Bench.median(tables),
                Bench.median(tables) / Bench.median(bare));
    }

    /** @param database the huts on PostgreSQL, without stays */
    static String loading(DataSource database, int rows) throws Exception {
        Path file = Files.createTempDirectory("zabbet").resolve("stay.csv");
        try (Stage stage = Jdbc.stage(database)) {
            stage.add(Bulk.of(100, "hut").and(1000, "room").and(rows, "stay"));
        }
        try (Connection connection = database.getConnection();
                OutputStream to = Files.newOutputStream(file)) {
            connection.unwrap(PGConnection.class).getCopyAPI().copyOut(COPY + " TO STDOUT (FORMAT csv, HEADER)", to);
        }
        List<Double> ours = new ArrayList<>();
        List<Double> copies = new ArrayList<>();
        for (int round = 0; round < 3; round++) {
            Target.execute(database, "TRUNCATE stay");
            copies.add(Bench.seconds(() -> {
                try (Connection connection = database.getConnection();
                        InputStream from = Files.newInputStream(file)) {
                    connection
                            .unwrap(PGConnection.class)
                            .getCopyAPI()
                            .copyIn(COPY + " FROM STDIN (FORMAT csv, HEADER)", from);
                }
            }));
            Target.execute(database, "TRUNCATE stay");
            ours.add(run(
                    Map.of("ZABBET_DB", database.toString(), "JDK_JAVA_OPTIONS", "-Xmx256m"),
                    launcher(),
                    "load",
                    file.toString()));
        }
        Files.delete(file);
        return String.format(
                Locale.ROOT,
                "load of a CSV of %,d stays by the command in 256 MB %.1f s, by the server's copy %.1f s; speed %.2f of it",
                rows,
                Bench.median(ours),
                Bench.median(copies),
                Bench.median(copies) / Bench.median(ours));
    }

    private static String launcher() {
        return System.getProperty(
                "zabbet.launcher", Path.of("zabbet").toAbsolutePath().toString());
    }

    /** Runs a program to its end and returns the seconds that it took. */
    private static double run(Map<String, String> environment, String... command) throws Exception {
        ProcessBuilder builder = new ProcessBuilder(command)
                .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                .redirectError(ProcessBuilder.Redirect.DISCARD);
        builder.environment().putAll(environment);
        return Bench.seconds(() -> {
            int status = builder.start().waitFor();
            if (status != 0) {
                throw new IOException(Arrays.toString(command) + " ended with status " + status);
            }
        });
    }
}
