package dev.zabbet.examples;

import static dev.zabbet.examples.huts.Status.CANCELLED;
import static dev.zabbet.examples.huts.Status.CONFIRMED;
import static dev.zabbet.examples.huts.Status.REQUESTED;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.examples.huts.Guest;
import dev.zabbet.examples.huts.Hut;
import dev.zabbet.examples.huts.Stay;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Factory;
import dev.zabbet.factory.Flawed;
import dev.zabbet.junit.EveryStage;
import dev.zabbet.row.Row;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** The tasks of the page on arranging rows, done in memory and on every database. */
@EveryStage("/db/huts.sql")
class FactoryTasksTest {
    private final Factory<Stay> stays = Factory.forType(Stay.class);
    private final Factory<Hut> huts = Factory.forType(Hut.class);

    @Test
    void rowsAndObjects(Stage stage) {
        stage.add("stay");
        stage.add(1000, "stay");
        assertEquals(14, stage.add(stays.with(Stay::nights, 14)).nights());
        Stay cancelled =
                stage.add(stays.with(Stay::status, CANCELLED).invent(Stay::cancelledAt, values -> values.now()));
        assertTrue(cancelled.cancelledAt() != null);
        assertEquals(
                List.of(REQUESTED, CONFIRMED),
                stage.add(2, stays.inTurn(Stay::status, REQUESTED, CONFIRMED)).stream()
                        .map(Stay::status)
                        .toList());
        stage.expect("stay").count(1005);
    }

    @Test
    void parentsAndChildren(Stage stage) {
        Hut hut = stage.add(huts);
        stage.add(3, stays.ref(Stay::hutId, hut));
        stage.expect("stay").where("hut_id", hut.id()).count(3);
        stage.expect("hut").count(1);
        stage.add(20, stays.refShared(Stay::hutId, huts));
        stage.expect("hut").count(2);
        assertEquals(
                2,
                new HashSet<>(stage.add(100, stays.refStored(Stay::hutId)).stream()
                                .map(Stay::hutId)
                                .toList())
                        .size());
        Hut full = stage.add(huts.children(3, Factory.forTable("room").with("beds", 4)));
        stage.expect("room").where("hut_id", full.id()).count(3);
        Stay family = stage.add(stays.linked(4, Factory.forType(Guest.class)));
        stage.expect("stay_guest").where("stay_id", family.id()).count(4);
        stage.add(Factory.forTable("guest").tree(2, 3));
        stage.expect("guest").count(4 + 1 + 3 + 9);
    }

    @Test
    void otherShapes(Stage stage) {
        Stay unsaved = stage.build(stays);
        assertEquals(0, unsaved.id());
        Map<String, Object> body = stage.payload(stays);
        assertTrue(body.get("arrives").toString().matches("2031-\\d\\d-\\d\\d"), body::toString);
        stage.expect("stay").empty();
        Stay stay = stage.add(stays);
        assertEquals(7, Factory.like(stay).with(Stay::nights, 7).build().nights());
        assertNotEquals(stay.id(), stage.add(Factory.like(stay).unset(Stay::id)).id());
        stage.expect("stay")
                .where("id", stage.unusedKey(Stay.class, Long.class))
                .empty();
        Guest guest = stage.add(Factory.forType(Guest.class)
                .with(Guest::passwordHash, "open sesame")
                .storedAs(Guest::passwordHash, plain -> "hash of " + plain));
        assertEquals("open sesame", guest.passwordHash());
        stage.expect("guest").where("password_hash", "hash of open sesame").count(1);
    }

    @Test
    void everyWayToBeWrong(Stage stage) {
        List<Flawed> flawed = stays.flawed(stage.schema()).toList();
        assertTrue(flawed.size() >= 10, flawed::toString);
        for (Flawed one : flawed) {
            Row wrong = stage.build(one);
            one.values().columns().forEach(column -> assertEquals(one.values().get(column), wrong.get(column)));
        }
    }

    @Test
    void veryManyRows(Stage stage) {
        Map<String, Integer> stored =
                stage.add(Bulk.of(3, "hut").and(100, "guest").and(500, "stay"));
        assertEquals(500, stored.get("stay"));
        stage.expect("hut").count(3);
        assertEquals(
                3,
                new HashSet<>(stage.rows("stay").stream()
                                .map(row -> row.get("hut_id"))
                                .toList())
                        .size());
        assertThrows(IllegalArgumentException.class, () -> Bulk.of(3, "hut").part(4, 3));
    }
}
