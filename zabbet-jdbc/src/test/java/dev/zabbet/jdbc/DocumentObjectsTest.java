package dev.zabbet.jdbc;

import static dev.zabbet.row.Row.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Document;
import dev.zabbet.factory.Factory;
import dev.zabbet.factory.Flawed;
import dev.zabbet.row.Row;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Assumptions;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Documents as objects of the application: made by factories on every store, and found and changed through fakes. */
class DocumentObjectsTest {
    private static final String DDL = "CREATE TABLE warden (id ${id}, name VARCHAR(40) NOT NULL);"
            + "CREATE TABLE booking (id ${id}, code VARCHAR(20) NOT NULL, guest ${json} NOT NULL)";
    private static final String SCHEMA = """
            {"type": "object", "required": ["name", "address", "born"],
             "properties": {"name": {"type": "string", "minLength": 2, "maxLength": 30},
                            "address": {"type": "object", "required": ["country", "floor"],
                                        "properties": {"country": {"enum": ["CH", "IT"]},
                                                       "floor": {"type": "integer", "minimum": 0, "maximum": 4}}},
                            "born": {"type": "string", "format": "date"},
                            "warden": {"type": "integer"}}}""";

    enum Country {
        CH,
        IT
    }

    record Address(Country country, int floor) {}

    record Guest(
            String name,
            Address address,
            LocalDate born,
            @Nullable BigDecimal credit) {}

    record Booking(@Nullable Long id, String code, Guest guest) {}

    interface Bookings {
        Booking save(Booking booking);

        List<Booking> findByGuestAddressCountry(Country country);

        List<Booking> findByGuestAddressCountryAndGuestAddressFloorGreaterThanOrderByGuestBornDesc(
                Country country, int floor);

        List<Booking> findByGuestNameContainingIgnoreCaseOrGuestCreditIsNull(String part);

        List<Booking> findByGuestBornBetweenOrderByGuestNameAsc(LocalDate first, LocalDate last, int offset, int limit);

        boolean existsByGuestName(String name);

        long countByGuestAddressFloorIn(List<Integer> floors);

        Optional<Booking> findFirstByGuestCreditIsNotNullOrderByGuestCreditDesc();

        int updateGuestName(long id, String name);

        int updateGuestAddressFloorAndCodeByGuestAddressCountry(int floor, String code, Country country);

        List<String> findGuestNameByCode(String code);
    }

    static Stream<String> homes() {
        return Stream.concat(Stream.of("MEMORY"), Engine.all().map(Engine::name));
    }

    private static DataSource fresh(Engine engine) {
        return engine.fresh(DDL.replace("${json}", engine == Engine.POSTGRES ? "JSONB" : "JSON"));
    }

    private static Stage open(String home) {
        Engine engine = home.equals("MEMORY") ? Engine.H2 : Engine.valueOf(home);
        return home.equals("MEMORY") ? Memory.stage(Jdbc.schema(fresh(engine))) : Jdbc.stage(fresh(engine));
    }

    @ParameterizedTest
    @MethodSource("homes")
    void factoriesSaySomethingOfPlacesOnEveryStore(String home) {
        try (Stage stage = open(home)) {
            stage.documents(
                    "booking",
                    "guest",
                    Document.schema(SCHEMA).with("warden", 0).ref("warden", "warden"));
            List<Row> rows = stage.add(
                    2,
                    Factory.forTable("booking")
                            .inTurn("guest.address.floor", 4, 3)
                            .with("guest.name", "Ida"));
            for (Row row : rows) {
                assertEquals(List.of(), Document.schema(SCHEMA).problems(row.document("guest")), row.toString());
            }
            stage.expect("booking").holdsOnly(row("guest.address.floor", 4), row("guest.address.floor", 3));
            stage.expect("booking").where("guest.name", "Ida").count(2);
            stage.expect("warden").count(2);
            stage.expectReferencesIntact();
            Booking typed = stage.add(Factory.forType(Booking.class)
                    .with("guest", new Guest("Reto", new Address(Country.CH, 1), LocalDate.of(1990, 5, 1), null))
                    .with("guest.address.country", Country.IT));
            assertEquals(Country.IT, typed.guest().address().country());
            assertEquals("Reto", typed.guest().name());
            stage.expect(Booking.class).holds(typed);
        }
    }

