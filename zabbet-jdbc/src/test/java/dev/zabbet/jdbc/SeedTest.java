package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.store.RewindPoint;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.Period;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Seeds from code, in memory and on each database. */
class SeedTest {
    private static final String DDL = """
            CREATE TABLE region (id ${id}, name VARCHAR(40) NOT NULL UNIQUE, country CHAR(2) NOT NULL);
            CREATE TABLE hut (id ${id}, region_id BIGINT NOT NULL, warden_id BIGINT, twin_id BIGINT,
              name VARCHAR(40) NOT NULL UNIQUE, beds INT NOT NULL CHECK (beds BETWEEN 4 AND 200), opened_on DATE,
              FOREIGN KEY (region_id) REFERENCES region (id), FOREIGN KEY (twin_id) REFERENCES hut (id));
            CREATE TABLE warden (id ${id}, full_name VARCHAR(60) NOT NULL, hut_id BIGINT NOT NULL UNIQUE,
              FOREIGN KEY (hut_id) REFERENCES hut (id));
            CREATE TABLE room (hut_id BIGINT NOT NULL, number INT NOT NULL, PRIMARY KEY (hut_id, number),
              FOREIGN KEY (hut_id) REFERENCES hut (id));
            CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL, room_number INT NOT NULL, nights INT NOT NULL,
              status VARCHAR(20) NOT NULL, booked_at TIMESTAMP, FOREIGN KEY (hut_id) REFERENCES hut (id),
              FOREIGN KEY (hut_id, room_number) REFERENCES room (hut_id, number));
            """;
    private static final String CYCLE = "ALTER TABLE hut ADD FOREIGN KEY (warden_id) REFERENCES warden (id);";

    private static final Seed SEED = Seed.empty()
            .withClock(Instant.parse("2031-07-01T08:00:00Z"))
            .with(
                    "hut",
                    "edelgrat",
                    row("name", "Edelgrat")
                            .with("region_id", Seed.ref("valdrun"))
                            .with("warden_id", Seed.ref("ida"))
                            .with("twin_id", Seed.ref("windegg")))
            .with(
                    "hut",
                    "windegg",
                    row("name", "Windegg")
                            .with("region_id", Seed.ref("valdrun"))
                            .with("beds", "34")
                            .with("opened_on", new SeedValue.FromClock(Period.ofDays(-3))))
            .with("warden", "ida", row("full_name", "Ida Zberg").with("hut_id", Seed.ref("edelgrat")))
            .with("region", "valdrun", row("name", "Val Drun").with("country", "CH"))
            .with("room", "r1", row("hut_id", Seed.ref("edelgrat")).with("number", 1))
            .repeat(
                    3,
                    "stay",
                    row("room_number", Seed.ref("r1"))
                            .with("status", new SeedValue.InTurn(List.of("REQUESTED", "DONE")))
                            .with("booked_at", new SeedValue.FromClock(Duration.ofHours(-2))))
            .with("stay", row("hut_id", Seed.ref("windegg")).with("nights", 7));

    static Stream<String> places() {
        return Stream.concat(Stream.of("MEMORY"), Engine.all().map(Enum::name));
    }

    private static DataSource database(Engine engine) {
        return engine.fresh(
                engine == Engine.SQLITE
                        ? DDL.replace("warden_id BIGINT", "warden_id BIGINT REFERENCES warden (id)")
                        : DDL + CYCLE);
    }

    @ParameterizedTest
    @MethodSource("places")
    void labelledRowsAreStoredWithWhatTheyNeed(String place) {
        if (place.equals("MEMORY")) {
            try (Stage h2 = Jdbc.stage(database(Engine.H2))) {
                play(Memory.stage(h2.schema()));
            }
            return;
        }
        DataSource database = database(Engine.valueOf(place));
        long id;
        try (Stage stage = Jdbc.stage(database)) {
            id = play(stage);
        }
        try (Stage later = Jdbc.stage(database)) {
            Loaded loaded = later.load(Seed.empty()
                    .with("room", "r2", row("hut_id", Seed.ref("edelgrat")).with("number", 2)));
            assertEquals(id, loaded.row("r2").get("hut_id", Long.class), "a label outlives the process that stored it");
        }
    }

