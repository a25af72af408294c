package dev.zabbet.jdbc;

import static dev.zabbet.row.Row.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.seed.Seed;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.MethodSource;

/** An application that brings its tables up to date while a stage is open on them. */
class TablesChangedTest {
    private static final String HUT = "CREATE TABLE hut (id ${id}, name VARCHAR(20))";
    private static final String[] STEP = {
        "ALTER TABLE hut ADD beds INT", "UPDATE hut SET beds = 7", "INSERT INTO hut (name, beds) VALUES ('Sarn', 3)"
    };

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void beforeTheFirstAct(Engine engine) throws Exception {
        DataSource database = engine.fresh(HUT);
        try (Stage stage = Jdbc.stage(database)) {
            stage.add("hut");
            Engine.execute(database, STEP[0]);
            assertEquals(
                    "[Changed 1 7, Added 2 3]",
                    stage.act(() -> Engine.execute(database, STEP[1], STEP[2])).changes().stream()
                            .map(c -> c.getClass().getSimpleName() + " "
                                    + c.row().get("id") + " " + c.row().get("beds"))
                            .toList()
                            .toString());
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void betweenWhatATestStoresAndExpects(Engine engine) throws Exception {
        DataSource database = engine.fresh(HUT);
        try (Stage stage = Jdbc.stage(database)) {
            stage.add(Factory.forTable("hut").with("name", "Oberalm"));
            Engine.execute(database, STEP);
            stage.expect("hut")
                    .select("name", "beds")
                    .holdsOnly(
                            row("name", "Oberalm").with("beds", 7),
                            row("name", "Sarn").with("beds", 3));
            assertEquals(7L, ((Number) stage.rows("hut").get(0).get("beds")).longValue());
            Engine.execute(
                    database,
                    "CREATE TABLE warden (id " + engine.id + ", hut_id BIGINT NOT NULL REFERENCES hut (id))",
                    "ALTER TABLE hut ADD altitude_m INT");
            stage.add(Factory.forTable("warden").with("hut_id", 2));
            stage.add(2, Factory.forTable("hut").with("altitude_m", 2140));
            assertEquals(
                    2,
                    stage.rows("hut").stream()
                            .filter(r -> r.get("altitude_m") != null)
                            .count());
            stage.load(
                    Seed.empty().with("hut", "valserra", row("name", "Valserra").with("altitude_m", 1900)));
            stage.expect("warden").count(1);
            Engine.execute(database, "DROP TABLE warden");
            ZabbetException gone = assertThrows(ZabbetException.class, () -> stage.add("warden"));
            assertEquals("There is no table named 'warden'. Known: hut.", gone.getMessage());
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void inAnAct(Engine engine) throws Exception {
        inAnAct(engine.fresh(HUT), engine);
    }

    /** Nothing can be installed for such a user. */
    @ParameterizedTest
    @EnumSource(names = {"POSTGRES", "MARIADB"})
    void forAUserWhoMayOnlyWriteRows(Engine engine) throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource owner = engine.fresh(HUT);
        DataSource writer = engine.writerOf(owner);
        try (Stage stage = Jdbc.stage(writer)) {
            stage.add("hut");
            Engine.execute(owner, STEP[0]);
            assertEquals(
                    2,
                    stage.act(() -> Engine.execute(writer, STEP[1], STEP[2]))
                            .changes()
                            .size());
            assertThrows(
                    ZabbetException.class,
                    () -> stage.act(() -> Engine.execute(owner, "ALTER TABLE hut ADD altitude_m INT")));
            assertEquals(
                    1,
                    stage.act(() -> Engine.execute(writer, "UPDATE hut SET altitude_m = 8 WHERE id = 1"))
                            .changes()
                            .size());
        }
    }

    private static void inAnAct(DataSource database, Engine engine) {
        try (Stage stage = Jdbc.stage(database)) {
            stage.add("hut");
            String message = assertThrows(ZabbetException.class, () -> stage.act(() -> Engine.execute(database, STEP)))
                    .getMessage();
            assertEquals(
                    "The tables of PLACE were changed (CREATE, ALTER or DROP) since this point, so that its rows cannot be"
                            + " told apart from those of now. Change tables outside an act: afterwards the stage knows them as"
                            + " they are then.",
                    message.replace(stage.store().description(), "PLACE"));
            assertEquals(
                    2,
                    stage.act(() -> Engine.execute(database, "UPDATE hut SET beds = beds + 1"))
                            .changes()
                            .size());
            // What leaves the tables as they are is no change of them: other tables, and what a database counts by
            // itself.
            assertEquals(
                    5001,
                    stage.act(() -> {
                                Engine.execute(database, "CREATE TEMPORARY TABLE aside (id INT)");
                                Engine.execute(database, "DELETE FROM hut WHERE id = 1");
                                stage.addMany(5000, Factory.forTable("hut"));
                            })
                            .changes()
                            .size(),
                    engine.name());
        }
    }
}
