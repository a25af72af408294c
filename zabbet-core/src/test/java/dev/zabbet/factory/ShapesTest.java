package dev.zabbet.factory;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertNotNull;
import static org.junit.jupiter.api.Assertions.assertNull;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import java.math.BigDecimal;
import java.net.URI;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** What a factory gives besides stored rows, and the types that it knows. */
class ShapesTest {
    record Region(long id, String name) {}

    record Hut(
            long id, long regionId, String name, @Nullable Integer beds, Address address) {}

    record Address(String street, String town, @Nullable Position position) {}

    record Position(BigDecimal lat, BigDecimal lon) {}

    record Guest(
            long id,
            String fullName,
            String email,
            String passwordHash,
            @Nullable Long guestId) {}

    record HutGuest(long id, long hutId, long guestId) {}

    enum Mood {
        CALM,
        WINDY
    }

    sealed interface Shape permits Circle, Square {}

    record Circle(double radius) implements Shape {}

    record Square(double side) implements Shape {}

    record Everything(
            UUID id,
            Mood mood,
            Optional<Address> address,
            List<Region> regions,
            Set<Mood> moods,
            Map<String, List<Address>> byName,
            int[] numbers,
            Everything[] others,
            @Nullable Everything parent,
            Shape shape,
            URI uri,
            Instant at,
            char letter,
            Page<Region> page) {}

    record Page<E>(List<E> items, int total) {}

    /** A class with fields and setters, as frameworks like them. */
    static class Warden {
        private @Nullable Long id;
        private String fullName = "";
        private @Nullable Hut hut;
        private transient String note = "left alone";
        private List<String> languages = List.of();

        Warden() {}

        @Nullable
        Long getId() {
            return id;
        }

        String getFullName() {
            return fullName;
        }

        @Nullable
        Hut getHut() {
            return hut;
        }
    }

    private final Stage stage =
            Memory.stage(Schema.of(Region.class, Hut.class, Guest.class, HutGuest.class, Warden.class));
    private final Factory<Hut> huts = Factory.forType(Hut.class);
    private final Factory<Guest> guests = Factory.forType(Guest.class);

    @Test
    void anObjectWithoutAStoreIsWholeToAnyDepthAndEnds() {
        Everything made = Factory.forType(Everything.class).build();
        assertNotNull(made.mood());
        assertTrue(made.address().orElseThrow().street().matches("\\w+ \\d+"), made::toString);
        assertNotNull(made.address().orElseThrow().position());
        assertEquals(2, made.regions().size());
        assertNotEquals(made.regions().get(0), made.regions().get(1));
        assertEquals(2, made.byName().size());
        assertEquals(2, made.byName().values().iterator().next().size());
        assertEquals(2, made.numbers().length);
        assertEquals(0, made.others().length);
        assertNull(made.parent());
        assertNotNull(made.shape());
        assertEquals("example.org", made.uri().getHost());
        assertTrue(made.page().items().get(0) instanceof Region);
        assertEquals(Factory.forType(Everything.class).build().regions(), made.regions());
        assertEquals(100, new HashSet<>(guests.build(100)).size());
        Guest said = guests.with(Guest::fullName, "Nesa Luzi")
                .invent(
                        Guest::email,
                        v -> v.get(Guest::fullName).toLowerCase(Locale.ROOT).replace(' ', '.'))
                .build();
        assertEquals("nesa.luzi", said.email());
        assertEquals(
                List.of("a", "b", "a"),
                guests.inTurn(Guest::fullName, "a", "b").stream()
                        .limit(3)
                        .map(Guest::fullName)
                        .toList());
    }

    @Test
    void valueObjectsAreColumnsAndObjectsWithAnIdAreReferences() {
        Hut hut = stage.add(huts);
        assertEquals(hut, stage.add(2, huts).isEmpty() ? null : hut);
        Row row = stage.rows("hut").get(0);
        assertEquals(hut.address().street(), row.get("address_street"));
        stage.expect(Hut.class).holds(hut);
        Warden warden = stage.add(Factory.forType(Warden.class).ref(Warden::getHut, hut));
        assertEquals(hut.id(), warden.getHut() == null ? -1 : warden.getHut().id());
        assertEquals("left alone", warden.note);
        stage.expect("warden").where("hut_id", hut.id()).count(1);
        Hut named = stage.add(huts.with(Hut::name, "Edelgrat").inTable("hut"));
        assertEquals("Edelgrat", named.name());
    }

