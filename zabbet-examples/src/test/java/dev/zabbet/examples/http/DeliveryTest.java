package dev.zabbet.examples.http;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.files.RowDocument;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.Seed;
import dev.zabbet.serve.HttpApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Seeds that the huts application stores by its own API, and what is said where it does not. */
class DeliveryTest {
    private static final Path RESOURCES =
            Path.of(System.getProperty("zabbet.repository.root"), "zabbet-examples/src/main/resources");
    private static final Clock SUMMER = Clock.fixed(Instant.parse("2031-07-01T08:00:00Z"), ZoneOffset.UTC);

    @TempDir
    Path folder = Path.of("");

    private String mapping(String more, String tables) throws IOException {
        Path file = folder.resolve("api.yaml");
        Files.writeString(
                file,
                "document: " + RESOURCES.resolve("dev/zabbet/examples/http/openapi.yaml") + "\n" + more + "tables:\n"
                        + tables);
        return file.toString();
    }

    private static final String TABLES = """
              hut: {fields: {altitude: altitude_m}}
              guest: {key: /guest/id, fields: {password: {literal: over the hills}}}
              stay: {fields: {room: room_number, guestId: stay_guest.guest_id}}
              ledger_entry: {create: enter}
            """;

    /** A thousand rows in seven tables, the guests of stays among them. */
    private static String thousand(boolean refused) {
        StringBuilder text = new StringBuilder("tables:\n  region:\n");
        for (int i = 1; i <= 10; i++) {
            text.append("    r").append(i).append(": {name: Ring ").append(i).append(", country: CH}\n");
        }
        if (refused) {
            text.append("    far: {name: Far, country: at}\n");
        }
        text.append("  hut:\n");
        for (int i = 1; i <= 40; i++) {
            text.append("    h")
                    .append(i)
                    .append(": {name: Hut ")
                    .append(i)
                    .append(", region_id: {row: r")
                    .append(1 + i % 10)
                    .append("}, beds: 30}\n");
        }
        text.append("  room:\n");
        for (int i = 0; i < 200; i++) {
            text.append("    m")
                    .append(i)
                    .append(": {hut_id: {row: h")
                    .append(1 + i % 40)
                    .append("}, number: ")
                    .append(1 + i / 40)
                    .append("}\n");
        }
        text.append("  guest:\n");
        for (int i = 0; i < 150; i++) {
            text.append("    g")
                    .append(i)
                    .append(": {full_name: Guest ")
                    .append(i)
                    .append(", email: g")
                    .append(i)
                    .append("@huts.example}\n");
        }
        text.append("  stay:\n");
        for (int i = 0; i < 200; i++) {
            stay(text, "s" + i, i, LocalDate.of(2031, 8, 1));
        }
        if (refused) {
            stay(text, "late", 7, LocalDate.of(2031, 8, 2));
        }
        text.append("  stay_guest:\n");
        for (int i = 0; i < 200; i++) {
            text.append("    - {stay_id: {row: s")
                    .append(i)
                    .append("}, guest_id: {row: g")
                    .append(i % 150)
                    .append("}}\n");
        }
        text.append("    - {stay_id: {row: ")
                .append(refused ? "late" : "s0")
                .append("}, guest_id: {row: g")
                .append(refused ? 1 : 149)
                .append("}}\n");
        text.append("  ledger_entry:\n");
        for (int i = 0; i < 200; i++) {
            text.append("    - {stay_id: {row: s").append(i).append("}, amount: 96.00, kind: CHARGE}\n");
        }
        return refused
                ? text.toString()
                : text.toString().replaceFirst("    - \\{stay_id: \\{row: s0}, guest_id: \\{row: g149}}\n", "");
    }

    private static void stay(StringBuilder text, String label, int room, LocalDate arrives) {
        text.append("    ")
                .append(label)
                .append(": {hut_id: {row: h")
                .append(1 + room % 40)
                .append("}, room_number: ")
                .append(1 + room / 40)
                .append(", arrives: ")
                .append(arrives)
                .append(", nights: 2}\n");
    }

