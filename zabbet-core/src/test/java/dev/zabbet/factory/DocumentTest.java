package dev.zabbet.factory;

import static dev.zabbet.row.Row.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.seed.Seed;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** Factories that say something of places in documents. */
class DocumentTest {
    private static final String SCHEMA = """
            {"$schema": "https://json-schema.org/draft/2020-12/schema", "type": "object",
             "required": ["floors", "heating", "contact"], "additionalProperties": false,
             "properties": {
               "floors": {"type": "integer", "minimum": 1, "maximum": 4},
               "heating": {"enum": ["wood", "gas"]},
               "contact": {"type": "object", "required": ["name", "email"],
                           "properties": {"name": {"type": "string", "minLength": 3},
                                          "email": {"type": "string", "format": "email"}}},
               "wardens": {"type": "array", "items": {"type": "object", "properties": {"id": {"type": "integer"}}}},
               "notes": {"type": "string"}}}""";

    enum Heating {
        WOOD,
        GAS
    }

    record Stove(Heating heating, int plates) {}

    record Cabin(long id, String name, List<Stove> stoves) {}

    private static Column column(String name, DataType type, boolean nullable) {
        return new Column(
                name,
                name,
                type,
                nullable,
                Optional.empty(),
                name.equals("id") ? Generation.IDENTITY : Generation.NONE);
    }

    private static Table table(String name, boolean nullable, Check... checks) {
        return new Table(
                name,
                "",
                name,
                List.of(
                        column("id", DataType.precise(Kind.INTEGER, "bigint", 64, 0), false),
                        column("name", DataType.sized(Kind.TEXT, "varchar", 40), false),
                        column("amenities", DataType.of(Kind.JSON, "json"), nullable)),
                Optional.of(new UniqueKey(name + "_pkey", List.of("id"))),
                List.of(),
                List.of(),
                List.of(checks),
                TableNature.PLAIN);
    }

    private static Stage stage(boolean nullable) {
        return Memory.stage(new Schema(List.of(table("hut", nullable), table("warden", true))));
    }

    @Test
    void factoriesSaySomethingOfPlaces() {
        try (Stage stage = stage(false)) {
            Factory<Row> huts = Factory.forTable("hut")
                    .invent("amenities", Document.schema(SCHEMA))
                    .with("amenities.floors", 3)
                    .inTurn("amenities.heating", "gas", "wood")
                    .invent("amenities.contact.name", values -> "Warden " + values.ordinal())
                    .with("amenities.wardens[0]", Map.of("id", 7))
                    .ref("amenities.wardens[1].id", Factory.forTable("warden").with("name", "Ida"));
            List<Row> rows = stage.add(3, huts);
            for (int i = 0; i < 3; i++) {
                Object ida = stage.rows("warden").get(i).get("id");
                stage.expect("hut")
                        .where("id", rows.get(i).get("id"))
                        .holdsOnly(row("amenities.floors", 3)
                                .with("amenities.heating", i == 1 ? "wood" : "gas")
                                .with("amenities.contact.name", "Warden " + (i + 1))
                                .with("amenities.wardens", List.of(Map.of("id", 7), Map.of("id", ida))));
                assertEquals(
                        List.of(), Document.schema(SCHEMA).problems(rows.get(i).document("amenities")));
            }
            assertEquals(3, stage.rows("warden").size());
            assertNotEquals(
                    stage.rows("warden").get(0).get("id"),
                    stage.rows("warden").get(1).get("id"));
        }
    }

    @Test
    void oneMoreFieldChangesNoOther() {
        Document before = Document.schema(SCHEMA).filled();
        Document after = Document.schema(SCHEMA.replace("\"notes\":", "\"view\": {\"type\": \"string\"}, \"notes\":"))
                .filled();
        Map<?, ?> older = (Map<?, ?>) before.build();
        Map<?, ?> newer = (Map<?, ?>) after.build();
        assertTrue(newer.containsKey("view"));
        newer.remove("view");
        assertEquals(older, newer);
        assertEquals(
                Set.of("floors", "heating", "contact"),
                ((Map<?, ?>) Document.schema(SCHEMA).build()).keySet(),
                "what need not be there is left away");
    }

