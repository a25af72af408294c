package dev.zabbet.bench;

import static dev.zabbet.row.Row.row;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.row.Row;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.function.Function;
import java.util.stream.Collectors;
import javax.sql.DataSource;

/**
 * What one test costs: four rows arranged in three tables, a service call of three statements, one expectation of what it
 * left, back to the start. Beside it the same by hand.
 */
final class Suite {
    private static final int WARM_UP = 1_000;
    private static final int MEASURED = 200;
    private static final int COPIES = 9;

    private static final String[] HUTS = {
        "CREATE TABLE region (id ${id}, name VARCHAR(80) NOT NULL UNIQUE, country CHAR(2) NOT NULL)",
        "CREATE TABLE hut (id ${id}, region_id BIGINT NOT NULL REFERENCES region (id), name VARCHAR(80) NOT NULL UNIQUE,"
                + " beds INTEGER NOT NULL CHECK (beds BETWEEN 4 AND 200), opened_on DATE NOT NULL)",
        "CREATE TABLE guest (id ${id}, full_name VARCHAR(80) NOT NULL, email VARCHAR(120) NOT NULL UNIQUE)",
        "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), arrives DATE NOT NULL, nights INTEGER NOT"
                + " NULL CHECK (nights BETWEEN 1 AND 14), status VARCHAR(20) NOT NULL CHECK (status IN ('REQUESTED',"
                + " 'CONFIRMED', 'CANCELLED', 'DONE')), price NUMERIC(8, 2) NOT NULL, cancelled_at TIMESTAMP NULL)",
        "CREATE TABLE ledger_entry (id VARCHAR(36) PRIMARY KEY, stay_id BIGINT NOT NULL REFERENCES stay (id), amount"
                + " NUMERIC(8, 2) NOT NULL, kind VARCHAR(10) NOT NULL)",
    };

    private final Target target;
    private final int tables;
    private final List<String> names = new ArrayList<>();

    private Suite(Target target, int tables) {
        this.target = target;
        this.tables = tables;
    }

    /** Returns a line of what was measured with so many tables. */
    static String measure(Target target, int tables) throws Exception {
        return new Suite(target, tables).measured();
    }

    private String[] ddl() {
        List<String> ddl = new ArrayList<>(List.of(HUTS));
        names.clear();
        names.addAll(List.of("ledger_entry", "stay", "guest", "hut", "region"));
        for (int i = ddl.size(); i < tables; i++) {
            ddl.add("CREATE TABLE t" + i
                    + " (id ${id}, name VARCHAR(80) NOT NULL UNIQUE, size INTEGER CHECK (size > 0), "
                    + (i == HUTS.length
                            ? "hut_id BIGINT REFERENCES hut (id)"
                            : "other_id BIGINT REFERENCES t" + (i - 1) + " (id)")
                    + ")");
            names.add(0, "t" + i);
        }
        return ddl.toArray(String[]::new);
    }

    static HikariDataSource pooled(DataSource database) {
        HikariConfig config = new HikariConfig();
        config.setDataSource(database);
        config.setMaximumPoolSize(4);
        return new HikariDataSource(config);
    }

    private String measured() throws Exception {
        double back;
        double deleted;
        try (HikariDataSource pool = pooled(target.fresh(ddl()))) {
            back = byHand(pool, true);
            deleted = byHand(pool, false);
        }
        double copied = copied();
        double[] committed;
        try (HikariDataSource pool = pooled(target.fresh(ddl()))) {
            committed = staged(pool, Jdbc::stage);
        }
        double[] together;
        try (HikariDataSource pool = pooled(target.fresh(ddl()))) {
            together = staged(pool, Jdbc::stageInTransaction);
        }
        return String.format(
                Locale.ROOT,
                "a test with %d tables, %s: rolled back by hand %.2f ms, deleted by hand %.2f, on a fresh copy %.1f;"
                        + " a stage %s (%.1f times faster than deleting); in one transaction %s (%.1f times rolling back)",
                tables,
                target,
                back,
                deleted,
                copied,
                told(committed),
                deleted / committed[0],
                told(together),
                together[0] / back);
    }

    /** Returns a line of what it costs to tell what a test would miss, in runs that take turns. */
    static String stories(Target target) throws Exception {
        return new Suite(target, HUTS.length).told();
    }

