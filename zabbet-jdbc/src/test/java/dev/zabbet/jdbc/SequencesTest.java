package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Generation;
import dev.zabbet.store.RewindPoint;
import java.io.StringWriter;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Sequences with names: keys are taken from them, and a rewind sets them back, whoever took numbers. */
class SequencesTest {
    private static Stream<Engine> withSequences() {
        return Engine.all().filter(engine -> engine != Engine.SQLITE);
    }

    /** A table numbered by a default, one whose keys the application takes itself in steps of 50, and a loose sequence. */
    private static DataSource fresh(Engine engine) {
        DataSource database = engine.empty();
        Jdbc.dedicate(database);
        Engine.execute(
                database,
                "CREATE SEQUENCE guest_numbers START WITH 100",
                "CREATE SEQUENCE stay_seq START WITH 1 INCREMENT BY 50",
                "CREATE SEQUENCE \"Bill\" START WITH 7".replace('"', engine == Engine.MARIADB ? '`' : '"'),
                "CREATE TABLE guest (id BIGINT DEFAULT " + next(engine, "guest_numbers")
                        + " NOT NULL PRIMARY KEY, name VARCHAR(20) NOT NULL)",
                "CREATE TABLE stay (id BIGINT NOT NULL PRIMARY KEY, nights INT NOT NULL)",
                "INSERT INTO guest (name) VALUES ('Mira Tobler')");
        return database;
    }

    private static String next(Engine engine, String sequence) {
        return switch (engine) {
            case H2 -> "NEXT VALUE FOR " + sequence;
            case MARIADB -> "NEXTVAL(" + sequence + ")";
            default -> "nextval('" + sequence + "')";
        };
    }

    private static long take(Engine engine, DataSource database, String sequence) throws SQLException {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT " + next(engine, sequence))) {
            row.next();
            return row.getLong(1);
        }
    }

    @ParameterizedTest
    @MethodSource("withSequences")
    void areSetBackByARewind(Engine engine) throws Exception {
        DataSource database = fresh(engine);
        String bill = engine == Engine.MARIADB ? "`Bill`" : "\"Bill\"";
        try (Stage stage = Jdbc.stage(database)) {
            assertEquals(
                    Generation.SEQUENCE,
                    stage.schema().require("guest").requireColumn("id").generation());
            for (int round = 0; round < 3; round++) {
                RewindPoint outer = stage.mark();
                assertEquals(7, take(engine, database, bill));
                assertEquals(101L, stage.add("guest").get("id"));
                RewindPoint inner = stage.mark();
                stage.act(() -> {
                    Engine.execute(database, "INSERT INTO guest (name) VALUES ('Jon Arquint')");
                    assertEquals(8, take(engine, database, bill));
                    assertEquals(9, take(engine, database, bill));
                });
                assertEquals(
                        List.of(100L, 101L, 102L),
                        stage.rows("guest").stream().map(row -> row.get("id")).toList());
                stage.rewind(inner);
                assertEquals(8, take(engine, database, bill));
                Engine.execute(database, "INSERT INTO guest (name) VALUES ('Jon Arquint')");
                assertEquals(102L, stage.rows("guest").get(2).get("id"));
                stage.rewind(outer);
            }
            Engine.execute(database, "DROP SEQUENCE " + bill);
            RewindPoint point = stage.mark();
            assertEquals(1, take(engine, database, "stay_seq"));
            Engine.execute(database, "DROP SEQUENCE stay_seq");
            stage.rewind(point); // what is gone stays so
        }
    }

    /** An application that takes a number for fifty rows means those up to the next number, or those down to the last. */
    @ParameterizedTest
    @MethodSource("withSequences")
    void giveKeysToTablesThatTheApplicationNumbersItself(Engine engine) throws Exception {
        DataSource database = fresh(engine);
        try (Stage stage = Jdbc.stage(database)) {
            for (int count : new int[] {1, 3, 60, 1}) {
                long before = take(engine, database, "stay_seq");
                List<Long> keys = stage.add(count, "stay").stream()
                        .map(row -> ((Number) row.get("id")).longValue())
                        .toList();
                long after = take(engine, database, "stay_seq");
                String told = "after " + before + " rows " + keys + " before " + after;
                assertTrue(keys.get(0) >= before + 50, told); // the application may still be using those
                assertTrue(keys.get(count - 1) < after - 50, told); // and will use these
            }
            List<Row> stays = stage.rows("stay");
            assertEquals(65, stays.stream().map(row -> row.get("id")).distinct().count());
        }
    }

    /** Rows as SQL have the same keys, and the sequence follows; who only reads moves nothing. */
    @ParameterizedTest
    @MethodSource("withSequences")
    void doNotMoveForWhoOnlyReads(Engine engine) throws Exception {
        DataSource database = fresh(engine);
        StringWriter sql = new StringWriter();
        try (Stage stage = Jdbc.reading(database)) {
            Jdbc.writeInserts(stage, stage.planned(Bulk.of(2, Factory.forTable("guest"))), sql);
        }
        assertEquals(101, take(engine, database, "guest_numbers"));
        Jdbc.runSql(database, sql.toString());
        long next = take(engine, database, "guest_numbers");
        try (Stage stage = Jdbc.reading(database)) {
            List<Object> keys =
                    stage.rows("guest").stream().map(row -> row.get("id")).toList();
            assertEquals(3, keys.size());
            assertTrue((Long) keys.get(2) < next, keys + " " + next);
        }
    }
}
