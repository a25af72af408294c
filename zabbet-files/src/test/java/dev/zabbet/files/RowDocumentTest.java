package dev.zabbet.files;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Footprint;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.Expected;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Factory;
import dev.zabbet.files.internal.DocumentExpectation;
import dev.zabbet.files.internal.DocumentValues;
import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.files.internal.RowsAsJson;
import dev.zabbet.schema.Schema;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedValue;
import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.time.Period;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class RowDocumentTest {
    enum Status {
        REQUESTED,
        CONFIRMED,
        CANCELLED
    }

    record Hut(long id, String name, boolean open, Optional<String> note) {}

    record Stay(long id, long hutId, int nights, Status status, BigDecimal price, LocalDate arrives) {}

    interface Stays {
        Optional<Stay> findById(long id);

        boolean updateStatus(long id, Status status);
    }

    private static final String HUTS = """
            clock: 2031-07-01T08:00:00Z
            defaults:
              stay: {nights: 2}
            tables:
              hut:
                edelgrat: {name: "010", open: true, note: NO}
                windegg: {name: Windegg, open: false, note: null}
              stay:
                - {hut_id: {row: edelgrat}, arrives: {plusDays: 3}, status: REQUESTED, price: 80.50}
                - {repeat: 3, of: {hutId: {row: windegg}, status: {inTurn: [REQUESTED, CONFIRMED]}, price: 1e1}}
            expect:
              hut: {holdsOnly: [{name: "010", note: NO}, {name: Windegg, note: null}]}
              stay:
                - {where: {hut_id: {row: windegg}}, count: 3, holds: [{status: CONFIRMED, nights: 2, price: 10}]}
                - {where: {arrives: {plusDays: 3}}, holdsOnly: [{price: {between: [80, 81]}, hut_id: {row: edelgrat}}]}
            """;

    private final Stage stage = Memory.stage(Schema.of(Hut.class, Stay.class));

    @Test
    void aDocumentIsLoadedAndWhatItExpectsHolds() {
        RowDocument document = RowDocument.of("huts.yaml", HUTS);
        Loaded loaded = stage.load(document.seed());
        assertEquals("010", loaded.row("edelgrat").get("name"), "a string is no number, and no truth value");
        stage.expect(document);

        stage.add("hut");
        AssertionError report = assertThrows(AssertionError.class, () -> stage.expect(document));
        assertTrue(report.getMessage().startsWith("hut: 1 row is stored beyond those expected."), report.getMessage());
    }

    @Test
    void aFootprintIsExpectedByLabels() {
        Loaded loaded = stage.load(RowDocument.of(
                        "huts.yaml",
                        HUTS.replace("- {hut_id: {row: edelgrat}", "first: {hut_id: {row: edelgrat}")
                                .replaceAll("(?m)^    - \\{repeat.*\n", ""))
                .seed());
        Stays stays = stage.fake(Stays.class);
        long id = loaded.row("first").get("id", Long.class);
        RowDocument expected = RowDocument.of("cancel.json", """
                {"footprint": {
                  "stay": {"changed": [{"row": "first", "from": {"status": "REQUESTED"}, "to": {"status": "CANCELLED"}}]},
                  "hut": {"unchanged": true}, "nothingElse": true}}
                """);
        Footprint footprint = stage.act(() -> stays.updateStatus(id, Status.CANCELLED));
        footprint.expect(expected);
        AssertionError report =
                assertThrows(AssertionError.class, () -> stage.act(() -> stays.updateStatus(id, Status.CONFIRMED))
                        .expect(expected));
        assertTrue(report.getMessage().contains("status"), report.getMessage());
    }

    @Test
    void aValueIsExpectedToEqualThatOfAnotherRow() {
        stage.load(RowDocument.of("huts.yaml", HUTS).seed());
        RowDocument equal = RowDocument.of("equal.yaml", """
                expect:
                  stay:
                    - {where: {status: CONFIRMED}, strictly: true, holdsOnly: [
                        {hut_id: {equalToColumn: {table: hut, row: windegg, column: id}},
                         nights: {equalToColumn: {table: stay, key: 1, column: nights}}}]}
                """);
        stage.expect(equal);
        stage.expect("stay").where("status", "CONFIRMED").holdsOnly("""
                | hut_id                    | nights                     |
                | `equal to id of hut 2`    | `equal to nights of stay 1` |
                """);
        AssertionError report = assertThrows(
                AssertionError.class, () -> stage.expect("stay").where("id", 2).holds("""
                | price                      |
                | `equal to price of stay 1` |
                """));
        assertTrue(
                report.getMessage().contains("  price   10       equal to price of stay 1, 80.50\n"),
                report.getMessage());
        String wrong = "expect:\n  stay: {holds: [{nights: {equalToColumn: {table: stay, column: nights}}}]}\n";
        String message = message(() -> RowDocument.of("wrong.yaml", wrong));
        assertTrue(
                message.contains(
                        "wrong.yaml, line 2, column 43: a column of another row is written {equalToColumn: {table:"
                                + " hut, row: label, column: beds}}, with key: 7 instead of row for a row without a label.\n"),
                message);
    }

    @Test
    void aDocumentOverlaysAnother() {
        RowDocument over = RowDocument.of("more.yaml", """
                tables:
                  hut:
                    edelgrat: {note: overlaid}
                    third: {name: Third}
                """);
        Loaded loaded = stage.load(RowDocument.of("huts.yaml", HUTS).and(over).seed());
        assertEquals("overlaid", loaded.row("edelgrat").get("note"));
        assertEquals("010", loaded.row("edelgrat").get("name"));
        assertEquals(3, loaded.counts().get("hut"));
    }

    @Test
    void csvAndMarkdownAreRowsOfTheTableTheyAreNamedAfter(@TempDir Path folder) throws IOException {
        Files.writeString(
                folder.resolve("hut.csv"),
                "\uFEFFlabel:,name,open,note\r\nedelgrat,\"Edel\"\"grat, upper\",true,\"\"\r\n,Windegg,false,\r\n");
        Files.writeString(
                folder.resolve("stay.md"),
                "| nights | status    | price |\n|---|---|---|\n| 3 | CONFIRMED | 12.50 |\n");
        stage.load(Seed.read(folder.toString()));
        stage.expect("hut")
                .holds(
                        row("name", "Edel\"grat, upper").with("note", ""),
                        row("name", "Windegg").with("note", null));
        stage.expect("stay").holdsOnly(row("nights", 3).with("price", "12.5"));

        Files.writeString(folder.resolve("hut.csv"), "name,open\nA,true\nB\n");
        assertEquals(
                folder.resolve("hut.csv")
                        + ", line 3: there is 1 field, and the first line names 2 columns: name, open.\n  | B",
                message(() -> Seed.read(folder.toString())));
    }

    @Test
    void allThatIsWrongIsToldWithItsPlaceAndLine() {
        assertEquals("""
                huts.yaml cannot be read: 3 things are wrong.
                  huts.yaml, line 1, column 1: 'table' is no part of a row document. Did you mean 'tables'? Known: clock, use, defaults, tables, expect, footprint.
                    | table: {}
                  huts.yaml, line 5, column 28: plusDays is a whole number of days, not 'soon'.
                    | - {arrives: {plusDays: soon}}
                  huts.yaml, line 6, column 23: 'hut' is nothing that can be invented. Known: personName, email, phone, place, street, company, word, sentence, paragraph, uuid, now, today, ordinal.
                    | - {name: {invent: hut}}""", message(() -> RowDocument.of("huts.yaml", """
                table: {}
                tables:
                  stay:
                    - {hut_id: {rwo: edelgrat}}
                    - {arrives: {plusDays: soon}}
                    - {name: {invent: hut}}
                """)));
        assertEquals(
                """
                The seed cannot be stored, and nothing of it was: 2 things are wrong.
                  huts.yaml, line 3, column 9: There is no column of table hut named 'nmae'. Did you mean 'name'? Known: id, name, open, note.
                    | a: {nmae: x}
                  huts.yaml, line 5, column 8: stay.nights is int, and 'two' is not a whole number.
                    | - {nights: two}""", message(() -> stage.load(RowDocument.of("huts.yaml", """
                tables:
                  hut:
                    a: {nmae: x}
                  stay:
                    - {nights: two}
                """).seed())));
        assertEquals(
                """
                The seed cannot be stored, and nothing of it was: 1 thing is wrong.
                  huts.yaml, line 3, column 8: There is no row of hut labelled 'windeg'. None is labelled.
                    | - {hut_id: {row: windeg}}""", message(() -> stage.load(RowDocument.of("huts.yaml", """
                tables:
                  stay:
                    - {hut_id: {row: windeg}}
                """).seed())));
    }

    @Test
    void eachKindOfMistakeIsToldWhereItStands() {
        Map<String, String> told = new LinkedHashMap<>();
        told.put(
                "just text",
                "line 1, column 1: a row document begins with clock, use, defaults, tables, expect, footprint.");
        told.put(
                "- a\n- b",
                "line 1, column 1: a row document begins with clock, use, defaults, tables, expect, footprint.");
        told.put("tables: [hut]", "line 1, column 9: tables by their names are needed here: hut: …");
        told.put("tables: 3", "line 1, column 9: tables by their names are needed here: hut: …");
        told.put(
                "tabels:\n  hut: [{name: x}]",
                "line 1, column 1: 'tabels' is no part of a row document. Did you mean 'tables'? Known: …");
        told.put(
                "clock: tomorrow",
                "line 1, column 8: the clock is an instant such as 2031-07-01T08:00:00Z, not 'tomorrow'.");
        told.put("clock: [1]", "line 1, column 8: the clock is an instant such as 2031-07-01T08:00:00Z, not 'a list'.");
        told.put(
                "clock: 2031-07-01",
                "line 1, column 8: the clock is an instant such as 2031-07-01T08:00:00Z, not '2031-07-01'.");
        told.put("defaults:\n  hut: 3", "line 2, column 8: defaults of a table are columns with values: {nights: 2}.");
        told.put("defaults: [hut]", "line 1, column 11: tables by their names are needed here: hut: …");
        told.put("tables:\n  hut: 3", "line 2, column 8: the rows of hut are a list, or have labels.");
        told.put("tables:\n  hut: [3]", "line 2, column 9: a row is columns with values, and this is 3.");
        told.put("tables:\n  hut: [[1, 2]]", "line 2, column 9: a row is columns with values, and this is a list.");
        told.put(
                "tables:\n  hut:\n    first: 3",
                "line 3, column 12: 'first' labels a row of hut, and a row is columns with values. Rows without labels are a list: - {…}");
        told.put(
                "tables:\n  hut: [{repeat: 0, of: {name: x}}]",
                "line 2, column 18: repeat is a number from 1 to 1000000, not '0'.");
        told.put(
                "tables:\n  hut: [{repeat: many, of: {name: x}}]",
                "line 2, column 18: repeat is a number from 1 to 1000000, not 'many'.");
        told.put(
                "tables:\n  hut: [{repeat: 3, of: 4}]",
                "line 2, column 25: what is repeated is columns with values: {repeat: 20, of: {nights: 2}}.");
        told.put(
                "tables:\n  hut: [{repeat: 3, of: {name: x}, name: y}]",
                "line 2, column 36: 'name' is no part of a repetition. Known: …");
        told.put(
                "tables:\n  hut: [{name: {plusDays: soon}}]",
                "line 2, column 27: plusDays is a whole number of days, not 'soon'.");
        told.put(
                "tables:\n  hut: [{name: {inTurn: 3}}]",
                "line 2, column 25: inTurn takes a list of values: {inTurn: [REQUESTED, CONFIRMED]}.");
        told.put(
                "tables:\n  hut: [{name: {inTurn: []}}]",
                "line 2, column 25: inTurn takes a list of values: {inTurn: [REQUESTED, CONFIRMED]}.");
        told.put(
                "tables:\n  hut: [{name: {row: [1]}}]",
                "line 2, column 22: row takes the label of a row, and this is a list.");
        told.put(
                "tables:\n  hut: [{name: x, name: y}]",
                "line 2, column 19: 'name' stands here twice, first in line 2.");
        told.put(
                "expect:\n  hut: 3",
                "line 2, column 8: what is expected of a table is written {holds: […], count: 3}.");
        told.put(
                "expect:\n  hut: {hold: [{name: x}]}",
                "line 2, column 9: 'hold' is no expectation of a table. Did you mean 'holds'? Known: …");
        told.put("expect:\n  hut: {count: some}", "line 2, column 16: count is a whole number, not 'some'.");
        told.put("expect:\n  hut: {count: -1}", "line 2, column 16: count is a whole number, not '-1'.");
        told.put("expect:\n  hut: {empty: false}", "line 2, column 16: only true can stand here, not 'false'.");
        told.put(
                "expect:\n  hut: {holds: [3]}",
                "line 2, column 17: columns with values are needed here, and this is 3.");
        told.put(
                "expect:\n  hut: {where: 3}", "line 2, column 16: columns with values are needed here, and this is 3.");
        told.put(
                "expect:\n  hut: {where: [1]}",
                "line 2, column 16: columns with values are needed here, and this is a list.");
        told.put(
                "expect:\n  hut: {unique: {a: 1}}",
                "line 2, column 17: a column or a list of columns is needed here, and this is an object.");
        told.put("expect:\n  hut: {strictly: 1}", "line 2, column 19: only true can stand here, not '1'.");
        told.put(
                "expect:\n  hut: {holds: [{nights: {between: 3}}]}",
                "line 2, column 36: between takes two values: {between: [1, 14]}.");
        told.put(
                "expect:\n  hut: {holds: [{nights: {between: [1, 2, 3]}}]}",
                "line 2, column 36: between takes two values: {between: [1, 14]}.");
        told.put(
                "expect:\n  hut: {holds: |\n    name\n    x\n}",
                "line 2, column 16: this is no YAML or JSON: found character '|' that cannot start any token. (Do not use | for indentation).");
        told.put("footprint: 3", "line 1, column 12: tables by their names are needed here: hut: …");
        told.put(
                "footprint:\n  hut: 3",
                "line 2, column 8: what changed in a table is written {added: […], changed: […], removed: […]}.");
        told.put(
                "footprint:\n  hut: {add: [{name: x}]}", "line 2, column 9: 'add' is no part of a footprint. Known: …");
        told.put("footprint:\n  hut: {changed: 3}", "line 2, column 18: changed rows are a list: - {key: 7, to: {…}}.");
        told.put(
                "footprint:\n  hut: {changed: [3]}",
                "line 2, column 19: a changed row is written {row: label, to: {…}}, or {key: 7, from: {…}, to: {…}}.");
        told.put(
                "footprint:\n  hut: {changed: [{row: x}]}",
                "line 2, column 19: a changed row says what it changed to: {row: label, to: {…}}.");
        told.put(
                "footprint:\n  hut: {changed: [{row: x, key: 3, to: {name: x}}]}",
                "line 2, column 19: a changed row is named by its label or by its key, not by both.");
        told.put("footprint:\n  nothingElse: maybe", "line 2, column 16: only true can stand here, not 'maybe'.");
        told.put("footprint:\n  hut: {unchanged: 3}", "line 2, column 20: only true can stand here, not '3'.");
        told.put("a: [1", "line 1, column 6: this is no YAML or JSON: expected ',' or ']', but got <stream end>.");
        told.put("a: {b", "line 1, column 6: this is no YAML or JSON: expected ',' or '}', but got <stream end>.");
        told.put(
                "\ttab: x",
                "line 1, column 1: this is no YAML or JSON: found character '\\t(TAB)' that cannot start any token. (Do not use \\t(TAB) for indentation).");
        told.put(
                "tables:\n  hut:\n   - {name: x}\n  - {name: y}",
                "line 4, column 3: this is no YAML or JSON: expected <block end>, but found '-'.");
        told.forEach((text, expected) -> {
            String message = message(() -> RowDocument.of("huts.yaml", text));
            String shown =
                    message.replaceAll("Known: [^.]*(\\.$|\\.\n)", "Known: …$1").replaceAll("Known: …[.]", "Known: …");
            assertTrue(shown.contains("huts.yaml, " + expected), text + "\n" + message + "\n" + expected);
        });
    }

    record Cabin(long id, String name, Map<String, Object> amenities) {}

    @Test
    void aColumnOfJsonTakesNestedYaml() {
        Stage cabins = Memory.stage(Schema.of(Cabin.class, Hut.class));
        RowDocument document = RowDocument.of("cabins.yaml", """
                clock: 2031-07-01T08:00:00Z
                tables:
                  hut:
                    edelgrat: {name: Edelgrat, open: true}
                  cabin:
                    upper:
                      name: Upper
                      amenities:
                        floors: 2
                        code: "010"
                        hut: {row: edelgrat}
                        checked: {after: PT2H}
                        stoves: [{kind: wood, plates: 2}, {kind: gas, plates: 1.50}]
                        warden: {invent: personName}
                        raw: {literal: {row: 7}}
                    lower: {name: Lower, amenities.floors: 3, "amenities.code": "3", amenities.hut: {row: edelgrat}}
                expect:
                  cabin:
                    holdsOnly:
                      - name: Upper
                        amenities:
                          stoves: [{kind: wood, plates: 2}, {kind: gas, plates: {between: [1, 2]}}]
                          floors: {above: 1}
                          code: "010"
                          hut: {notNull: true}
                          checked: {after: PT2H}
                          warden: {pattern: "[A-Z].* [A-Z].*"}
                          raw: {literal: {row: 7}}
                      - {name: Lower, amenities.floors: 3, amenities.code: "3"}
                """);
        Loaded loaded = cabins.load(document.seed());
        cabins.expect(document);
        Object hut = loaded.row("hut", "edelgrat").get("id");
        cabins.expect("cabin")
                .holdsOnly(
                        row("amenities.hut", hut)
                                .with("amenities.stoves[1].plates", new BigDecimal("1.5"))
                                .with("amenities.code", "010"),
                        row("amenities.hut", hut).with("amenities.floors", 3).with("amenities.code", "3"));
        cabins.expect("cabin").where("amenities.floors", 3).count(1);

        RowDocument other = RowDocument.of("cabins.yaml", """
                expect:
                  cabin:
                    holds: [{name: Upper, amenities: {floors: {above: 4}, tags: []}}]
                """);
        AssertionError report = assertThrows(AssertionError.class, () -> cabins.expect(other));
        assertTrue(report.getMessage().contains("{floors: > 4, tags: []}"), report.getMessage());

        assertEquals(
                """
                The seed cannot be stored, and nothing of it was: 4 things are wrong.
                  cabins.yaml, line 3, column 6: cabin.name: a value that is an object has one reserved name, and this has 'plus'. Known: row, stored, plusDays, after, invent, inTurn, between, rising, file, literal. Only a column of JSON holds objects.
                    | - {name: {plus: 3}}
                  cabins.yaml, line 4, column 6: cabin.name: a value that is an object has one reserved name, and this one is empty. Known: row, stored, plusDays, after, invent, inTurn, between, rising, file, literal. Only a column of JSON holds objects.
                    | - {name: {}}
                  cabins.yaml, line 5, column 6: No path leads into cabin.name: the column is String, and name.last needs one of JSON. Columns of JSON: amenities.
                    | - {name.last: x}
                  cabins.yaml, line 6, column 6: cabin.amenities.hut is a place in a document, and no row with a key of one column is labelled 'nowhere'.
                    | - {amenities: {hut: {row: nowhere}}}""",
                message(() -> cabins.load(RowDocument.of("cabins.yaml", """
                tables:
                  cabin:
                  - {name: {plus: 3}}
                  - {name: {}}
                  - {name.last: x}
                  - {amenities: {hut: {row: nowhere}}}
                """).seed())));
        assertEquals(
                "cabins.yaml, line 2, column 3: cabin.name: a value that is an object has one reserved name, and this has"
                        + " 'roughly'. Known: " + String.join(", ", DocumentValues.EXPECT_WORDS)
                        + ". Only a column of JSON holds objects.\n  | cabin: {holds: [{name: {roughly: 3}}]}",
                message(() -> cabins.expect(
                        RowDocument.of("cabins.yaml", "expect:\n  cabin: {holds: [{name: {roughly: 3}}]}"))));
    }

    interface Cabins {
        Cabin save(Cabin cabin);
    }

    @Test
    void documentsComeInTurn() {
        Stage cabins = Memory.stage(Schema.of(Cabin.class));
        cabins.load(RowDocument.of("cabins.yaml", """
                tables:
                  cabin:
                    - {repeat: 3, of: {amenities: {inTurn: [{floors: 1}, {floors: 2, tags: [a, 7]}]}}}
                    - {repeat: 2, of: {amenities.kitchen: {inTurn: [{stoves: 1}, null]}}}
                """).seed());
        cabins.expect("cabin").where("amenities.floors", 1).count(2);
        cabins.expect("cabin").where("amenities.floors", 2).holdsOnly(row("amenities.tags", List.of("a", 7)));
        cabins.expect("cabin").where("amenities.kitchen.stoves", 1).count(1);
        String refused =
                message(() -> cabins.load(RowDocument.of("cabins.yaml", """
                tables: {cabin: [{repeat: 2, of: {amenities: {inTurn: [{at: {plusDays: 1}}]}}}]}
                """).seed()));
        assertTrue(
                refused.contains(
                        "cabin.amenities: what is worked out inside of documents that come in turn stands at a place of its"
                                + " own: \"amenities.place\": {inTurn: […]}."),
                refused);
    }

    @Test
    void changesAsJsonTellThePlaces() {
        Stage cabins = Memory.stage(Schema.of(Cabin.class));
        Cabins fake = cabins.fake(Cabins.class);
        Cabin cabin = cabins.add(Factory.forType(Cabin.class)
                .with("name", "Upper")
                .with("amenities", Map.of("floors", 2, "tags", List.of("quiet"), "old", true)));
        Footprint footprint = cabins.act(
                () -> fake.save(new Cabin(cabin.id(), "Lower", Map.of("floors", 3, "tags", List.of("quiet", "high")))));
        Map<String, Object> change = RowsAsJson.of(footprint.changes()).get(0);
        assertEquals(List.of("name", "amenities"), change.get("changed"));
        assertEquals("""
                [{"place":"amenities.floors","before":2,"after":3},{"place":"amenities.old","before":true},\
                {"place":"amenities.tags[1]","after":"high"}]""", JsonTree.compact(change.get("places")));
        Footprint plain = cabins.act(
                () -> fake.save(new Cabin(cabin.id(), "Other", Map.of("floors", 3, "tags", List.of("quiet", "high")))));
        assertEquals(null, RowsAsJson.of(plain.changes()).get(0).get("places"));
    }

    @Test
    void defaultsAreFactories() {
        RowDocument document = RowDocument.of("summer.yaml", """
                clock: 2031-07-01T08:00:00Z
                defaults:
                  stay: {nights: {inTurn: [1, 7]}, status: CONFIRMED, arrives: {plusDays: 20}, price: 80.50}
                  hut: {name: {invent: email}, open: true}
                """);
        Map<String, Factory<dev.zabbet.row.Row>> factories = document.factories();
        stage.add(Bulk.of(2, factories.get("hut")).and(3, factories.get("stay")));
        stage.expect("hut")
                .where("open", true)
                .where("name", Expected.like("%1@example.org"))
                .count(1);
        stage.expect("stay")
                .where("status", "CONFIRMED")
                .where("arrives", LocalDate.of(2031, 7, 21))
                .holdsOnly(row("nights", 1), row("nights", 7), row("nights", 1));
        assertEquals(
                List.of("stay", "hut"),
                document.and(RowDocument.of("more.yaml", "defaults: {stay: {nights: 3}}")).factories().keySet().stream()
                        .sorted(java.util.Comparator.reverseOrder())
                        .toList());
        assertEquals(
                "stay.hut_id: {row: edelgrat} belongs to rows of a seed; for rows that are made it can be a value,"
                        + " {inTurn: […]}, {invent: …}, {between: […]}, {rising: […]}, {stored: skewed}, {plusDays: …} or"
                        + " {after: …}.",
                message(() -> RowDocument.of("base.yaml", "defaults: {stay: {hut_id: {row: edelgrat}}}")
                        .factories()));
        Stage cabins = Memory.stage(Schema.of(Cabin.class));
        cabins.add(
                5,
                RowDocument.of(
                                "cabins.yaml",
                                "defaults: {cabin: {amenities: {floors: 2}, amenities.code: {inTurn: [a, b]}}}")
                        .factories()
                        .get("cabin"));
        cabins.expect("cabin")
                .where("amenities.code", "b")
                .where("amenities.floors", 2)
                .count(2);
    }

    /** Most stays are in summer, in a few huts; each is booked later than the one before. */
    @Test
    void valuesAreDrawnFromRangesRiseAndReferToAFewRowsMostly() {
        RowDocument load = RowDocument.of("load.yaml", """
                clock: 2031-07-01T08:00:00Z
                defaults:
                  hut: {open: true}
                  stay:
                    hut_id: {stored: skewed}
                    nights: {between: [2, 5]}
                    price: {between: ["10.50", 12]}
                    arrives: {inTurn: [{between: [2031-06-01, 2031-08-31]}, {between: [2031-06-01, 2031-08-31]}, {plusDays: 176}]}
                    status: {inTurn: [CONFIRMED, REQUESTED]}
                """);
        Map<String, Factory<dev.zabbet.row.Row>> factories = load.factories();
        stage.add(Bulk.of(100, factories.get("hut")).and(6_000, factories.get("stay")));
        List<dev.zabbet.row.Row> stays = stage.rows("stay");
        long few =
                stays.stream().filter(stay -> (long) stay.get("hut_id") <= 10).count();
        assertTrue(few > 2_800 && few < 3_200, few + " of 6000 stays in a tenth of the huts");
        assertEquals(
                100, stays.stream().map(stay -> stay.get("hut_id")).distinct().count());
        for (long nights = 2; nights <= 5; nights++) {
            Object expected = nights;
            long count = stays.stream()
                    .filter(stay -> expected.equals(stay.get("nights")))
                    .count();
            assertTrue(count > 1_380 && count < 1_620, count + " of 6000 stays of " + nights + " nights");
        }
        stage.expect("stay").where("price", Expected.between("10.50", 12)).count(6_000);
        stage.expect("stay").where("price", Expected.below("10.55")).holds(row("price", "10.50"));
        stage.expect("stay").where("arrives", LocalDate.of(2031, 12, 24)).count(2_000);
        stage.expect("stay")
                .where("arrives", Expected.between("2031-06-01", "2031-08-31"))
                .count(4_000);

        Stage seeded = Memory.stage(Schema.of(Hut.class, Stay.class));
        seeded.add(20, "hut");
        seeded.load(RowDocument.of("seed.yaml", """
                tables:
                  stay:
                    - {repeat: 40, of: {hut_id: {stored: any}, nights: {rising: [3, -1]}, price: {rising: [1, 0.25]}, arrives: {rising: [2031-06-30, P1M]}}}
                """).seed());
        seeded.expect("stay")
                .where("id", 40)
                .holds(row("nights", -36).with("price", "10.75").with("arrives", "2034-09-30"));
        seeded.expect("hut").count(20);

        assertEquals(
                """
                huts.yaml cannot be read: 3 things are wrong.
                  huts.yaml, line 1, column 37: between takes two numbers, dates or times, the lower one first: {between: [1, 14]}, {between: [2031-06-01, 2031-08-31]}.
                  huts.yaml, line 1, column 64: rising takes the first row's number, date or time, and how much more each row after it has: {rising: [1000, 10]}, {rising: [2031-06-01, P1D]}, {rising: [2031-06-01T08:00, PT5M]}.
                  huts.yaml, line 1, column 102: stored takes the columns of a unique key with their values: {stored: {code: CH}}; any for one of all rows; or skewed for a few of them mostly.""",
                message(
                                () -> RowDocument.of(
                                        "huts.yaml",
                                        "defaults: {stay: {nights: {between: [5, 2]}, arrives: {rising: [2031-06-01, PT5M]}, hut_id: {stored: often}}}"))
                        .replaceAll("\n    \\|.*", ""));
    }

    @Test
    void headersOfCsvNamePlacesInDocuments(@TempDir Path folder) throws IOException {
        Stage cabins = Memory.stage(Schema.of(Cabin.class));
        Files.writeString(folder.resolve("cabin.csv"), """
                name,amenities.floors,amenities.code,amenities.stoves[0].kind
                Upper,3,010,wood
                Lower,,true,""
                """);
        cabins.load(Seed.read(folder.toString()));
        cabins.expect("cabin").holdsOnly("""
                | name  | amenities                                                       |
                | Upper | {"floors": 3, "code": "010", "stoves": [{"kind": "wood"}]} |
                | Lower | {"code": true, "stoves": [{"kind": ""}]}                   |
                """);
    }

    @Test
    void hostileFilesAreRefused(@TempDir Path folder) throws IOException {
        assertRefused("huts.yaml, line 2, column 4: anchors (&) are not read", "a: 1\nb: &x [1]\nc: *x");
        assertRefused(
                "huts.yaml, line 1, column 4: types (tag:yaml.org,2002:javax.script.ScriptEngineManager) are not read",
                "a: !!javax.script.ScriptEngineManager {}");
        assertRefused("huts.yaml, line 1, column 42: this is nested deeper than 40 levels", "[".repeat(100_000));
        assertRefused("huts.yaml, line 2, column 1: 'a' stands here twice, first in line 1", "a: 1\na: 2");
        assertRefused("huts.yaml, line 1, column 1: this is no YAML or JSON", "\t- a");
        assertRefused("huts.yaml, line 3, column 1: a second document begins here", "a: 1\n\n--- \nb: 1");
        Path huge = folder.resolve("huge.yaml");
        try (var file = new java.io.RandomAccessFile(huge.toFile(), "rw")) {
            file.setLength(1L << 30);
        }
        assertEquals(
                "'" + huge + "' has 1024 MB, and a seed at most 64. Split it into several files.",
                message(() -> Seed.read(huge.toString())));
    }

    private static void assertRefused(String start, String text) {
        String message = message(() -> RowDocument.of("huts.yaml", text));
        assertTrue(message.startsWith(start), message);
    }

    /** Whatever is done to a valid document, it is read or refused with a place, and what is read is stored or refused. */
    @Test
    void aMutatedDocumentIsReadOrRefusedWithItsPlace() {
        Random random = new Random(Long.getLong("zabbet.firstVariation", 1));
        int read = 0;
        int refused = 0;
        String odd = "{}[]:,-#&*!|>'\"%@`\\\n\t 0aZ~?é\u0000";
        for (int run = 0; run < Integer.getInteger("zabbet.runs", 1500); run++) {
            StringBuilder text = new StringBuilder(HUTS);
            for (int edits = 1 + random.nextInt(3); edits > 0; edits--) {
                int at = random.nextInt(text.length() - 8);
                switch (random.nextInt(4)) {
                    case 0 -> text.deleteCharAt(at);
                    case 1 -> text.insert(at, odd.charAt(random.nextInt(odd.length())));
                    case 2 -> text.setCharAt(at, odd.charAt(random.nextInt(odd.length())));
                    default -> text.delete(at, at + 1 + random.nextInt(7));
                }
            }
            try {
                RowDocument document = RowDocument.of("huts.yaml", text.toString());
                read++;
                Memory.stage(stage.schema()).load(document.seed());
            } catch (ZabbetException e) {
                refused++;
                String message = String.valueOf(e.getMessage());
                assertTrue(
                        message.contains("huts.yaml, line ") || message.contains("huts.yaml cannot be read: "),
                        () -> "run without a place: " + message + "\n" + text);
            } catch (RuntimeException e) {
                throw new AssertionError("run " + run + ": " + e + "\n" + text, e);
            }
        }
        System.out.println("mutated documents: " + read + " read, " + refused + " refused");
        assertTrue(read > 100 && refused > 100);
    }

    /** Whatever text, number, label or directive a seed has: written and read again, it stores the same rows. */
    @Test
    void aSeedThatIsWrittenReadsBackEqual() {
        Random random = new Random(Long.getLong("zabbet.firstVariation", 1));
        List<String> odd = List.of(
                "plain",
                "null",
                "NULL",
                "~",
                "",
                " blank ",
                "010",
                "1e3",
                "yes",
                "NO",
                "true",
                "2031-07-01",
                "a: b",
                "- a",
                "#x",
                "'",
                "\"",
                "\\",
                "{row: a}",
                "[1]",
                "line\nbreak",
                "tab\tx",
                "é山 Ω",
                "\u0085\u2028",
                "%",
                "@x",
                "!tag",
                "&a",
                "*a",
                "0x00",
                "\uD83C\uDFD4",
                "?",
                "|",
                ">",
                ",",
                "a,b",
                "=",
                "<<");
        for (int run = 0; run < Integer.getInteger("zabbet.runs", 300); run++) {
            Seed seed = Seed.empty().withClock(java.time.Instant.parse("2031-07-01T08:00:00Z"));
            int huts = 1 + random.nextInt(4);
            for (int i = 0; i < huts; i++) {
                String note = odd.get(random.nextInt(odd.size()));
                seed = seed.with(
                        "hut",
                        odd.get(i * 9 % odd.size()) + i,
                        row("name", note + i)
                                .with("note", random.nextInt(4) == 0 ? null : note)
                                .with("open", random.nextBoolean()));
            }
            for (int i = random.nextInt(4); i > 0; i--) {
                int of = random.nextInt(huts);
                seed = seed.repeat(
                        1 + random.nextInt(3),
                        "stay",
                        row("hut_id", Seed.ref(odd.get(of * 9 % odd.size()) + of))
                                .with(
                                        "arrives",
                                        new SeedValue.FromClock(
                                                random.nextBoolean()
                                                        ? Period.ofDays(random.nextInt(9) - 4)
                                                        : Period.ofMonths(2)))
                                .with("status", new SeedValue.InTurn(List.of("REQUESTED", Status.CANCELLED)))
                                .with("price", new BigDecimal(random.nextInt(9999)).movePointLeft(2))
                                .with("nights", random.nextInt(9)));
            }
            String written = RowDocument.write(seed);
            Stage first = Memory.stage(stage.schema());
            Stage second = Memory.stage(stage.schema());
            first.load(seed);
            second.load(RowDocument.of("written.yaml", written).seed());
            for (String table : List.of("hut", "stay")) {
                assertEquals(first.rows(table), second.rows(table), written);
            }
        }
    }

    /** What editors offer is what is read. */
    @Test
    void theJsonSchemaNamesTheSameWords() throws IOException {
        try (var in = RowDocument.class.getResourceAsStream("row-document.schema.json")) {
            var schema = new com.fasterxml.jackson.databind.ObjectMapper().readTree(in);
            var definitions = schema.get("$defs");
            var changes = schema.get("properties").get("footprint").get("additionalProperties");
            assertEquals(Set.copyOf(DocumentExpectation.OfChanges.WORDS), names(changes));
            assertEquals(
                    Set.copyOf(DocumentExpectation.OfCounts.WORDS),
                    names(changes.get("properties").get("counts")));
            assertEquals(
                    Set.copyOf(DocumentValues.SEED_WORDS),
                    names(definitions.get("value").get("anyOf").get(1)));
            assertEquals(
                    Set.copyOf(DocumentValues.EXPECT_WORDS),
                    names(definitions.get("expectedValue").get("anyOf").get(1)));
            assertEquals(Set.copyOf(DocumentExpectation.WORDS), names(definitions.get("expectation")));
        }
    }

    private static Set<String> names(com.fasterxml.jackson.databind.JsonNode definition) {
        Set<String> names = new HashSet<>();
        definition.get("properties").fieldNames().forEachRemaining(names::add);
        return names;
    }

    private static String message(org.junit.jupiter.api.function.Executable code) {
        return String.valueOf(assertThrows(ZabbetException.class, code).getMessage());
    }

    @Test
    void expectedRowsComeFromCsv(@TempDir Path folder) throws Exception {
        stage.add(3, Factory.forType(Hut.class).with(Hut::open, true));
        Path file = folder.resolve("hut.csv");
        Files.writeString(file, "id,open\n1,true\n2,\"true\"\n3,true\n");
        stage.expect("hut").holdsOnly(Csv.rows(file).toList());
        stage.expect("hut").holdsOnlyInKeyOrder(Csv.rows(file));
        Files.writeString(file, "id,open\n1,true\n2,false\n3,\n");
        AssertionError report = assertThrows(AssertionError.class, () -> stage.expect("hut")
                .holdsOnly(Csv.rows(file).toList()));
        assertTrue(
                String.valueOf(report.getMessage())
                        .startsWith("hut: 2 of 3 expected rows are stored with other values."),
                report::getMessage);
        Files.writeString(file, "id,open\n1,true,1\n");
        assertTrue(assertThrows(ZabbetException.class, () -> Csv.rows(file).toList())
                .getMessage()
                .contains("hut.csv, line 2: there are 3 fields"));
    }
}
