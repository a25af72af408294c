package dev.zabbet.jdbc;

import static dev.zabbet.row.Row.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonProperty;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.annotation.JsonTypeName;
import com.fasterxml.jackson.annotation.JsonUnwrapped;
import com.fasterxml.jackson.annotation.JsonValue;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.PropertyNamingStrategies;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Document;
import dev.zabbet.factory.Factory;
import dev.zabbet.internal.value.ApplicationJson;
import dev.zabbet.row.Row;
import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Documents as the application's own {@code ObjectMapper} writes and reads them. */
class DocumentMapperTest {
    private static final String DDL =
            "CREATE TABLE hut (id ${id}, code VARCHAR(20) NOT NULL, equipment ${json} NOT NULL)";
    private static final ObjectMapper MAPPER = JsonMapper.builder()
            .addModule(new JavaTimeModule())
            .disable(SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
            .propertyNamingStrategy(PropertyNamingStrategies.SNAKE_CASE)
            .build();

    enum Fuel {
        WOOD("wood-log"),
        GAS("gas-bottle");

        private final String written;

        Fuel(String written) {
            this.written = written;
        }

        @JsonValue
        String written() {
            return written;
        }
    }

    @JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "kind")
    @JsonSubTypes({@JsonSubTypes.Type(Stove.class), @JsonSubTypes.Type(Pump.class)})
    sealed interface Heating permits Stove, Pump {}

    @JsonTypeName("stove")
    record Stove(Fuel fuel, int plates) implements Heating {}

    @JsonTypeName("pump")
    record Pump(int kiloWatts) implements Heating {}

    record Contact(@JsonProperty("tel") String phone) {}

    @JsonInclude(JsonInclude.Include.NON_NULL)
    record Equipment(
            Fuel mainFuel,
            List<Heating> allHeatings,
            @JsonProperty("beds") int places,
            LocalDate lastChecked,
            @Nullable Contact contact) {}

    record Hut(@Nullable Long id, String code, Equipment equipment) {}

    record Rooms(@JsonUnwrapped Contact contact, java.util.Date since) {}

    record Strict(String code) {
        Strict {
            if (code != null && code.length() != 2) {
                throw new IllegalArgumentException("a code has two letters");
            }
        }
    }

    static final class Choosy {
        record Hut(@Nullable Long id, String code, Strict equipment) {}
    }

    interface ChoosyHuts {
        List<Choosy.Hut> findByEquipmentCode(String code);
    }

    static final class Odd {
        record Hut(@Nullable Long id, String code, Rooms equipment) {}
    }

    interface Huts {
        Hut save(Hut hut);

        List<Hut> findByEquipmentMainFuelOrderByEquipmentPlacesDesc(Fuel fuel);

        List<Hut> findByEquipmentMainFuelIn(List<Fuel> fuels);

        List<Hut> findByEquipmentLastCheckedBefore(LocalDate day);

        List<Hut> findAll();

        boolean existsByEquipmentContactPhone(String phone);

        Fuel findEquipmentMainFuelByCode(String code);

        int updateEquipmentMainFuel(long id, Fuel fuel);
    }

    interface OddHuts {
        List<Odd.Hut> findByEquipmentSince(java.util.Date day);
    }

    private static Stream<String> homes() {
        return DocumentObjectsTest.homes();
    }

    private static Stage open(String home) {
        Engine engine = home.equals("MEMORY") ? Engine.H2 : Engine.valueOf(home);
        DataSource source = engine.fresh(DDL.replace("${json}", engine == Engine.POSTGRES ? "JSONB" : "JSON"));
        return home.equals("MEMORY") ? Memory.stage(Jdbc.schema(source)) : Jdbc.stage(source);
    }

    private static Hut hut(String code, Fuel fuel, int places, @Nullable String phone) {
        return new Hut(
                null,
                code,
                new Equipment(
                        fuel,
                        List.of(new Stove(fuel, 2), new Pump(7)),
                        places,
                        LocalDate.of(2026, 5, places),
                        phone == null ? null : new Contact(phone)));
    }

    @AfterEach
    void nobodyElsesMapper() {
        ApplicationJson.forget();
    }