    @Test
    void fakesFindAndChangeByPlaces() {
        try (Stage stage = open("MEMORY")) {
            Bookings bookings = stage.fake(Bookings.class);
            Booking ada = bookings.save(booking("a", "Ada Ferrun", Country.CH, 1, "1990-01-01", "7.50"));
            Booking bea = bookings.save(booking("b", "Bea Ilber", Country.CH, 3, "1985-02-01", "70"));
            Booking cai = bookings.save(booking("c", "Cai Ferr", Country.IT, 2, "2001-03-01", null));
            Booking dino = bookings.save(booking("d", "dino", Country.CH, 4, "1999-12-31", "9"));
            assertEquals(List.of(ada, bea, dino), bookings.findByGuestAddressCountry(Country.CH));
            assertEquals(
                    List.of(dino, bea),
                    bookings.findByGuestAddressCountryAndGuestAddressFloorGreaterThanOrderByGuestBornDesc(
                            Country.CH, 1));
            assertEquals(List.of(ada, cai), bookings.findByGuestNameContainingIgnoreCaseOrGuestCreditIsNull("FERRUN"));
            assertEquals(
                    List.of(bea, dino),
                    bookings.findByGuestBornBetweenOrderByGuestNameAsc(
                            LocalDate.of(1980, 1, 1), LocalDate.of(2000, 1, 1), 1, 2));
            assertTrue(bookings.existsByGuestName("dino"));
            assertFalse(bookings.existsByGuestName("Dino"));
            assertEquals(2, bookings.countByGuestAddressFloorIn(List.of(1, 2, 9)));
            assertEquals(
                    Optional.of(bea),
                    bookings.findFirstByGuestCreditIsNotNullOrderByGuestCreditDesc(),
                    "70 is more than 9 and 7.50");
            assertEquals(List.of("Cai Ferr"), bookings.findGuestNameByCode("c"));

            assertEquals(1, bookings.updateGuestName(id(cai), "Cai Ravel"));
            assertEquals(0, bookings.updateGuestName(99, "Nobody"));
            assertEquals(3, bookings.updateGuestAddressFloorAndCodeByGuestAddressCountry(0, "z", Country.CH));
            stage.expect("booking")
                    .holdsOnly(
                            row("code", "z").with("guest.address.floor", 0).with("guest.name", "Ada Ferrun"),
                            row("code", "z").with("guest.address.floor", 0).with("guest.name", "Bea Ilber"),
                            row("code", "z").with("guest.address.floor", 0).with("guest.name", "dino"),
                            row("code", "c").with("guest.address.floor", 2).with("guest.name", "Cai Ravel"));
        }
    }

    interface PreferencesRepository {
        void save(String id, Map<String, Object> document);

        boolean update(String id, Map<String, Object> document);

        Optional<Map<String, Object>> findById(String id);

        Map<String, Map<String, Object>> findAll();

        boolean existsById(String id);

        long count();

        int deleteById(String id);
    }

    interface Addresses {
        long insert(Address address);

        @Nullable
        Address get(long id);

        List<Address> list();

        boolean update(long id, Address address);
    }

    interface Places {
        List<Map<String, Object>> findByCountry(String country);
    }

