package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import java.util.List;
import java.util.function.Consumer;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Parents of which there are few, and references that a check wants filled or empty, with nothing said about them. */
class LookupsTest {
    private static final String DDL = """
            CREATE TABLE season (code CHAR(1) NOT NULL PRIMARY KEY CHECK (code IN ('S', 'W')), name VARCHAR(20) NOT NULL);
            CREATE TABLE kind (id INT NOT NULL PRIMARY KEY, name VARCHAR(20) NOT NULL UNIQUE);
            CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL UNIQUE);
            CREATE TABLE guest (id ${id}, full_name VARCHAR(40) NOT NULL);
            CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id),
                season CHAR(1) NOT NULL REFERENCES season (code),
                kind_id INT NOT NULL CHECK (kind_id = 7 OR kind_id = 9) REFERENCES kind (id));
            CREATE TABLE move (id ${id}, from_season CHAR(1) NOT NULL REFERENCES season (code),
                to_season CHAR(1) NOT NULL REFERENCES season (code), CHECK (from_season <> to_season));
            CREATE TABLE letter (id ${id}, hut_id BIGINT REFERENCES hut (id), guest_id BIGINT REFERENCES guest (id),
                stay_id BIGINT REFERENCES stay (id), bill VARCHAR(20),
                CHECK ((hut_id IS NULL AND guest_id IS NOT NULL) OR (hut_id IS NOT NULL AND guest_id IS NULL)),
                CHECK (bill IS NULL OR stay_id IS NOT NULL));
            """;

    private static void everywhere(Engine engine, Consumer<Stage> test) {
        try (Stage stage = Jdbc.stage(engine.fresh(DDL))) {
            test.accept(Memory.stage(stage.schema()));
            test.accept(stage);
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void rowsOfWhichThereAreFewServeAgain(Engine engine) {
        everywhere(engine, stage -> {
            stage.add(20, "stay");
            stage.expect("season").holdsOnly(row("code", "S"));
            stage.expect("kind").holdsOnly(row("id", 7));
            stage.expect("hut").count(20); // of which there may be as many as one likes
            stage.add(Factory.forTable("stay")
                    .with(
                            "kind_id",
                            stage.add(Factory.forTable("kind").with("id", 9)).get("id")));
            stage.add(2, Factory.forTable("stay").filled());
            stage.expect("stay").where("kind_id", 9).count(1);
            stage.expect("season").count(1);
        });
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void whatIsStoredServesFirst(Engine engine) {
        everywhere(engine, stage -> {
            stage.add(Factory.forTable("season").with("code", "W").with("name", "snow"));
            stage.add(3, Factory.forTable("kind")); // 1, 2 and 3, none of which a stay may have
            Row stay = stage.add("stay");
            assertEquals("W", stay.get("season"));
            assertEquals(7L, stay.get("kind_id"));
            stage.expect("kind").count(4);
        });
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void twoReferencesOfOneRowGetTwo(Engine engine) {
        everywhere(engine, stage -> {
            for (Row move : stage.add(5, "move")) {
                assertNotEquals(move.get("from_season"), move.get("to_season"));
            }
            stage.expect("season").count(2);
            assertEquals(
                    "The rows of season that are stored leave no room for others that are different by (code). Give those"
                            + " columns values of your own.",
                    assertThrows(ZabbetException.class, () -> stage.add("season"))
                            .getMessage());
        });
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void referencesAreFilledOrEmptyAsChecksAsk(Engine engine) {
        everywhere(engine, stage -> {
            List<Row> plain = stage.add(3, "letter");
            List<Row> filled = stage.add(3, Factory.forTable("letter").filled());
            for (Row letter : List.of(plain.get(2), filled.get(2))) {
                assertTrue((letter.get("hut_id") == null) != (letter.get("guest_id") == null), letter::toString);
            }
            assertEquals(null, plain.get(0).get("stay_id"), "filled only if need be");
            Row billed = stage.add(Factory.forTable("letter").with("bill", "B-7"));
            stage.expect("letter").holds(row("id", billed.get("id")).with("stay_id", notNull()));
            Row toGuest = stage.add(Factory.forTable("letter").with("hut_id", null));
            assertNotEquals(null, toGuest.get("guest_id"));
            stage.expectReferencesIntact();
        });
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void aKeyOfOneCharacterHasRoomForMany(Engine engine) {
        try (Stage stage = Jdbc.stage(engine.fresh("CREATE TABLE mark (sign CHAR(1) NOT NULL PRIMARY KEY)"))) {
            stage.add(200, "mark");
            assertEquals(200, stage.rows("mark").stream().distinct().count());
            stage.expect("mark").holds(row("sign", "1"), row("sign", "z"), row("sign", "\u4e01"));
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void theSameRowsInOneCallOrTwo(Engine engine) {
        for (String table : List.of("stay", "letter", "move")) {
            try (Stage once = Jdbc.stage(engine.fresh(DDL));
                    Stage twice = Jdbc.stage(engine.fresh(DDL))) {
                once.add(5, table);
                twice.add(3, table);
                twice.add(2, table);
                for (String each : once.schema().tableNames()) {
                    assertEquals(once.rows(each), twice.rows(each), each + " for " + table);
                }
            }
        }
    }
}