    @Test
    void aThousandRowsWithTwoRefusalsLeaveNothingAndWithoutThemAllThere() throws Exception {
        try (Stage stage = Jdbc.embedded("/db/huts.sql", HutsServer.class);
                HutsServer huts = HutsServer.start(stage.dataSource(), SUMMER, null)) {
            HttpApi api = HttpApi.read(mapping("atOnce: 3\n", TABLES)).at(huts.url());
            Seed refused = RowDocument.of("base.yaml", thousand(true)).seed();
            String said = assertThrows(ZabbetException.class, () -> stage.deliver(refused, api))
                    .getMessage();
            assertEquals(
                    "The application refused 2 of 1003 rows. Nothing of the seed remains: 800 rows that it had created were"
                            + " deleted again.\n\n"
                            + "1) region 'far' (base.yaml, line 13, column 10): 422\n"
                            + "     POST " + huts.url() + "/api/regions\n"
                            + "     {\"name\":\"Far\",\"country\":\"at\"}\n"
                            + "   answered\n"
                            + "     {\"problem\":\"country is a code of two capital letters; it was at\"}\n\n"
                            + "2) stay 'late' (base.yaml, line 608, column 11): 409\n"
                            + "     POST " + huts.url() + "/api/stays\n"
                            + "     {\"guestId\":N,\"hutId\":N,\"room\":1,\"arrives\":\"2031-08-02\",\"nights\":2}\n"
                            + "   answered\n"
                            + "     {\"problem\":\"room 1 of hut N is taken on these nights\"}",
                    said.replaceAll("(?<=(guestId|hutId)\":)\\d+", "N").replaceAll("of hut \\d+", "of hut N"));
            for (String table : List.of("region", "hut", "room", "guest", "stay", "stay_guest", "ledger_entry")) {
                stage.expect(table).empty();
            }

            Loaded all =
                    stage.deliver(RowDocument.of("base.yaml", thousand(false)).seed(), api);
            assertEquals(
                    "{region=10, hut=40, room=200, guest=150, stay=200, stay_guest=200, ledger_entry=200}",
                    all.counts().toString());
            all.counts().forEach((table, count) -> stage.expect(table).count(count));
            stage.expectReferencesIntact();
            assertEquals("Hut 7", all.row("hut", "h7").get("name"));
            stage.expect(RowDocument.of("later.yaml", "expect: {stay: {where: {hut_id: {row: h7}}, count: 5}}"));
            assertTrue(
                    api.leftOut().containsAll(List.of("stay.status", "stay.price", "guest.password_hash")),
                    () -> api.leftOut().toString());
        }
    }