    @Test
    void aTableOfKeysAndDocumentsIsARepository() {
        Stage stage = Memory.stage(
                Jdbc.schema(Engine.H2.fresh("CREATE TABLE preferences (id VARCHAR(20) PRIMARY KEY, doc JSON NOT NULL,"
                        + " note VARCHAR(9)); CREATE TABLE addresses (id ${id}, doc JSON);"
                        + " CREATE TABLE place (id ${id}, doc JSON)")));
        PreferencesRepository preferences = stage.fake(PreferencesRepository.class);
        preferences.save("ada", Map.of("lang", "rm", "quiet", true));
        preferences.save("bea", Map.of("lang", "it"));
        preferences.save("ada", Map.of("lang", "de", "beds", 2));
        assertEquals(Optional.of(Map.of("lang", "de", "beds", 2)), preferences.findById("ada"));
        assertEquals(Optional.empty(), preferences.findById("cai"));
        assertEquals(
                Map.of("ada", Map.of("lang", "de", "beds", 2), "bea", Map.of("lang", "it")), preferences.findAll());
        assertFalse(preferences.update("cai", Map.of()));
        assertTrue(preferences.existsById("bea"));
        assertEquals(2, preferences.count());
        assertEquals(1, preferences.deleteById("bea"));
        stage.expect("preferences")
                .holdsOnly(row("id", "ada").with("doc.lang", "de").with("doc.beds", 2));

        Addresses addresses = stage.fake(Addresses.class);
        long id = addresses.insert(new Address(Country.IT, 3));
        assertTrue(addresses.update(id, new Address(Country.CH, 4)));
        assertEquals(new Address(Country.CH, 4), addresses.get(id));
        assertEquals(List.of(new Address(Country.CH, 4)), addresses.list());
        assertEquals(null, addresses.get(99));

        String refused = assertThrows(ZabbetException.class, () -> stage.fake(Places.class))
                .getMessage();
        assertTrue(
                refused.contains(
                        "of the documents in place one is found by its key, or all are: a document that is to be found by"
                                + " what it holds needs a type with a key of its own"),
                refused);
    }

    private static long id(Booking booking) {
        return java.util.Objects.requireNonNull(booking.id());
    }

    private static Booking booking(
            String code, String name, Country country, int floor, String born, @Nullable String credit) {
        return new Booking(
                null,
                code,
                new Guest(
                        name,
                        new Address(country, floor),
                        LocalDate.parse(born),
                        credit == null ? null : new BigDecimal(credit)));
    }

    /** MariaDB checks schemas itself from version 11.1 on; it does not know the type integer. */
    @Test
    void aSchemaInTheDatabasesOwnCheckIsKept() throws Exception {
        Engine engine =
                Engine.all().filter(one -> one == Engine.MARIADB).findFirst().orElse(null);
        Assumptions.assumeTrue(engine != null, "no MariaDB is tested");
        String numbers = SCHEMA.replace("integer", "number");
        String ddl = "CREATE TABLE hut (id ${id}, amenities JSON NOT NULL, CONSTRAINT amenities_form CHECK ("
                + "json_schema_valid('" + numbers.replace("\n", " ") + "', amenities)))";
        DataSource source;
        try {
            source = java.util.Objects.requireNonNull(engine).fresh(ddl);
        } catch (ZabbetException e) {
            assertTrue(e.getMessage().matches("(?s).*(cannot be used|does not exist).*"), e.getMessage());
            Assumptions.abort("this MariaDB is older: " + e.getMessage());
            return;
        }
        try (Stage stage = Jdbc.stage(source)) {
            stage.add(20, "hut");
            stage.rows("hut")
                    .forEach(hut ->
                            assertEquals(List.of(), Document.schema(numbers).problems(hut.document("amenities"))));
            List<Flawed> flawed = Factory.forTable("hut")
                    .flawed(stage.schema())
                    .filter(f -> f.kind() == Flawed.Kind.CHECK)
                    .toList();
            assertTrue(flawed.size() > 5, flawed::toString);
            for (Flawed flaw : flawed) {
                ZabbetException refused = assertThrows(
                        ZabbetException.class,
                        () -> stage.add(Factory.forTable("hut")
                                .with("amenities", flaw.values().get("amenities"))),
                        flaw::toString);
                assertTrue(refused.getMessage().contains("amenities_form"), refused.getMessage());
            }
        }
    }
}