    @Test
    void aNullableColumnIsMadeWhereAPlaceIsSaid() {
        try (Stage stage = stage(true)) {
            assertEquals(null, stage.add("hut").get("amenities"));
            stage.add(Factory.forTable("hut").with("amenities", null).with("amenities.kitchen.stoves[0]", 2));
            stage.expect("hut")
                    .where("amenities.kitchen.stoves[0]", 2)
                    .holdsOnly(row("amenities", "{\"kitchen\": {\"stoves\": [2]}}"));
            Row last = stage.add(
                    Factory.forTable("hut").with("amenities.floors", 1).with("amenities", Map.of("floors", 2)));
            assertEquals(Map.of("floors", BigDecimal.valueOf(2)), last.document("amenities"), "the last setting wins");
        }
    }

    @Test
    void aTypeSaysWhatItsDocumentsHold() {
        try (Stage stage = Memory.stage(Schema.of(Cabin.class))) {
            Cabin cabin = stage.add(Factory.forType(Cabin.class)
                    .with("stoves[1].heating", Heating.GAS)
                    .with("stoves[0].plates", 3));
            assertEquals(Heating.GAS, cabin.stoves().get(1).heating());
            assertEquals(3, cabin.stoves().get(0).plates());
            stage.expect("cabin").holdsOnly(row("stoves[1].heating", "GAS").with("stoves[0].plates", 3));
            Map<?, ?> alone = (Map<?, ?>) Document.ofType(Cabin.class)
                    .with("name", "Above")
                    .without("stoves[1]")
                    .build();
            assertEquals("Above", alone.get("name"));
            assertEquals(1, ((List<?>) alone.get("stoves")).size());
        }
    }

    @Test
    void whatIsSaidOnceHoldsForTheWholeStage() {
        try (Stage stage = stage(false)) {
            stage.documents(
                    "hut",
                    "amenities",
                    Document.schema(SCHEMA)
                            .with("wardens", List.of(Map.of("id", 0), Map.of("id", 0)))
                            .ref("wardens[*].id", "warden"));
            Row hut = stage.add("hut");
            Row ofSeed = stage.load(Seed.empty().with("hut", "edelgrat", row("name", "Edelgrat")))
                    .row("hut", "edelgrat");
            Set<Object> wardens = new HashSet<>();
            stage.rows("warden").forEach(warden -> wardens.add(warden.get("id")));
            for (Row row : List.of(hut, ofSeed)) {
                List<?> held = (List<?>) ((Map<?, ?>) row.document("amenities")).get("wardens");
                assertEquals(2, held.size());
                held.forEach(one ->
                        assertTrue(wardens.contains(((BigDecimal) ((Map<?, ?>) one).get("id")).longValueExact())));
            }
            stage.add(Bulk.of(3, "hut"));
            stage.rows("hut")
                    .forEach(row ->
                            assertEquals(List.of(), Document.schema(SCHEMA).problems(row.document("amenities"))));
            stage.expectReferencesIntact();
            stage.add(Factory.forTable("hut").with("name", "Firnalp").with("amenities.wardens[0].id", 99));
            AssertionError lost = assertThrows(AssertionError.class, stage::expectReferencesIntact);
            assertTrue(
                    lost.getMessage()
                            .contains("1 row of hut refers to no warden (amenities.wardens[*].id → warden.id)."),
                    lost.getMessage());
        }
    }

    @Test
    void aRewindForgetsWhatWasSaidOfDocuments() {
        try (Stage stage = stage(false)) {
            stage.documents("warden", "amenities", Document.empty().with("kept", 1));
            RewindPoint start = stage.mark();
            stage.documents("hut", "amenities", Document.empty().with("said", 1));
            stage.documents("warden", "amenities", Document.empty().with("other", 1));
            assertEquals(Map.of("said", BigDecimal.ONE), stage.add("hut").document("amenities"));
            stage.rewind(start);
            assertFalse(((Map<?, ?>) stage.add("hut").document("amenities")).containsKey("said"));
            assertEquals(
                    Map.of("kept", BigDecimal.ONE),
                    stage.add(Factory.forTable("warden").filled()).document("amenities"));
        }
    }

