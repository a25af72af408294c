package dev.zabbet.bench;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.row.Row;
import dev.zabbet.store.RewindPoint;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.LongStream;
import javax.sql.DataSource;

/**
 * Measures whole jobs. Arguments: what to measure (make, fake, suite, stories, open, load, act, schema, read, verify,
 * pair, extract, start, csv; all without any), and after a colon the rows (of suite, open and schema the tables), as {@code
 * load:1000000};
 * engines to leave out after a minus, as {@code -SQLITE}.
 */
public final class Bench {
    private static final int ROUNDS = 3;
    private static final int WARM_UP = 400;
    private static final int MEASURED = 100;
    private static final int SCHEMA_WARM_UP = 60;
    private static final int SCHEMA_MEASURED = 31;

    @SuppressWarnings("UnusedVariable") // written so that the compiler cannot leave the reading out
    private static volatile long looked;

    private Bench() {}

    /** Runs the benchmarks and prints a line for each. */
    public static void main(String[] arguments) throws Exception {
        List<String> jobs = new ArrayList<>();
        List<Target> targets = new ArrayList<>(List.of(Target.values()));
        for (String argument : arguments) {
            if (argument.startsWith("-")) {
                targets.remove(Target.valueOf(argument.substring(1)));
            } else {
                jobs.add(argument);
            }
        }
        targets.removeIf(t -> !t.isThere());
        for (String job : jobs.isEmpty()
                ? List.of(
                        "make",
                        "fake",
                        "suite:10",
                        "suite:200",
                        "stories",
                        "open:10",
                        "open:200",
                        "schema",
                        "act:100000",
                        "act:1000000",
                        "read",
                        "verify",
                        "pair",
                        "extract",
                        "load",
                        "start",
                        "csv")
                : jobs) {
            String[] parts = job.split(":");
            int size;
            if (parts.length > 1) {
                size = Integer.parseInt(parts[1]);
            } else if (parts[0].equals("schema")) {
                size = 200;
            } else {
                size = 1_000_000;
            }
            if (parts[0].equals("fake")) {
                Faking.measure().forEach(System.out::println);
                continue;
            }
            if (parts[0].equals("pair")) {
                int rows = parts.length > 1 ? size : 2_000;
                print("%s", Pairs.measure(rows, rows / 40));
                continue;
            }
            if (parts[0].equals("make")) {
                print("%s", Making.measure(Jdbc.schema(huts(Target.H2)), size));
                continue;
            }
            List<Target> some = parts[0].equals("start") || parts[0].equals("csv")
                    ? targets.stream().filter(t -> t == Target.POSTGRES).toList()
                    : targets;
            for (Target target : some) {
                switch (parts[0]) {
                    case "load" -> load(target, size);
                    case "act" -> act(target, size);
                    case "schema" -> schema(target, size);
                    case "suite" -> print("%s", Suite.measure(target, size));
                    case "stories" -> print("%s", Suite.stories(target));
                    case "open" -> print("%s", Suite.opening(target, size));
                    case "extract" -> print("%s", Extracting.measure(target, size));
                    case "read" -> read(target, size);
                    case "verify" -> verify(target, size);
                    case "start" -> print("%s", Commands.starting(tables(target, 200)));
                    case "csv" -> print("%s", Commands.loading(huts(target), size));
                    default -> throw new IllegalArgumentException("unknown job " + job);
                }
                target.drop();
            }
        }
    }

    static DataSource huts(Target target) throws Exception {
        return target.fresh(
                "CREATE TABLE hut (id ${id}, name VARCHAR(80) NOT NULL)",
                "CREATE TABLE room (hut_id BIGINT NOT NULL REFERENCES hut (id), number INTEGER NOT NULL,"
                        + " PRIMARY KEY (hut_id, number))",
                Target.STAY);
    }

    private static Factory<Row> stays(Stage stage) {
        List<Row> rooms = new ArrayList<>();
        for (Row hut : stage.add(100, "hut")) {
            rooms.addAll(stage.add(10, Factory.forTable("room").ref("hut_id", hut)));
        }
        return Factory.forTable("stay").ref("room_number", rooms).with("booked_at", "2031-07-01T08:00:00");
    }

