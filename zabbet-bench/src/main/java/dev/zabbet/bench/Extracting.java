package dev.zabbet.bench;

import dev.zabbet.Stage;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.ExtractSummary;
import dev.zabbet.extract.Masking;
import dev.zabbet.factory.Bulk;
import dev.zabbet.jdbc.Extracts;
import dev.zabbet.jdbc.Jdbc;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.StringJoiner;
import java.util.TreeSet;
import javax.sql.DataSource;

/** An extract with all that it refers to, as SQL; beside it the same rows by three queries that somebody has written for them. */
final class Extracting {
    private static final int ROUNDS = 9;
    private static final int GUESTS = 200;
    private static final int STAYS_OF_EACH = 15;
    private static final String[] TABLES = {
        "CREATE TABLE hut (id ${id}, name VARCHAR(80) NOT NULL UNIQUE)",
        "CREATE TABLE guest (id ${id}, full_name VARCHAR(80) NOT NULL, email VARCHAR(120) NOT NULL UNIQUE, born DATE)",
        "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), guest_id BIGINT NOT NULL REFERENCES guest"
                + " (id), arrives DATE NOT NULL, nights INTEGER NOT NULL)",
        "CREATE INDEX stay_of_guest ON stay (guest_id)",
    };

    private Extracting() {}

    /** Returns what was measured in a database with so many stays. */
    static String measure(Target target, int stays) throws Exception {
        DataSource database = target.fresh(TABLES);
        try (Stage stage = Jdbc.stage(database)) {
            stage.add(Bulk.of(100, "hut").and(stays / STAYS_OF_EACH, "guest").and(stays, "stay"));
        }
        Path file = Files.createTempFile("zabbet", ".sql");
        Extract extract = Extract.rows("guest", GUESTS).below("stay");
        Masking masking = Masking.withSecret("a secret of the benchmarks");
        List<Double> ours = new ArrayList<>();
        List<Double> plain = new ArrayList<>();
        int taken = 0;
        for (int i = 0; i < ROUNDS; i++) {
            plain.add(Bench.seconds(() -> byHand(database, file)));
            List<ExtractSummary> summary = new ArrayList<>();
            ours.add(Bench.seconds(() -> summary.add(Extracts.take(database, extract, masking, Extracts.sql(file)))));
            taken = summary.get(0).tables().values().stream()
                    .mapToInt(Integer::intValue)
                    .sum();
        }
        Files.delete(file);
        return String.format(
                Locale.ROOT,
                "extract of %d of %d rows, %s: by hand %.0f ms, masked %.0f ms (%.1f times)",
                taken,
                stays + stays / STAYS_OF_EACH + 100,
                target,
                Bench.median(plain) * 1_000,
                Bench.median(ours) * 1_000,
                Bench.median(ours) / Bench.median(plain));
    }

    private static void byHand(DataSource database, Path file) throws SQLException, IOException {
        StringBuilder text = new StringBuilder();
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            StringBuilder guests = new StringBuilder();
            Set<String> ids = write(statement, "guest", "SELECT * FROM guest ORDER BY id LIMIT " + GUESTS, 1, guests);
            StringBuilder stays = new StringBuilder();
            Set<String> huts = write(
                    statement,
                    "stay",
                    "SELECT * FROM stay WHERE guest_id IN (" + String.join(", ", ids) + ") ORDER BY id",
                    2,
                    stays);
            write(statement, "hut", "SELECT * FROM hut WHERE id IN (" + String.join(", ", huts) + ")", 1, text);
            text.append(guests).append(stays);
        }
        Files.writeString(file, text);
    }

    /** Writes the rows of a query as statements; returns the values of a column. */
    private static Set<String> write(Statement statement, String table, String sql, int column, StringBuilder text)
            throws SQLException {
        Set<String> values = new TreeSet<>();
        try (ResultSet rows = statement.executeQuery(sql)) {
            int columns = rows.getMetaData().getColumnCount();
            while (rows.next()) {
                StringJoiner row = new StringJoiner(", ", "INSERT INTO " + table + " VALUES (", ");\n");
                for (int c = 1; c <= columns; c++) {
                    String value = rows.getString(c);
                    row.add(value == null ? "NULL" : "'" + value.replace("'", "''") + "'");
                }
                text.append(row);
                values.add(rows.getString(column));
            }
        }
        return values;
    }
}
