package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.store.Change;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.locks.LockSupport;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * On random tables, four connections do random things at once, with commits, rollbacks and cascades. What the footprint
 * says has to be the difference of the full contents before and after, and rewinding has to bring back the contents and
 * the counters.
 */
class FootprintPropertyTest {
    private static final int RUNS = Integer.getInteger("zabbet.runs", 12);
    private static final long FIRST = Long.getLong("zabbet.firstVariation", 1);

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void aFootprintIsTheDifferenceAndRewindingUndoesIt(Engine engine) throws Exception {
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            try {
                run(engine, new Random(variation * 31 + engine.ordinal()));
            } catch (AssertionError | RuntimeException e) {
                throw new AssertionError(engine + ", variation " + variation + ": " + e.getMessage(), e);
            }
        }
        System.out.println(engine + ": variations " + FIRST + " to " + (FIRST + RUNS - 1));
    }

    /** On PostgreSQL such an owner rewinds by one statement, with references checked. */
    @ParameterizedTest
    @EnumSource(names = {"POSTGRES", "MARIADB"})
    void soForAnOwnerWithoutSpecialRights(Engine engine) throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            Random random = new Random(variation * 37);
            RandomTables tables = new RandomTables(engine, random);
            try {
                run(tables, engine.ofPlainOwner(tables.ddl()), random);
            } catch (AssertionError | RuntimeException e) {
                throw new AssertionError(
                        "plain owner, " + engine + ", variation " + variation + ": " + e.getMessage(), e);
            }
        }
        System.out.println("plain owner, " + engine + ": variations " + FIRST + " to " + (FIRST + RUNS - 1));
    }

    /** No trigger can be installed for such a user: all contents are compared. */
    @ParameterizedTest
    @EnumSource(names = {"POSTGRES", "MARIADB"})
    void soForAUserWhoMayOnlyWriteRows(Engine engine) throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            Random random = new Random(variation * 41 + engine.ordinal());
            RandomTables tables = new RandomTables(engine, random);
            try {
                run(tables, engine.ofPlainWriter(tables.ddl()), random);
            } catch (AssertionError | RuntimeException e) {
                throw new AssertionError(
                        "plain writer, " + engine + ", variation " + variation + ": " + e.getMessage(), e);
            }
        }
        System.out.println("plain writer, " + engine + ": variations " + FIRST + " to " + (FIRST + RUNS - 1));
    }

    /** In MariaDB another schema is another database, which is watched where a reference leads there. */
    @ParameterizedTest
    @EnumSource(names = {"H2", "POSTGRES", "MARIADB"})
    void soWhereTablesAreInTwoSchemas(Engine engine) throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            Random random = new Random(variation * 43 + engine.ordinal());
            DataSource database = engine.empty();
            RandomTables tables =
                    new RandomTables(engine, random, List.of(home(engine, database), beside(engine, database)));
            try {
                Jdbc.dedicate(database);
                Jdbc.runSql(database, tables.ddl().replace("${id}", engine.id));
                run(tables, database, random);
            } catch (AssertionError | RuntimeException e) {
                throw new AssertionError(
                        "two schemas, " + engine + ", variation " + variation + ": " + e.getMessage(), e);
            }
        }
        System.out.println("two schemas, " + engine + ": variations " + FIRST + " to " + (FIRST + RUNS - 1));
    }

    /** A rewind undoes what it has seen: what is written while it runs stays noted, for the next one. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void nothingIsLostThatOthersWriteDuringARewind(Engine engine) throws Exception {
        Outcomes outcomes = new Outcomes();
        int runs = Math.max(1, RUNS / 3);
        for (long variation = FIRST; variation < FIRST + runs; variation++) {
            Random random = new Random(variation * 47 + engine.ordinal());
            RandomTables tables = new RandomTables(engine, random);
            try {
                boolean plain =
                        variation % 2 == 0 && engine == Engine.POSTGRES; // references are checked for such an owner
                DataSource database = plain ? engine.ofPlainOwner(tables.ddl()) : engine.fresh(tables.ddl());
                rewindBesideWriters(tables, database, random, outcomes);
            } catch (AssertionError | RuntimeException e) {
                throw new AssertionError(
                        "beside writers, " + engine + ", variation " + variation + ": " + e.getMessage(), e);
            }
        }
        assertTrue(outcomes.rewound > 0, "no rewind came through");
        System.out.println("beside writers, " + engine + ": variations " + FIRST + " to " + (FIRST + runs - 1) + ", "
                + outcomes.rewound + " rewinds came through, " + outcomes.refused + " were refused");
    }

    private static final class Outcomes {
        int rewound;
        int refused;
    }

    private static void rewindBesideWriters(RandomTables tables, DataSource database, Random random, Outcomes outcomes)
            throws Exception {
        try (Stage stage = Jdbc.stage(database)) {
            for (int i = 0; i < 12; i++) {
                attempt(database, tables, random, 4);
            }
            RewindPoint point = stage.mark();
            Map<String, List<Row>> before = contents(stage);
            AtomicBoolean over = new AtomicBoolean();
            List<CompletableFuture<Void>> writers = new ArrayList<>();
            for (int t = 0; t < 3; t++) {
                Random own = new Random(random.nextLong());
                writers.add(CompletableFuture.runAsync(() -> {
                    while (!over.get()) {
                        attempt(database, tables, own, 1 + own.nextInt(3));
                        LockSupport.parkNanos(own.nextInt(2_000_000));
                    }
                }));
            }
            try {
                for (int i = 0; i < 8; i++) {
                    try {
                        stage.rewind(point);
                        outcomes.rewound++;
                    } catch (ZabbetException e) {
                        outcomes.refused++;
                        assertTrue(e.getMessage().contains("Let the code under test"), e.getMessage());
                    }
                }
            } finally {
                over.set(true);
                for (CompletableFuture<Void> writer : writers) {
                    writer.get(30, TimeUnit.SECONDS);
                }
            }
            stage.rewind(point);
            assertEquals(text(before), text(contents(stage)), "rewound, once all was quiet");
        }
    }

    /** MariaDB 11.4 calls the trigger before such an update, and not the one after it. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void anUpsertThatChangesNothingLeavesNothing(Engine engine) {
        DataSource database = engine.fresh("CREATE TABLE hut (id INT NOT NULL PRIMARY KEY, beds INT NOT NULL);"
                + " CREATE TABLE tag (name VARCHAR(20) UNIQUE, uses INT NOT NULL);");
        Engine.execute(database, "INSERT INTO hut VALUES (1, 34), (2, 20)", "INSERT INTO tag VALUES ('high', 1)");
        String upsert =
                switch (engine) {
                    case H2 -> "MERGE INTO hut KEY (id) VALUES (1, 34)";
                    case MARIADB -> "INSERT INTO hut VALUES (1, 34) ON DUPLICATE KEY UPDATE beds = 34";
                    default -> "INSERT INTO hut VALUES (1, 34) ON CONFLICT (id) DO UPDATE SET beds = 34";
                };
        String other = upsert.replace("hut", "tag")
                .replace("(id)", "(name)")
                .replace("(1, 34)", "('high', 1)")
                .replace("beds = 34", "uses = 1");
        try (Stage stage = Jdbc.stage(database)) {
            RewindPoint before = stage.mark();
            stage.act(() -> Engine.execute(database, upsert, other)).expect().unchanged();
            String move = "UPDATE hut SET id = 7 WHERE id = 2";
            String change = "UPDATE hut SET beds = 9 WHERE id = 7";
            stage.act(() -> Engine.execute(database, upsert, move, change, upsert, other))
                    .expect()
                    .removed("hut", 2)
                    .added("hut", Row.row("id", 7).with("beds", 9))
                    .nothingElse();
            stage.rewind(before);
            assertEquals("[(id=1, beds=34), (id=2, beds=20)]", stage.rows("hut").toString());
            assertEquals("[(name=high, uses=1)]", stage.rows("tag").toString());
        }
    }

    private static String home(Engine engine, DataSource database) {
        return engine == Engine.MARIADB ? Engine.name(database) : "public";
    }

    private static String beside(Engine engine, DataSource database) {
        if (engine != Engine.MARIADB) {
            Engine.execute(database, "CREATE SCHEMA beside");
            return "beside";
        }
        DataSource other = engine.empty();
        Jdbc.dedicate(other);
        return Engine.name(other);
    }

    private static void run(Engine engine, Random random) throws Exception {
        RandomTables tables = new RandomTables(engine, random);
        run(tables, engine.fresh(tables.ddl()), random);
    }

    private static void run(RandomTables tables, DataSource database, Random random) throws Exception {
        try (Stage stage = Jdbc.stage(database)) {
            for (int i = 0; i < 12; i++) {
                attempt(database, tables, random, 4);
            }
            RewindPoint point = stage.mark();
            Map<String, List<Row>> before = contents(stage);
            Map<String, String> counters = tables.counters(database);

            Footprint footprint = stage.act(() -> together(database, tables, random));

            Map<String, List<Row>> after = contents(stage);
            assertEquals(text(after), text(applied(before, footprint)), "the footprint");
            RewindPoint inner = stage.mark();
            Footprint second = stage.act(() -> together(database, tables, random));
            Map<String, List<Row>> later = contents(stage);
            assertEquals(text(later), text(applied(after, second)), "the second footprint");
            if (!rewound(stage, inner)) {
                return;
            }
            assertEquals(text(after), text(contents(stage)), "rewound to the inner point");
            if (!rewound(stage, point)) {
                return;
            }
            assertEquals(text(before), text(contents(stage)), "rewound");
            if (mayAlter(database)) {
                assertEquals(counters, tables.counters(database), "the counters");
            }
        }
    }

    /**
     * Who must not leave references unchecked is refused where two rows swap a unique value and others would follow them;
     * then nothing has happened.
     */
    private static boolean rewound(Stage stage, RewindPoint to) {
        String now = text(contents(stage));
        try {
            stage.rewind(to);
            return true;
        } catch (ZabbetException e) {
            assertTrue(e.getMessage().startsWith("The rewind was refused, and nothing was undone: "), e.getMessage());
            assertTrue(e.getMessage().contains("unique"), e.getMessage());
            assertEquals(now, text(contents(stage)), "refused, but something was undone");
            return false;
        }
    }

    /** MariaDB sets a counter for those alone who may alter the table. */
    private static boolean mayAlter(DataSource database) throws SQLException {
        try (Connection connection = database.getConnection()) {
            return !connection.getMetaData().getURL().startsWith("jdbc:mariadb")
                    || !connection.getMetaData().getUserName().startsWith("zabbet_writer");
        }
    }

    private static void together(DataSource database, RandomTables tables, Random random) throws InterruptedException {
        List<Thread> threads = new ArrayList<>();
        for (int t = 0; t < 4; t++) {
            Random own = new Random(random.nextLong());
            Thread thread = new Thread(() -> {
                for (int i = 0; i < 3; i++) {
                    attempt(database, tables, own, 1 + own.nextInt(4));
                }
            });
            threads.add(thread);
            thread.start();
        }
        for (Thread thread : threads) {
            thread.join();
        }
    }

    /** One transaction; what the database refuses rolls back its statement or all of it. */
    private static void attempt(DataSource database, RandomTables tables, Random random, int statements) {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            tables.prepare(statement);
            connection.setAutoCommit(false);
            try {
                for (int i = 0; i < statements; i++) {
                    statement.execute(tables.statement(random));
                }
                if (random.nextInt(5) == 0) {
                    connection.rollback();
                } else {
                    connection.commit();
                }
            } catch (SQLException e) {
                connection.rollback();
            }
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    private static Map<String, List<Row>> contents(Stage stage) {
        Map<String, List<Row>> all = new LinkedHashMap<>();
        stage.schema().tableNames().forEach(table -> all.put(table, new ArrayList<>(stage.rows(table))));
        return all;
    }

    private static Map<String, List<Row>> applied(Map<String, List<Row>> before, Footprint footprint) {
        Map<String, List<Row>> all = new LinkedHashMap<>();
        before.forEach((table, rows) -> all.put(table, new ArrayList<>(rows)));
        for (Change change : footprint.changes()) {
            List<Row> rows = all.get(change.table().name());
            if (change instanceof Change.Changed changed) {
                assertEquals(true, rows.remove(changed.before()), () -> "was never there: " + changed);
            } else if (change instanceof Change.Removed removed) {
                assertEquals(true, rows.remove(removed.row()), () -> "was never there: " + removed);
            }
            if (!(change instanceof Change.Removed)) {
                rows.add(change.row());
            }
        }
        return all;
    }

    private static String text(Map<String, List<Row>> contents) {
        StringBuilder text = new StringBuilder();
        contents.forEach((table, rows) -> {
            text.append(table).append('\n');
            rows.stream().map(Row::toString).sorted().forEach(row -> text.append("  ")
                    .append(row)
                    .append('\n'));
        });
        return text.toString();
    }
}