    private static DataSource prepared(Target target) throws Exception {
        DataSource database = huts(target);
        try (Stage stage = Jdbc.stage(database)) {
            stays(stage);
        }
        return database;
    }

    private static void load(Target target, int rows) throws Exception {
        List<Double> ours = new ArrayList<>();
        List<Double> batches = new ArrayList<>();
        List<Double> best = new ArrayList<>();
        for (int round = 0; round < ROUNDS; round++) {
            // Each way has a database of its own: what the one before it left to clear up would slow it down.
            Stays same;
            try (Stage stage = Jdbc.stage(huts(target))) {
                Factory<Row> stays = stays(stage);
                ours.add(seconds(() -> stage.addMany(rows, stays)));
                same = Stays.of(stage, stays, rows);
            }
            target.drop();
            DataSource second = prepared(target);
            batches.add(seconds(() -> PlainLoad.batches(second, same)));
            target.drop();
            DataSource third = prepared(target);
            best.add(seconds(() -> PlainLoad.best(target, third, same)));
            target.drop();
        }
        print(
                "load %,d stays, %s: stage %.2f s (%,.0f rows/s), plain batches %.2f s, best plain way %.2f s;"
                        + " speed against batches %.2f, against the best %.2f",
                rows,
                target,
                median(ours),
                rows / median(ours),
                median(batches),
                median(best),
                median(batches) / median(ours),
                median(best) / median(ours));
    }

    private static void act(Target target, int rows) throws Exception {
        DataSource database = huts(target);
        try (Stage stage = Jdbc.stage(database)) {
            stage.addMany(rows, stays(stage));
            List<Double> ours = new ArrayList<>();
            List<Double> plain = new ArrayList<>();
            try (Connection connection = database.getConnection();
                    Statement statement = connection.createStatement()) {
                connection.setAutoCommit(false);
                for (int i = 0; i < WARM_UP + MEASURED; i++) {
                    int from = 1000 + i * 10;
                    if (i == WARM_UP) {
                        plain.clear();
                        ours.clear();
                    }
                    plain.add(seconds(() -> change(statement, from)));
                    RewindPoint point = stage.mark();
                    ours.add(seconds(() -> {
                        var footprint = stage.act(() -> change(statement, from));
                        if (footprint.changes().size() != 10) {
                            throw new IllegalStateException(footprint.toString());
                        }
                        stage.rewind(point);
                    }));
                }
            }
            print(
                    "act with 10 changes, footprint and rewind among %,d stays, %s: %.2f ms, of which the statements alone"
                            + " %.2f ms",
                    rows, target, median(ours) * 1000, median(plain) * 1000);
        }
    }

    private static void change(Statement statement, int from) throws SQLException {
        for (int i = 0; i < 10; i++) {
            statement.execute("UPDATE stay SET nights = CASE nights WHEN 1 THEN 2 ELSE 1 END WHERE id = " + (from + i));
        }
        statement.getConnection().commit();
    }

    private static DataSource tables(Target target, int tables) throws Exception {
        String[] ddl = new String[tables];
        for (int i = 0; i < tables; i++) {
            ddl[i] = "CREATE TABLE t" + i
                    + " (id ${id}, name VARCHAR(80) NOT NULL UNIQUE, size INTEGER CHECK (size > 0), made"
                    + " TIMESTAMP NULL, price NUMERIC(8, 2), note VARCHAR(500)"
                    + (i == 0 ? "" : ", other_id BIGINT REFERENCES t" + (i / 2) + " (id)") + ")";
        }
        return target.fresh(ddl);
    }

    private static void schema(Target target, int tables) throws Exception {
        DataSource database = tables(target, tables);
        List<Double> ours = new ArrayList<>();
        List<Double> plain = new ArrayList<>();
        double first = seconds(() -> Jdbc.schema(database));
        for (int i = 0; i < SCHEMA_WARM_UP + SCHEMA_MEASURED; i++) {
            double one = seconds(() -> Jdbc.schema(database));
            if (i >= SCHEMA_WARM_UP) {
                ours.add(one);
                if (plain.size() < ROUNDS) {
                    plain.add(seconds(() -> PlainSchema.read(database)));
                }
            }
        }
        print(
                "schema of %d tables, %s: %.1f ms, the first time %.1f ms; by DatabaseMetaData %.1f ms",
                tables, target, median(ours) * 1000, first * 1000, median(plain) * 1000);
    }