    private static long play(Stage stage) {
        RewindPoint before = stage.mark();
        stage.load(Seed.empty().with("region", "gone", row("name", "Gone")));
        stage.rewind(before);
        stage.add("region");
        assertEquals(
                Optional.empty(),
                stage.store().labelled(stage.schema().require("region"), "gone"),
                "another row has the key now");
        stage.rewind(before);
        Loaded loaded = stage.load(SEED);
        Row edelgrat = loaded.row("edelgrat");
        Row valdrun = loaded.row("valdrun");
        assertEquals("Val Drun", valdrun.get("name"));
        stage.expect("region").count(1);
        stage.expect("hut")
                .holdsOnly(
                        row("name", "Edelgrat")
                                .with("region_id", valdrun.get("id"))
                                .with("warden_id", loaded.row("ida").get("id"))
                                .with("twin_id", loaded.row("windegg").get("id")),
                        row("name", "Windegg")
                                .with("beds", 34)
                                .with("opened_on", LocalDate.of(2031, 6, 28))
                                .with("warden_id", null));
        Row two = row("room_number", 1).with("booked_at", "2031-07-01T06:00");
        stage.expect("stay")
                .where("hut_id", edelgrat.get("id"))
                .holdsOnly(
                        two.with("status", "REQUESTED"), two.with("status", "DONE"), two.with("status", "REQUESTED"));
        stage.expect("stay")
                .where("nights", 7)
                .holdsOnly(row("hut_id", loaded.row("windegg").get("id")));
        stage.expectReferencesIntact();
        assertEquals(4, loaded.counts().get("stay"));
        return edelgrat.get("id", Long.class);
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void allThatIsWrongIsSaidBeforeAnythingIsStored(Engine engine) {
        try (Stage stage = Jdbc.stage(database(engine))) {
            stage.load(Seed.empty().with("region", "old", row("name", "Old").with("country", "CH")));
            String text = message(() -> stage.load(Seed.empty()
                    .with("hut", "a", row("name", "A").with("beds", 20))
                    .with("hut", row("beds", 2))
                    .with("hut", "b", row("name", "A").with("region_id", 77))
                    .with("region", row("name", "Old"))));
            for (String part : List.of(
                    "The seed cannot be stored, and nothing of it was: 4 things are wrong.",
                    "A row of hut would break its check ",
                    "A row of hut is refused: name = A is stored already and has to be unique.",
                    "hut.region_id → region: there is no region with id = 77, in the seed or stored.",
                    "A row of region with name = Old is stored already, and it has to be unique.")) {
                assertTrue(text.contains(part), () -> part + "\nis not in\n" + text);
            }
            stage.expect("region").count(1);
            stage.expect("hut").empty();
            String names = message(() -> stage.load(Seed.empty()
                    .with("huts", row("name", "A"))
                    .with("hut", row("bed", 5))
                    .with("hut", row("beds", "many"))
                    .with("hut", row("name", Seed.ref("old")))));
            assertEquals(
                    """
                    The seed cannot be stored, and nothing of it was: 4 things are wrong.
                      There is no table named 'huts'. Did you mean 'hut'? Known: …
                      There is no column of table hut named 'bed'. Did you mean 'beds'? Known: …
                      hut.beds is INT, and 'many' is not a whole number.
                      hut.name refers to no table; {row: …} stands for a reference. Those of hut are …""",
                    names.replaceAll("(Known:|Those of hut are) .*", "$1 …")
                            .replaceAll("(?i)beds is int[a-z0-9()]*", "beds is INT"));
            assertEquals(
                    """
                    The seed cannot be stored, and nothing of it was: 1 thing is wrong.
                      There is no row of region labelled 'nwe'. Did you mean 'new'? Known: new.""",
                    message(() -> stage.validate(Seed.empty()
                            .with("region", "new", row("name", "New"))
                            .with("hut", row("region_id", Seed.ref("nwe"))))));
        }
    }

    private static String message(org.junit.jupiter.api.function.Executable code) {
        return String.valueOf(assertThrows(ZabbetException.class, code).getMessage());
    }
}