    @Test
    void aCopyOfAStoredObjectWithChanges() {
        Hut hut = stage.add(huts);
        Hut renamed = Factory.like(hut).with(Hut::name, "Windegg").build();
        assertEquals(new Hut(hut.id(), hut.regionId(), "Windegg", hut.beds(), hut.address()), renamed);
        Hut another = stage.add(Factory.like(hut).unset(Hut::id));
        assertNotEquals(hut.id(), another.id());
        assertEquals(hut.name(), another.name());
        Row row = stage.rows("hut").get(0);
        Row copy = stage.add(Factory.like("hut", row).unset("id").with("name", "Grauhorn"));
        assertEquals(row.get("region_id"), copy.get("region_id"));
        assertThrows(ZabbetException.class, () -> Factory.like(row));
    }

    @Test
    void whatAClientWouldSend() {
        Map<String, Object> body = stage.payload(huts.with(Hut::beds, 12));
        assertEquals(List.of("regionId", "name", "beds", "address"), List.copyOf(body.keySet()));
        assertEquals(12, body.get("beds"));
        assertTrue(body.get("address") instanceof Map<?, ?> address && address.containsKey("street"));
        assertEquals(
                Set.of("region_id", "name", "beds", "address"),
                stage.payload(huts, Payload.Naming.SNAKE).keySet());
        stage.expect("hut").empty();
        stage.expect("region").count(2);
    }

    @Test
    void aKeyThatIsNotStored() {
        stage.add(3, huts);
        long unused = stage.unusedKey(Hut.class, Long.class);
        stage.expect("hut").where("id", unused).empty();
        stage.add(huts.with(Hut::id, unused));
        assertNotEquals(unused, stage.unusedKey("hut"));
    }

    @Test
    void workOnAValueBeforeItIsStored() {
        Guest guest = stage.add(guests.with(Guest::passwordHash, "secret")
                .storedAs(Guest::passwordHash, plain -> "hashed:" + plain.hashCode()));
        assertEquals("secret", guest.passwordHash());
        assertEquals("hashed:" + "secret".hashCode(), stage.rows("guest").get(0).get("password_hash"));
    }

    @Test
    void oneParentForAllOrOneThatIsThere() {
        List<Hut> shared = stage.add(4, huts.refShared(Hut::regionId, Factory.forType(Region.class)));
        assertEquals(1, new HashSet<>(shared.stream().map(Hut::regionId).toList()).size());
        stage.expect("region").count(1);
        stage.add(19, Factory.forType(Region.class));
        List<Hut> even = stage.add(200, huts.refStored(Hut::regionId));
        assertTrue(new HashSet<>(even.stream().map(Hut::regionId).toList()).size() > 15);
        List<Hut> skewed = stage.add(200, huts.refStoredSkewed(Hut::regionId));
        long first = skewed.stream().filter(h -> h.regionId() <= 2).count();
        assertTrue(first > 60 && first < 160, () -> first + " of 200");
        stage.expect("region").count(20);
        Stage empty = Memory.stage(stage.schema());
        assertEquals(
                "hut.region_id must refer to a stored row of region, but region is empty. Store some first.",
                assertThrows(ZabbetException.class, () -> empty.add(huts.refStored(Hut::regionId)))
                        .getMessage());
    }

    @Test
    void hereMoreChildrenAndThereFewer() {
        stage.add(40, Factory.forType(Region.class).children(0, 3, huts));
        Set<Integer> counts = new HashSet<>();
        for (Row region : stage.rows("region")) {
            counts.add((int) stage.rows("hut").stream()
                    .filter(h -> region.get("id").equals(h.get("region_id")))
                    .count());
        }
        assertEquals(Set.of(0, 1, 2, 3), counts);
    }

    @Test
    void aLinkTableInOneCallAndATree() {
        Hut hut = stage.add(huts.linked(3, guests));
        stage.expect("guest").count(3);
        stage.expect("hut_guest").where("hut_id", hut.id()).count(3);
        stage.add(guests.with(Guest::guestId, null).tree(2, 3));
        stage.expect("guest").count(3 + 1 + 3 + 9);
        ZabbetException refusal =
                assertThrows(ZabbetException.class, () -> stage.add(guests.linked(2, Factory.forType(Region.class))));
        assertEquals(
                "linked(2, factory of region): no table refers to both guest and region. Make the rows of the link table by"
                        + " children(…), with a ref to the other.",
                refusal.getMessage());
    }

    @Test
    void optionalColumnsOnDemand() {
        assertNull(stage.add(huts).beds());
        assertNotNull(stage.add(huts.filled()).beds());
        assertNull(stage.add(guests.filled()).guestId(), "a reference to the own table stays empty");
    }
}