    @ParameterizedTest
    @MethodSource("homes")
    void objectsAreWrittenReadAndExpectedAsTheApplicationDoes(String home) {
        Document.writtenBy(MAPPER);
        try (Stage stage = open(home)) {
            Hut wanted = hut("edelgrat", Fuel.WOOD, 9, null);
            Hut stored = stage.add(
                    Factory.forType(Hut.class).with("code", "edelgrat").with("equipment", wanted.equipment()));
            assertEquals(wanted.equipment(), stored.equipment());
            Row row = stage.add(Factory.forTable("hut")
                    .with("code", "firnfeld")
                    .with("equipment", wanted.equipment())
                    .with("equipment.main_fuel", Fuel.GAS));
            stage.expect("hut")
                    .holdsOnly(
                            row("code", "edelgrat").with("equipment", wanted.equipment()),
                            row("code", "firnfeld")
                                    .with("equipment.beds", 9)
                                    .with("equipment.main_fuel", Fuel.GAS)
                                    .with("equipment.all_heatings[0]", new Stove(Fuel.WOOD, 2))
                                    .with("equipment.all_heatings[1].kilo_watts", 7));
            stage.expect(Hut.class).holds(stored);
            stage.expect("hut").where("equipment.main_fuel", Fuel.WOOD).count(1);

            Hut invented = stage.add(Factory.forType(Hut.class).invent("equipment", Document.ofType(Equipment.class)));
            stage.expect("hut")
                    .holds(row("id", invented.id())
                            .with("equipment.beds", invented.equipment().places())
                            .with("equipment.main_fuel", invented.equipment().mainFuel()));
        }
    }

    @Test
    void fakesFindAndChangeByTheMappersNames() {
        Document.writtenBy(MAPPER, Equipment.class, Heating.class);
        Stage stage = open("MEMORY");
        Huts huts = stage.fake(Huts.class);
        Hut small = huts.save(hut("a", Fuel.WOOD, 2, "+41 1"));
        Hut large = huts.save(hut("b", Fuel.WOOD, 12, null));
        Hut other = huts.save(hut("c", Fuel.GAS, 5, "+41 3"));
        assertEquals(List.of(large, small), huts.findByEquipmentMainFuelOrderByEquipmentPlacesDesc(Fuel.WOOD));
        assertEquals(List.of(small, large, other), huts.findByEquipmentMainFuelIn(List.of(Fuel.GAS, Fuel.WOOD)));
        assertEquals(List.of(small, other), huts.findByEquipmentLastCheckedBefore(LocalDate.of(2026, 5, 12)));
        assertTrue(huts.existsByEquipmentContactPhone("+41 3"));
        assertEquals(Fuel.GAS, huts.findEquipmentMainFuelByCode("c"));
        assertEquals(1, huts.updateEquipmentMainFuel(java.util.Objects.requireNonNull(other.id()), Fuel.WOOD));
        stage.expect("hut").where("equipment.main_fuel", "wood-log").count(3);
        assertEquals(Fuel.WOOD, huts.findEquipmentMainFuelByCode("c"));
    }

    @Test
    void whatTheMapperCannotDoIsSaid() {
        assertEquals(
                "Documents cannot be written by this mapper: java.lang.String is no ObjectMapper of Jackson 2 or 3.",
                assertThrows(ZabbetException.class, () -> Document.writtenBy("mapper"))
                        .getMessage());
        Document.writtenBy(MAPPER);
        Stage stage = open("MEMORY");
        stage.add(Factory.forTable("hut").with("code", "odd").with("equipment", Map.of("main_fuel", "coal")));
        String unread = assertThrows(
                        ZabbetException.class, () -> stage.fake(Huts.class).findAll())
                .getMessage();
        assertTrue(
                unread.contains("the application's ObjectMapper cannot read a Equipment: Cannot deserialize"), unread);
        String untried = assertThrows(ZabbetException.class, () -> stage.fake(ChoosyHuts.class))
                .getMessage();
        assertTrue(
                untried.matches(
                        "Under which name Strict.code stands in documents cannot be tried: The constructor of Strict"
                                + " refused .*two letters.* Define methods that ask for it yourself: stage.define\\(…\\)."),
                untried);
        String form = assertThrows(ZabbetException.class, () -> stage.fake(OddHuts.class))
                .getMessage();
        assertEquals(
                "The application's ObjectMapper writes Rooms.since as '1970-01-01T00:00:01.000+00:00', which nothing can be"
                        + " compared with. Define methods that ask for it yourself: stage.define(…).",
                form);
    }
}