    @Test
    void aSchemaInACheckIsKeptAndBroken() {
        Check check = new Check("amenities_check", "json_schema_valid('" + SCHEMA.replace("\n", " ") + "', amenities)");
        Schema schema = new Schema(List.of(table("hut", false, check)));
        try (Stage stage = Memory.stage(schema)) {
            stage.add(20, Factory.forTable("hut"));
            stage.add(20, Factory.forTable("hut").filled());
            stage.rows("hut")
                    .forEach(hut ->
                            assertEquals(List.of(), Document.schema(SCHEMA).problems(hut.document("amenities"))));
            List<Flawed> flawed = Factory.forTable("hut")
                    .flawed(schema)
                    .filter(flaw -> flaw.kind() == Flawed.Kind.CHECK)
                    .toList();
            Set<String> broken = new HashSet<>();
            for (Flawed flaw : flawed) {
                Document.schema(SCHEMA).problems(flaw.values().document("amenities")).stream()
                        .filter(problem -> !problem.endsWith(" format"))
                        .forEach(broken::add);
                ZabbetException refused = assertThrows(
                        ZabbetException.class,
                        () -> stage.add(Factory.like("hut", stage.build(flaw)).unset("id")));
                assertTrue(refused.getMessage().contains("amenities_check"), refused.getMessage());
            }
            assertTrue(
                    broken.containsAll(Set.of(
                            "floors required",
                            "floors type",
                            "floors minimum",
                            "floors maximum",
                            "heating enum",
                            "contact.name required",
                            "contact.name minLength",
                            "contact type")),
                    broken::toString);
        }
    }

    @Test
    void whatCannotBeIsToldInWords() {
        try (Stage stage = stage(false)) {
            assertEquals(
                    "Nothing can be put at hut.amenities.floors.lower: no object stands at floors.",
                    refused(() -> stage.add(Factory.forTable("hut")
                            .with("amenities", Map.of("floors", 3))
                            .with("amenities.floors.lower", 1))));
            assertEquals(
                    "Nothing can be put at hut.amenities.stoves[2]: the list at stoves has 0 elements, so that the next"
                            + " position is 0.",
                    refused(() -> stage.add(Factory.forTable("hut").with("amenities.stoves[2]", 1))));
            assertEquals(
                    "The factory of hut says something of amenities.stoves[*]: a star means several places. Name one, such as"
                            + " [0].",
                    refused(() -> stage.add(Factory.forTable("hut").with("amenities.stoves[*]", 1))));
            assertEquals(
                    "amenities.warden is a place in a document, of which no schema says where it refers to. Give it a factory, an"
                            + " object or a key.",
                    refused(() -> stage.add(Factory.forTable("hut").refStored("amenities.warden"))));
            assertEquals(
                    "hut.name is varchar and holds no documents; only columns of JSON do.",
                    refused(() -> stage.documents("hut", "name", Document.empty())));
            assertEquals(
                    "The JSON Schema given as text cannot be used, at #/properties/a: $ref leads to other.json, which is not in"
                            + " the document.",
                    refused(() -> Document.schema("{\"properties\": {\"a\": {\"$ref\": \"other.json\"}}}")));
            assertEquals(
                    "The JSON Schema given as text cannot be used, at #: minimum is a number.",
                    refused(() -> Document.schema("{\"minimum\": \"3\"}")));
            assertEquals(
                    "No document was found that the JSON Schema given as text allows: after 120 attempts minimum at #/minimum"
                            + " still did not hold. Say what stands there, or allow more.",
                    refused(() -> Document.schema("{\"type\": \"integer\", \"minimum\": 4, \"maximum\": 3}")
                            .build()));
            assertEquals(
                    "Only documents of a JSON Schema can be flawed: nothing else says what is allowed.",
                    refused(() -> Document.empty().flawed()));
        }
    }

    private static String refused(Runnable work) {
        return assertThrows(ZabbetException.class, work::run).getMessage();
    }
}