    private static void read(Target target, int rows) throws Exception {
        DataSource database = huts(target);
        try (Stage stage = Jdbc.stage(database)) {
            stage.addMany(rows, stays(stage));
            List<Double> ours = new ArrayList<>();
            List<Double> plain = new ArrayList<>();
            for (int i = 0; i < ROUNDS; i++) {
                java.util.concurrent.atomic.LongAdder seen = new java.util.concurrent.atomic.LongAdder();
                ours.add(seconds(() -> stage.store()
                        .read(
                                stage.schema().require("stay"),
                                dev.zabbet.store.Condition.all(),
                                row -> seen.increment())));
                plain.add(seconds(() -> plainRead(database)));
                if (seen.sum() != rows) {
                    throw new IllegalStateException("read " + seen.sum());
                }
            }
            print(
                    "read %,d stays in key order, %s: stage %.2f s, plain %.2f s",
                    rows, target, median(ours), median(plain));
        }
    }

    /** All columns of all rows expected, both sides in key order. */
    private static void verify(Target target, int rows) throws Exception {
        DataSource database = huts(target);
        try (Stage stage = Jdbc.stage(database)) {
            Row hut = stage.add("hut");
            Row room = stage.add(Factory.forTable("room").ref("hut_id", hut));
            stage.addMany(
                    rows,
                    Factory.forTable("stay")
                            .ref("room_number", List.of(room))
                            .with("arrives", "2031-07-05")
                            .with("nights", 2)
                            .with("status", "CONFIRMED")
                            .with("price", 80)
                            .with("booked_at", "2031-07-01T08:00:00"));
            List<String> columns = stage.schema().require("stay").columnNames();
            Object[] like = {
                0L,
                hut.get("id"),
                room.get("number"),
                LocalDate.of(2031, 7, 5),
                2L,
                "CONFIRMED",
                new BigDecimal("80.00"),
                LocalDateTime.of(2031, 7, 1, 8, 0),
                null
            };
            List<Double> ours = new ArrayList<>();
            List<Double> plain = new ArrayList<>();
            for (int i = 0; i < ROUNDS; i++) {
                plain.add(seconds(() -> plainRead(database)));
                ours.add(seconds(() -> stage.expect("stay")
                        .holdsOnlyInKeyOrder(LongStream.rangeClosed(1, rows).mapToObj(id -> {
                            like[0] = id;
                            return Row.of(columns, like);
                        }))));
            }
            print(
                    "verify %,d stays in key order, %s: %.2f s, plain read %.2f s (%.2f times)",
                    rows, target, median(ours), median(plain), median(ours) / median(plain));
        }
    }

    /** Looks at each value: a compiler leaves out what it reads for nobody. */
    private static void plainRead(DataSource database) throws SQLException {
        try (Connection connection = database.getConnection()) {
            connection.setAutoCommit(false);
            try (PreparedStatement statement = connection.prepareStatement("SELECT * FROM stay ORDER BY id")) {
                statement.setFetchSize(5000);
                long sum = 0;
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        sum += rows.getLong(1) + rows.getLong(2) + rows.getInt(3) + rows.getInt(5);
                        sum += rows.getObject(4, LocalDate.class).getDayOfMonth();
                        sum += rows.getString(6).hashCode();
                        sum += rows.getBigDecimal(7).scale();
                        sum += rows.getObject(8, LocalDateTime.class).getSecond();
                        sum += rows.getObject(9, LocalDateTime.class) == null ? 0 : 1;
                    }
                }
                looked = sum;
            }
        }
    }

    /** Work that is timed. */
    @FunctionalInterface
    interface Work {
        void run() throws Exception;
    }

    static double seconds(Work work) throws Exception {
        long start = System.nanoTime();
        work.run();
        return (System.nanoTime() - start) / 1e9;
    }

    static double median(List<Double> values) {
        return values.stream().sorted().toList().get(values.size() / 2);
    }

    private static void print(String format, Object... values) {
        System.out.println(String.format(Locale.ROOT, format, values));
    }
}
