package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertInstanceOf;
import static org.junit.jupiter.api.Assertions.assertNotNull;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import dev.zabbet.seed.Seed;
import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.function.Executable;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Maps, lists, records and a JSON library's trees in columns of documents: in factories, fakes and expectations alike. */
class DocumentColumnsTest {
    private static final String DDL = """
            CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL, amenities ${json} NOT NULL, tags ${json}, kitchen ${json},
                extra ${json}, dishes ${array});
            """;

    enum Meal {
        SOUP,
        STEW
    }

    record Stove(int plates, @Nullable String make) {}

    record Kitchen(boolean open, List<Stove> stoves, Map<Meal, LocalDate> next) {}

    record Hut(
            @Nullable Long id,
            String name,
            Map<String, Object> amenities,
            @Nullable List<String> tags,
            @Nullable Kitchen kitchen,
            @Nullable JsonNode extra,
            @Nullable List<String> dishes) {}

    interface Huts {
        Hut save(Hut hut);

        Optional<Hut> findById(long id);
    }

    private static Stream<String> homes() {
        return Stream.concat(Engine.all().map(Engine::name), Stream.of("MEMORY"));
    }

    private static Stage open(String home) {
        Engine engine = home.equals("MEMORY") ? Engine.H2 : Engine.valueOf(home);
        String json = engine == Engine.POSTGRES ? "JSONB" : "JSON";
        String array;
        if (engine == Engine.H2) {
            array = "VARCHAR(20) ARRAY";
        } else if (engine == Engine.POSTGRES) {
            array = "TEXT[]";
        } else if (engine == Engine.SQLITE) {
            array = "TEXT";
        } else {
            array = "JSON";
        }
        String ddl = DDL.replace("${json}", json).replace("${array}", array);
        return home.equals("MEMORY") ? Memory.stage(Jdbc.schema(engine.fresh(ddl))) : Jdbc.stage(engine.fresh(ddl));
    }

    private static Hut edelgrat(@Nullable Long id) throws Exception {
        return new Hut(
                id,
                "Edelgrat",
                Map.of(
                        "shower",
                        true,
                        "floors",
                        3,
                        "steepest",
                        41.5,
                        "beds",
                        List.of(4, 8),
                        "note",
                        "a \"quiet\"\nhut\u0001"),
                List.of("high", "old", "ö"),
                new Kitchen(
                        true,
                        List.of(new Stove(4, null), new Stove(2, "Ilber")),
                        Map.of(Meal.STEW, LocalDate.of(2031, 7, 2))),
                new ObjectMapper().readTree("{\"since\": [1911, null, {\"x\": 1e2}]}"),
                List.of("rösti", "soup, thick"));
    }

    @ParameterizedTest
    @MethodSource("homes")
    void documentsAreStoredWholeAndComeBackAsTheyWere(String home) throws Exception {
        try (Stage stage = open(home)) {
            Factory<Hut> huts = Factory.forType(Hut.class);
            Hut stored = stage.add(Factory.like(edelgrat(null)).unset(Hut::id));
            assertEquals(edelgrat(stored.id()), stored);
            stage.expect(Hut.class).holdsOnly(stored);
            stage.expect("hut")
                    .holds(row("amenities", edelgrat(null).amenities())
                            .with("kitchen", edelgrat(null).kitchen()));
            assertThrows(
                    AssertionError.class, () -> stage.expect("hut").holds(row("amenities", Map.of("shower", false))));

            String twice = "{\"floors\": {\"upper\": 1, \"upper\": null}}";
            for (Executable given : List.<Executable>of(
                    () -> stage.add(Factory.forTable("hut").with("amenities", twice)),
                    () -> stage.load(
                            Seed.empty().with("hut", row("name", "Twice").with("amenities", twice))),
                    () -> stage.expect("hut").holds(row("amenities", twice)),
                    () -> stage.expect("hut").where("amenities", twice).count(0))) {
                String refused = assertThrows(ZabbetException.class, given).getMessage();
                assertTrue(refused.contains("the document names 'upper' twice in one object"), refused);
            }

            Hut made = stage.add(huts.with(Hut::tags, List.of("low")).with(Hut::kitchen, null));
            stage.expect(Hut.class).holds(made, stored).count(2);
            assertEquals(List.of("low"), made.tags());
            assertTrue(!made.amenities().isEmpty());

            Hut full = stage.add(huts.filled());
            assertNotNull(full.kitchen());
            assertInstanceOf(Stove.class, full.kitchen().stoves().get(0));
            assertNotNull(full.extra());
            assertNotNull(full.dishes());
            stage.expect(Hut.class).holds(full);
            assertEquals(full.amenities(), stage.payload(Factory.like(full)).get("amenities"));
        }
    }

    @Test
    void aFakeKeepsDocumentsAndLosesNothing() throws Exception {
        try (Stage stage = open("MEMORY")) {
            Huts huts = stage.fake(Huts.class);
            Hut saved = huts.save(edelgrat(null));
            assertEquals(edelgrat(saved.id()), huts.findById(saved.id()).orElseThrow());
            Hut sparse = huts.save(new Hut(null, "Windegg", Map.of(), null, null, null, List.of()));
            assertEquals(sparse, huts.findById(sparse.id()).orElseThrow());
            stage.expect(Hut.class).holdsOnly(saved, sparse);
            Object self = new Object();
            assertEquals(
                    "Property amenities of Hut cannot be stored: Object is neither JSON text nor a map, list or record.",
                    assertThrows(
                                    ZabbetException.class,
                                    () -> huts.save(new Hut(null, "x", Map.of("a", self), null, null, null, null)))
                            .getMessage()
                            .replaceAll("java.lang.", ""));
        }
    }

    record Room(@Nullable Long id, String name, List<String> signs, Map<String, Integer> prices) {}

    record Shelter(@Nullable Long id, String name, @Nullable String smell, List<String> signs) {}

    interface Rooms {
        Room save(Room room);

        List<Room> findAll();
    }

    interface Shelters {
        Shelter save(Shelter shelter);
    }

    @Test
    void theSchemaOfATypeKeepsWhatTheTypeHolds() {
        Stage stage = Memory.stage(Schema.of(Room.class));
        Rooms rooms = stage.fake(Rooms.class);
        Room saved = rooms.save(new Room(null, "Attic", List.of("low beam"), Map.of("bunk", 12)));
        assertEquals(List.of(saved), rooms.findAll());
        Room made = stage.add(Factory.forType(Room.class));
        stage.expect(Room.class).holdsOnly(saved, made);
    }

    @Test
    void whatHasNoColumnIsRefusedAndNotDropped() {
        Stage stage = Memory.stage(
                Jdbc.schema(Engine.H2.fresh("CREATE TABLE shelter (id ${id}, name VARCHAR(40) NOT NULL);")));
        Shelters shelters = stage.fake(Shelters.class);
        shelters.save(new Shelter(null, "Hollow", null, List.of()));
        assertEquals(
                "Shelter.smell holds 'damp', and table shelter has no column for it, so that it would be lost. Mark the"
                        + " property @Transient, name its column by @Column, or define what the method does: stage.define(…).",
                assertThrows(ZabbetException.class, () -> shelters.save(new Shelter(null, "Cave", "damp", List.of())))
                        .getMessage());
        assertTrue(assertThrows(
                        ZabbetException.class, () -> shelters.save(new Shelter(null, "Cave", null, List.of("left"))))
                .getMessage()
                .startsWith("Shelter.signs holds "));
        stage.expect("shelter").count(1);
    }
}