    private String told() throws Exception {
        List<List<Double>> times = new ArrayList<>();
        for (int way = 0; way < 4; way++) {
            times.add(new ArrayList<>());
        }
        try (HikariDataSource pool = pooled(target.fresh(ddl()));
                Stage stage = Jdbc.stage(pool)) {
            Factory<Row> huts =
                    Factory.forTable("hut").children(2, Factory.forTable("stay").with("status", "CONFIRMED"));
            for (int i = 0; i < 4 * (WARM_UP + MEASURED); i++) {
                int way = i % 4;
                if (i == 4 * WARM_UP) {
                    times.forEach(List::clear);
                }
                Story story = way == 0 ? null : new Story(Suite.class, way == 3, way == 2);
                long begun = System.nanoTime();
                if (story != null) {
                    Stories.begin(story, stage.store());
                }
                RewindPoint point = stage.mark();
                DataSource application = stage.dataSource();
                Row hut = stage.add(huts);
                long stay = 2 * ((Number) Objects.requireNonNull(hut.get("id"))).longValue() - 1;
                Footprint footprint = stage.act(() -> cancel(application, stay));
                try {
                    footprint
                            .expect()
                            .changed(
                                    "stay",
                                    stay,
                                    row("status", "CANCELLED").with("cancelled_at", "2031-07-01T08:00:00"))
                            .added("ledger_entry", row("amount", "-80.00").with("stay_id", stay))
                            .nothingElse();
                } catch (AssertionError e) {
                    if (way != 3) {
                        throw e;
                    }
                }
                if (story != null) {
                    Stories.end(story);
                }
                stage.rewind(point);
                times.get(way).add((System.nanoTime() - begun) / 1e6);
            }
        }
        double plain = Bench.median(times.get(0));
        double named = Bench.median(times.get(1));
        double asked = Bench.median(times.get(2));
        double proved = Bench.median(times.get(3));
        return String.format(
                Locale.ROOT,
                "what a test would miss, %s: plain %.2f ms; told, loose ends too %.2f (%.2f times); unseen values %.2f (%.2f times);"
                        + " counterproof %.2f (%.2f times)",
                target,
                plain,
                named,
                named / plain,
                asked,
                asked / plain,
                proved,
                proved / plain);
    }

    private static String told(double[] parts) {
        return String.format(
                Locale.ROOT,
                "%.2f: mark %.2f, arrange %.2f, act %.2f, expect %.2f, rewind %.2f",
                parts[0],
                parts[1],
                parts[2],
                parts[3],
                parts[4],
                parts[5]);
    }

    /** Returns medians in milliseconds: of all, and of each part. */
    private static double[] staged(DataSource pool, Function<DataSource, Stage> opening) throws Exception {
        List<List<Double>> parts = new ArrayList<>();
        for (int i = 0; i < 6; i++) {
            parts.add(new ArrayList<>());
        }
        try (Stage stage = opening.apply(pool)) {
            DataSource application = stage.dataSource();
            Factory<Row> huts =
                    Factory.forTable("hut").children(2, Factory.forTable("stay").with("status", "CONFIRMED"));
            for (int i = 0; i < WARM_UP + MEASURED; i++) {
                if (i == WARM_UP) {
                    parts.forEach(List::clear);
                }
                long[] at = new long[6];
                at[0] = System.nanoTime();
                RewindPoint point = stage.mark();
                at[1] = System.nanoTime();
                Row hut = stage.add(huts);
                at[2] = System.nanoTime();
                long stay = 2 * ((Number) Objects.requireNonNull(hut.get("id"))).longValue() - 1;
                Footprint footprint = stage.act(() -> cancel(application, stay));
                at[3] = System.nanoTime();
                footprint
                        .expect()
                        .changed("stay", stay, row("status", "CANCELLED").with("cancelled_at", "2031-07-01T08:00:00"))
                        .added("ledger_entry", row("amount", "-80.00").with("stay_id", stay))
                        .nothingElse();
                at[4] = System.nanoTime();
                stage.rewind(point);
                at[5] = System.nanoTime();
                parts.get(0).add((at[5] - at[0]) / 1e6);
                for (int p = 1; p < 6; p++) {
                    parts.get(p).add((at[p] - at[p - 1]) / 1e6);
                }
            }
        }
        return parts.stream().mapToDouble(Bench::median).toArray();
    }

    /** The service: it looks, writes, and writes. */
    private static void cancel(DataSource database, long stay) throws SQLException {
        try (Connection connection = database.getConnection()) {
            connection.setAutoCommit(false);
            cancel(connection, stay);
            connection.commit();
            connection.setAutoCommit(true);
        }
    }

