package dev.zabbet.factory;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.plan.value.Draws;
import dev.zabbet.internal.value.SplitMix;
import dev.zabbet.schema.Schema;
import dev.zabbet.value.Values;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** Parents and children: what is said, what follows, and what contradicts itself. */
class RelationsTest {
    record Region(long id, String name) {}

    record Hut(
            long id, long regionId, String name, @Nullable Long hutId) {}

    record Stay(long id, long hutId, long regionId, LocalDate arrives, int nights) {}

    record Transfer(long id, long fromHutId, long toHutId) {}

    private final Stage stage = Memory.stage(Schema.of(Region.class, Hut.class, Stay.class));
    private final Factory<Hut> huts = Factory.forType(Hut.class);
    private final Factory<Stay> stays = Factory.forType(Stay.class);

    @Test
    void parentsAtHandAreTakenInTurnAndByKey() {
        List<Hut> two = stage.add(2, huts);
        List<Stay> three = stage.add(
                3, stays.ref(Stay::hutId, two).ref(Stay::regionId, two.get(0).regionId()));
        assertEquals(
                List.of(two.get(0).id(), two.get(1).id(), two.get(0).id()),
                three.stream().map(Stay::hutId).toList());
        stage.expect("region").count(2);
        stage.expect("stay").where("region_id", two.get(0).regionId()).count(3);
    }

    @Test
    void eachRowGetsAParentOfItsOwnFromAFactory() {
        List<Stay> two = stage.add(2, stays.ref(Stay::hutId, huts.with(Hut::name, "Edelgrat")));
        assertEquals(2, new HashSet<>(two.stream().map(Stay::hutId).toList()).size());
        stage.expect("hut").holdsOnly(row("name", "Edelgrat"), row("name", "Edelgrat"));
    }

    @Test
    void childrenOfChildrenShareWhatIsAboveThem() {
        Region region = stage.add(
                Factory.forType(Region.class).children(2, huts.children(3, stays.inTurn(Stay::nights, 1, 2, 3))));
        stage.expect("hut").where("region_id", region.id()).count(2);
        // A stay needs a region too: it is the one above, not another.
        stage.expect("stay").where("region_id", region.id()).count(6);
        stage.expect("stay").where("nights", 2).count(2);
        stage.expect("region").count(1);
        for (Hut hut :
                List.of(1L, 2L).stream().map(id -> new Hut(id, 0, "", null)).toList()) {
            stage.expect("stay").where("hut_id", hut.id()).count(3);
        }
    }

    @Test
    void aReferenceToItselfStaysEmptyUntilSomethingIsSaid() {
        Hut above = stage.add(huts);
        Hut below = stage.add(huts.ref(Hut::hutId, huts));
        assertEquals(null, above.hutId());
        assertTrue(below.hutId() != null && below.hutId() != below.id());
        stage.expect("hut").count(3);
    }

    @Test
    void valuesDependOnOneAnotherAsTheFunctionsSay() {
        Stay stay = stage.add(stays.invent(Stay::nights, v -> v.between(2, 5))
                .invent(Stay::arrives, v -> v.today().plusDays(v.get(Stay::nights))));
        assertEquals(LocalDate.of(2031, 7, 1).plusDays(stay.nights()), stay.arrives());
        assertMessage(
                "The value invented for stay.arrives asks for a column whose value depends on it. Let only one of the two ask"
                        + " for the other.",
                () -> stage.add(
                        stays.invent(Stay::nights, v -> v.get(Stay::arrives).getDayOfMonth())
                                .invent(Stay::arrives, v -> v.today().plusDays(v.get(Stay::nights)))));
    }

    @Test
    void contradictionsAreNamed() {
        Stage transfers = Memory.stage(Schema.of(Region.class, Hut.class, Transfer.class));
        assertMessage(
                "The factory of stay sets column hut_id twice: as 'hutId' and as 'hut_id'.",
                () -> stage.add(stays.with(Stay::hutId, 1L).with("hut_id", 2)));
        assertMessage(
                "The factory of hut sets region_id, which follows already from the row that it belongs to. Leave one of the"
                        + " two out.",
                () -> stage.add(Factory.forType(Region.class).children(1, huts.invent("regionId", v -> 1L))));
        assertMessage(
                "stay.nights is no reference. The references of stay are: hut_id → hut, region_id → region.",
                () -> stage.add(stays.ref(Stay::nights, huts)));
        assertMessage(
                "children(1, factory of region): no reference of region is free to point to stay.",
                () -> stage.add(stays.children(1, Factory.forType(Region.class))));
        assertEquals(
                "ref(hut_id, parents): parents is empty; at least one is needed.",
                assertThrows(IllegalArgumentException.class, () -> stays.ref("hut_id", List.of()))
                        .getMessage());
        transfers.add("transfer");
        transfers.expect("transfer").count(1);
        assertEquals(
                "add(0, …): the count must be at least 1.",
                assertThrows(IllegalArgumentException.class, () -> stage.add(0, stays))
                        .getMessage());
    }

    @Test
    void inventedValuesAreReadableInBoundsAndReserved() {
        Set<String> emails = new HashSet<>();
        for (int variation = 0; variation < 200; variation++) {
            Values v = new Draws(
                    SplitMix.of(variation, SplitMix.name("guest", "email"), 1),
                    variation,
                    stage.clock(),
                    Stay.class,
                    c -> null);
            int number = v.between(4, 9);
            assertTrue(number >= 4 && number <= 9);
            BigDecimal price = v.money(20, 90);
            assertTrue(price.scale() == 2
                    && price.compareTo(BigDecimal.valueOf(20)) >= 0
                    && price.compareTo(BigDecimal.valueOf(90)) <= 0);
            String email = v.email();
            assertTrue(email.matches("[a-z]+\\.[a-z]+\\d+@example\\.org"), email);
            assertTrue(emails.add(email), email);
            assertTrue(v.phone().matches("\\+1 555 01\\d\\d"));
            assertTrue(v.personName().matches("\\p{Lu}\\p{L}+ \\p{Lu}\\p{L}+"));
            assertTrue(v.sentence().matches("\\p{Lu}[a-z]+( [a-z]+){3,6}\\."));
            assertTrue(v.street().matches("\\p{L}+ \\d{1,2}"));
            assertTrue(v.company().matches("\\p{L}+ (AG|GmbH|SA|Coop)"));
            assertEquals(4, v.uuid().version());
            assertEquals(2, v.uuid().variant());
            assertTrue(List.of("a", "b", "c").contains(v.pick("a", "b", "c")));
        }
        assertEquals(200, emails.size());
    }

    private static void assertMessage(String message, org.junit.jupiter.api.function.Executable code) {
        assertEquals(message, assertThrows(ZabbetException.class, code).getMessage());
    }
}
