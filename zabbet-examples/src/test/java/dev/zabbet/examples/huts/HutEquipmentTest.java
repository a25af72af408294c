package dev.zabbet.examples.huts;

import static dev.zabbet.expect.Expected.between;
import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.factory.Document;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.Staged;
import dev.zabbet.row.Row;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** A hut's equipment is one document in a column: made, changed and looked at place by place. */
@Staged("/db/huts.sql")
class HutEquipmentTest {
    private static final Document EQUIPMENT =
            Document.schema(HutEquipmentTest.class, "/db/equipment.schema.json").ref("wardenId", "warden");

    @BeforeEach
    void equipmentHasAForm(Stage stage) {
        stage.documents("hut", "amenities", EQUIPMENT);
    }

    @Test
    void aStoveIsReplacedAndNothingElse(Stage stage) {
        Row hut = stage.add(Factory.forTable("hut").with("amenities.kitchen.stoves[0].fuel", "wood"));
        long id = hut.get("id", Long.class);
        stage.expect("hut").where("id", id).holdsOnly(row("amenities.kitchen.stoves[0].plates", between(1, 6)));

        String replaced = String.valueOf(hut.get("amenities")).replaceFirst("(fuel\"\\s*:\\s*\")wood", "$1gas");
        stage.act(() -> new HutEquipment(stage.dataSource()).replace(id, replaced))
                .expect()
                .changed("hut", id, row("amenities.kitchen.stoves[0].fuel", "gas"))
                .nothingElse();
    }

    @Test
    void aFailureNamesThePlaces(Stage stage) {
        long id = stage.add(Factory.forTable("hut").with("amenities", java.util.Map.of("floors", 2, "heating", "wood")))
                .get("id", Long.class);
        var footprint = stage.act(() -> new HutEquipment(stage.dataSource())
                .replace(id, "{\"floors\": 3, \"heating\": \"wood\", \"tags\": [\"quiet\"]}"));
        AssertionError report = assertThrows(AssertionError.class, () -> footprint
                .expect()
                .changed("hut", id, row("amenities.floors", 3))
                .nothingElse());
        assertTrue(
                report.getMessage().contains("hut " + id + ": amenities.tags[0] added as well: quiet"),
                report.getMessage());
    }

    @Test
    void equipmentOfTheWrongFormIsTriedOnTheApplication(Stage stage) {
        assertEquals(
                java.util.List.of("floors maximum"),
                EQUIPMENT
                        .flawed()
                        .filter(flaw ->
                                flaw.place().equals("floors") && flaw.keyword().equals("maximum"))
                        .flatMap(flaw -> EQUIPMENT.problems(flaw.document().orElseThrow()).stream())
                        .toList());
        stage.add(2, Factory.forTable("hut").filled());
        stage.expectReferencesIntact();
    }
}