    @Test
    void aMappingThatDoesNotSayEnoughIsToldAllAtOnceAndNothingIsSent() throws Exception {
        try (Stage stage = Jdbc.embedded("/db/huts.sql", HutsServer.class);
                HutsServer huts = HutsServer.start(stage.dataSource(), SUMMER, "the desk's own key")) {
            Seed seed = RowDocument.of("base.yaml", thousand(false)).seed();
            var start = stage.mark();
            String document =
                    RESOURCES.resolve("dev/zabbet/examples/http/openapi.yaml").toString();
            assertEquals(
                    "The seed cannot be delivered, and nothing was sent:\n"
                            + "  addHut needs 'altitude', and no column of hut is called so. Say which: tables: hut: fields: {altitude: column}.\n"
                            + "  addGuest needs 'password', and no column of guest is called so. Say which: tables: guest: fields:"
                            + " {password: column}.\n"
                            + "  book needs 'guestId', and no column of stay is called so. Say which: tables: stay: fields:"
                            + " {guestId: column}.\n"
                            + "  book needs 'room', and no column of stay is called so. Say which: tables: stay: fields: {room:"
                            + " column}.\n"
                            + "  No operation of " + document
                            + " looks as if it created rows of stay_guest. Name it: tables:"
                            + " stay_guest: create: operationId; or, where they come with rows of another table, name a field of"
                            + " that: fields: {field: stay_guest.column}.\n"
                            + "  No operation of " + document
                            + " looks as if it created rows of ledger_entry. Name it: tables:"
                            + " ledger_entry: create: operationId; or, where they come with rows of another table, name a field of"
                            + " that: fields: {field: ledger_entry.column}.",
                    refusal(stage, seed, huts, "", "  region: {}\n"));
            assertEquals(
                    "tables, hut, create: There is no operation of " + document
                            + " named 'addHt'. Did you mean 'addHut'?",
                    refusal(stage, seed, huts, "", "  hut: {create: addHt}\n")
                            .replaceFirst("\\?.*", "?")
                            .replaceFirst("^.*(?=tables, hut)", ""));
            assertTrue(refusal(stage, seed, huts, "", "  hut: {craete: addHut}\n")
                    .contains("There is no member named 'craete'. Did you mean 'create'?"));
            assertTrue(refusal(stage, seed, huts, "serevr: x\n", TABLES)
                    .contains("api.yaml: There is no member named 'serevr'. Did you mean 'server'?"));
            assertTrue(refusal(stage, seed, huts, "atOnce: 0\n", TABLES)
                    .contains("'atOnce' is a number from 1 to 64; it was 0."));
            assertTrue(refusal(stage, seed, huts, "headers: {X-Desk-Key: {env: ZABBET_NOT_THERE}}\n", TABLES)
                    .contains("The environment has no ZABBET_NOT_THERE, which the mapping sends."));
            assertTrue(refusal(stage, seed, huts, "", TABLES.replace("room: room_number", "bed: room_number"))
                    .contains("book takes no bed. It takes: guestId, hutId, room, arrives, nights."));
            String unknown = refusal(stage, seed, huts, "", TABLES);
            assertTrue(
                    unknown.startsWith("The application refused 1 of 1000 rows. Nothing was created.\n\n1) region 'r1'")
                            && unknown.endsWith("No more was sent, since others would be refused for the same."),
                    unknown);
            assertEquals(1L, stage.add("region").get("id"), "no number was taken for what was only planned");
            stage.rewind(start);
            String secret = refusal(
                    stage,
                    seed,
                    huts,
                    "headers: {X-Desk-Key: {literal: the desk's own key}}\n",
                    TABLES.replace("over the hills", "short"));
            assertTrue(secret.contains("\"password\":\"***\"") && !secret.contains("short\""), secret);
            HttpApi gone = HttpApi.read(mapping("", TABLES)).at("http://127.0.0.1:1");
            assertTrue(assertThrows(ZabbetException.class, () -> stage.deliver(seed, gone))
                    .getMessage()
                    .contains("The application cannot be reached at http://127.0.0.1:1"));
            Stream.of("region", "hut", "guest", "stay")
                    .forEach(table -> stage.expect(table).empty());
        }
    }

    private String refusal(Stage stage, Seed seed, HutsServer huts, String more, String tables) throws IOException {
        String file = mapping(more, tables);
        return assertThrows(
                        ZabbetException.class,
                        () -> stage.deliver(seed, HttpApi.read(file).at(huts.url())))
                .getMessage();
    }

    @Test
    void aFactoryGoesThroughAnOperation() throws Exception {
        try (Stage stage = Jdbc.embedded("/db/huts.sql", HutsServer.class);
                HutsServer huts = HutsServer.start(stage.dataSource(), SUMMER, null)) {
            HttpApi api = HttpApi.read(mapping("", TABLES)).at(huts.url());
            Factory<Row> regions = Factory.forTable("region").with("country", "AT");
            assertEquals(
                    "[{id=3}, {id=4}]",
                    stage.add(2, regions.through(api.operation("addRegion"))).toString());
            stage.expect("region").where("country", "AT").count(2);
            String said = assertThrows(
                            ZabbetException.class,
                            () -> stage.add(regions.with("name", "Far")
                                    .with("country", "at")
                                    .through(api.operation("addRegion"))))
                    .getMessage();
            assertTrue(
                    said.endsWith("The application refused it: 422\n  POST " + huts.url() + "/api/regions\n"
                            + "  {\"name\":\"Far\",\"country\":\"at\"}\n"
                            + "answered\n  {\"problem\":\"country is a code of two capital letters; it was at\"}"),
                    said);
            String missing = assertThrows(
                            ZabbetException.class, () -> stage.add(regions.through(api.operation("addHut"))))
                    .getMessage();
            assertTrue(missing.contains("addHut needs 'regionId', and nothing is called so: "), missing);
        }
    }
}