    private static void cancel(Connection connection, long stay) throws SQLException {
        try (PreparedStatement find = connection.prepareStatement("SELECT status FROM stay WHERE id = ?")) {
            find.setLong(1, stay);
            try (ResultSet found = find.executeQuery()) {
                found.next();
                if (!found.getString(1).equals("CONFIRMED")) {
                    throw new IllegalStateException(found.getString(1));
                }
            }
        }
        try (PreparedStatement update = connection.prepareStatement(
                "UPDATE stay SET status = 'CANCELLED', cancelled_at = '2031-07-01 08:00:00' WHERE id = ?")) {
            update.setLong(1, stay);
            update.executeUpdate();
        }
        try (PreparedStatement insert = connection.prepareStatement(
                "INSERT INTO ledger_entry (id, stay_id, amount, kind) VALUES ('e-" + stay + "', ?, -80, 'REFUND')")) {
            insert.setLong(1, stay);
            insert.executeUpdate();
        }
    }

    private double byHand(DataSource pool, boolean rollBack) throws Exception {
        List<Double> all = new ArrayList<>();
        for (int i = 0; i < WARM_UP + MEASURED; i++) {
            if (i == WARM_UP) {
                all.clear();
            }
            all.add(Bench.seconds(() -> test(pool, rollBack)) * 1000);
        }
        return Bench.median(all);
    }

    private void test(DataSource pool, boolean rollBack) throws SQLException {
        try (Connection connection = pool.getConnection()) {
            connection.setAutoCommit(false);
            long region = insert(connection, "INSERT INTO region (name, country) VALUES (?, 'CH')", "Val Drun");
            long hut = insert(
                    connection,
                    "INSERT INTO hut (region_id, name, beds, opened_on) VALUES (" + region + ", ?, 34, '2020-01-01')",
                    "Edelgrat");
            String stays = "INSERT INTO stay (hut_id, arrives, nights, status, price) VALUES (" + hut
                    + ", '2031-07-01', 2, ?, 80)";
            long stay = insert(connection, stays, "CONFIRMED");
            insert(connection, stays, "CONFIRMED");
            if (!rollBack) {
                connection.commit();
            }
            cancel(connection, stay);
            if (!rollBack) {
                connection.commit();
            }
            look(connection, "SELECT status FROM stay WHERE id = " + stay, "CANCELLED");
            look(connection, "SELECT amount FROM ledger_entry WHERE stay_id = " + stay, "-80");
            if (rollBack) {
                connection.rollback();
            } else {
                try (Statement statement = connection.createStatement()) {
                    for (String name : names) {
                        statement.executeUpdate("DELETE FROM " + name);
                    }
                }
                connection.commit();
            }
            connection.setAutoCommit(true);
        }
    }

    private static void look(Connection connection, String sql, String wanted) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(sql)) {
            if (!rows.next() || !rows.getString(1).startsWith(wanted)) {
                throw new IllegalStateException(sql);
            }
        }
    }

    private static long insert(Connection connection, String sql, String value) throws SQLException {
        try (PreparedStatement insert = connection.prepareStatement(sql, Statement.RETURN_GENERATED_KEYS)) {
            insert.setString(1, value);
            insert.executeUpdate();
            try (ResultSet keys = insert.getGeneratedKeys()) {
                keys.next();
                return keys.getLong(1);
            }
        }
    }

    /** Returns how long it takes to make the tables again by the database's own means, in milliseconds. */
    private double copied() throws Exception {
        List<Double> all = new ArrayList<>();
        String[] ddl = ddl();
        try (Copies copies = Copies.of(target, ddl)) {
            for (int i = 0; i < COPIES; i++) {
                all.add(Bench.seconds(copies::renew) * 1000);
            }
        }
        return Bench.median(all);
    }

    /** Returns a line of what it costs to open a stage, make its first mark and close it. */
    static String opening(Target target, int tables) throws Exception {
        DataSource database = target.fresh(new Suite(target, tables).ddl());
        try (HikariDataSource pool = pooled(database)) {
            List<Double> all = new ArrayList<>();
            for (int i = 0; i < COPIES; i++) {
                all.add(Bench.seconds(() -> {
                            try (Stage stage = Jdbc.stage(pool)) {
                                stage.mark();
                            }
                        })
                        * 1000);
            }
            return String.format(
                    Locale.ROOT,
                    "opened, marked and closed with %d tables, %s: %.0f ms for the first time; later %.1f (%s)",
                    tables,
                    target,
                    all.get(0),
                    Bench.median(all.subList(1, all.size())),
                    all.stream()
                            .map(ms -> String.format(Locale.ROOT, "%.0f", ms))
                            .collect(Collectors.joining(" ")));
        }
    }
}
