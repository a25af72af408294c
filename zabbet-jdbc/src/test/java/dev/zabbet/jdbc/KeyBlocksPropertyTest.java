package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Random;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * Applications that take keys from a sequence in blocks, and go on in their blocks whatever is rewound, never meet each
 * other's keys or a stage's: random interleavings of several of them, stages, rewinds, closings.
 */
class KeyBlocksPropertyTest {
    private static final int RUNS = Integer.getInteger("zabbet.runs", 6);
    private static final long FIRST = Long.getLong("zabbet.firstVariation", 0);

    private static Stream<Engine> withSequences() {
        return Engine.all().filter(engine -> engine != Engine.SQLITE);
    }

    /** Takes a number and means a block by it: the numbers up to the next, or those down to the one before. */
    private static final class Taker {
        private final Engine engine;
        private final DataSource database;
        private final int size;
        private final boolean upwards;
        private long next = 0;
        private long last = -1;

        Taker(Engine engine, DataSource database, int size, boolean upwards) {
            this.engine = engine;
            this.database = database;
            this.size = size;
            this.upwards = upwards;
        }

        long store() throws SQLException {
            try (Connection connection = database.getConnection()) {
                if (next > last) {
                    String sql =
                            engine == Engine.POSTGRES ? "SELECT nextval('stay_seq')" : "SELECT NEXT VALUE FOR stay_seq";
                    try (Statement statement = connection.createStatement();
                            ResultSet row = statement.executeQuery(sql)) {
                        row.next();
                        next = upwards ? row.getLong(1) : row.getLong(1) - size + 1;
                        last = next + size - 1;
                    }
                }
                try (PreparedStatement insert = connection.prepareStatement("INSERT INTO stay VALUES (?, 2)")) {
                    insert.setLong(1, next);
                    insert.executeUpdate();
                }
                return next++;
            }
        }
    }

    private static DataSource fresh(Engine engine, int size, boolean withDefault) {
        DataSource database = engine.empty();
        Jdbc.dedicate(database);
        String next;
        if (engine == Engine.POSTGRES) {
            next = "nextval('stay_seq')";
        } else if (engine == Engine.MARIADB) {
            next = "NEXTVAL(stay_seq)";
        } else {
            next = "NEXT VALUE FOR stay_seq";
        }
        Engine.execute(
                database,
                "CREATE SEQUENCE stay_seq START WITH " + size + " INCREMENT BY " + size,
                "CREATE TABLE stay (id BIGINT " + (withDefault ? "DEFAULT " + next : "")
                        + " NOT NULL PRIMARY KEY, nights INT NOT NULL)");
        return database;
    }

    @ParameterizedTest
    @MethodSource("withSequences")
    void keysNeverMeet(Engine engine) throws Exception {
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            Random random = new Random(variation * 7919 + 3);
            int size = List.of(1, 10, 50).get((int) (variation % 3));
            DataSource database = fresh(engine, size, random.nextBoolean());
            boolean upwards = random.nextBoolean();
            List<Taker> takers = new ArrayList<>();
            for (int i = 0; i < 3; i++) {
                takers.add(new Taker(engine, database, size, upwards));
            }
            List<String> told = new ArrayList<>();
            Deque<RewindPoint> points = new ArrayDeque<>();
            Stage stage = Jdbc.stage(database);
            try {
                for (int step = 0; step < 60; step++) {
                    switch (random.nextInt(10)) {
                        case 0, 1, 2, 3 -> {
                            int taker = random.nextInt(takers.size());
                            told.add("taker " + taker + " " + takers.get(taker).store());
                        }
                        case 4, 5, 6 -> {
                            int rows = random.nextInt(8) == 0 ? 120 : 1 + random.nextInt(3);
                            told.add("stage " + stage.add(rows, "stay").get(0).get("id") + " x" + rows);
                        }
                        case 7 -> points.push(stage.mark());
                        case 8 -> {
                            if (!points.isEmpty()) {
                                told.add("rewind");
                                stage.rewind(random.nextBoolean() ? points.peek() : points.pop());
                            }
                        }
                        default -> {
                            if (random.nextInt(4) == 0) {
                                told.add("another stage");
                                points.clear();
                                stage.close();
                                stage = Jdbc.stage(database);
                                if (random.nextBoolean()) {
                                    takers.add(new Taker(engine, database, size, upwards));
                                }
                            }
                        }
                    }
                }
            } catch (SQLException | ZabbetException e) {
                throw new AssertionError(
                        engine + ", variation " + variation + ", size " + size + ", upwards " + upwards + ": " + told,
                        e);
            } finally {
                stage.close();
            }
        }
    }

    /** Several applications and the stage at the very same time. */
    @ParameterizedTest
    @MethodSource("withSequences")
    void keysDoNotMeetWhenAllTakeThemAtOnce(Engine engine) throws Exception {
        DataSource database = fresh(engine, 10, false);
        ExecutorService threads = Executors.newFixedThreadPool(3);
        try (Stage stage = Jdbc.stage(database)) {
            List<Future<Integer>> stored = new ArrayList<>();
            for (int i = 0; i < 3; i++) {
                stored.add(threads.submit(() -> {
                    Taker taker = new Taker(engine, database, 10, false);
                    for (int row = 0; row < 100; row++) {
                        taker.store();
                    }
                    return 100;
                }));
            }
            int own = 0;
            while (stored.stream().anyMatch(future -> !future.isDone()) || own < 90) {
                own += stage.add(3, "stay").size();
            }
            for (Future<Integer> future : stored) {
                assertEquals(100, future.get());
            }
            assertTrue(own >= 90);
            stage.expect("stay").count(300 + own);
        } finally {
            threads.shutdownNow();
        }
    }
}
