package dev.zabbet.cli;

import static dev.zabbet.cli.Commands.zabbet;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.cli.Commands.Outcome;
import dev.zabbet.jdbc.Jdbc;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** {@code zabbet extract} as people and scripts call it. */
class ExtractCommandTest {
    private static final String ROWS = """
            INSERT INTO region (id, name, country) VALUES (1, 'Val Drun', 'CH'), (2, 'Steinmatt', 'AT');
            INSERT INTO hut (id, region_id, name, altitude_m, beds, opened_on) VALUES
              (1, 1, 'Edelgrat', 2310, 34, '1911-07-01'), (2, 2, 'Windegg', 1980, 20, '1956-06-15');
            INSERT INTO warden (id, hut_id, full_name, phone) VALUES (1, 1, 'Ottavia Caduff', '+41 81 555 01 02');
            UPDATE hut SET warden_id = 1 WHERE id = 1;
            INSERT INTO room (hut_id, number, beds) VALUES (1, 1, 4), (1, 2, 8), (2, 1, 6);
            INSERT INTO guest (id, full_name, email, born, emergency_contact_id, password_hash) VALUES
              (1, 'Alva Nett', 'alva.nett@post.example', '1990-05-04', NULL, '$2a$10$abcdefghijklmnopqrstuv'),
              (2, 'Bruno Tuor', 'bruno.tuor@post.example', '1985-11-30', 1, '$2a$10$bbcdefghijklmnopqrstuv'),
              (3, 'Cilia Orlik', 'cilia.orlik@post.example', NULL, NULL, '$2a$10$cbcdefghijklmnopqrstuv');
            INSERT INTO stay (id, hut_id, room_number, arrives, nights, status, price, booked_at) VALUES
              (1, 1, 1, '2031-07-03', 2, 'CONFIRMED', 80.00, '2031-06-01 08:00:00'),
              (2, 2, 1, '2031-07-09', 3, 'CANCELLED', 120.50, '2031-06-02 08:00:00'),
              (3, 1, 2, '2031-08-01', 1, 'REQUESTED', 40.00, '2031-06-03 08:00:00');
            INSERT INTO stay_guest (stay_id, guest_id) VALUES (1, 1), (1, 2), (2, 2), (3, 3)""";

    @TempDir
    private Path folder;

    @BeforeEach
    void aSecretOfItsOwn() {
        Commands.ENVIRONMENT.put("ZABBET_MASK_SECRET", "a secret of the tests");
    }

    @AfterEach
    void noSecret() {
        Commands.ENVIRONMENT.remove("ZABBET_MASK_SECRET");
    }

    private String huts(String engine) throws Exception {
        Path place = Files.createDirectory(folder.resolve("db" + Commands.NUMBER.incrementAndGet()));
        String url = Commands.database(engine, place);
        Commands.execute(url, ROWS);
        return url;
    }

    @Test
    void theSummaryTellsWhatWasTakenAndWhatWasMasked() throws Exception {
        String url = huts("H2");
        Path file = folder.resolve("seeds/guests.yaml");
        Outcome done = zabbet(
                url,
                "extract",
                "guest=2",
                "--below",
                "stay_guest",
                "--without",
                "*.booked_at",
                "--out",
                file.toString());
        assertEquals("", done.err());
        String where = done.out().replaceAll("from .*\n", "from H2\n").replace(file.toString(), "guests.yaml");
        assertEquals("""
                14 rows of 7 tables from H2
                  table       rows  why
                  guest          2  asked for
                  region         2  needed by hut.region_id
                  hut            2  needed by stay.hut_id
                  warden         1  needed by hut.warden_id
                  room           2  needed by stay.hut_id+room_number
                  stay           2  needed by stay_guest.stay_id
                  stay_guest     3  below guest, by guest_id

                6 columns of 34 masked; --report tells of all
                  column               as              why                     values  now, for example
                  guest.full_name      person's name   called full_name             2  Fuli Niff, Hmuha Toer
                  guest.email          E-mail address  holds E-mail addresses       2  fuli.niff@lutg.test, hmuha.toer@lutg.test
                """.lines().limit(11).toList(), where.lines().limit(11).toList());
        assertTrue(where.endsWith("Written to guests.yaml.\nLoad it: zabbet load guests.yaml\n"), where);
        String text = Files.readString(file);
        for (String original :
                List.of("Alva", "Nett", "Caduff", "post.example", "1990-05-04", "555 01 02", "abcdefghij")) {
            assertFalse(text.contains(original), original + " in " + text);
        }
        assertTrue(
                text.contains("edelgrat: {region_id: {row: val-drun}, warden_id: {row: warden-1}, name: Edelgrat,"),
                text);
        assertTrue(
                text.contains("stay-1: {hut_id: {row: edelgrat}, room_number: {row: edelgrat-1}, arrives: 2031-07-03,"),
                text);
        assertFalse(text.contains("booked_at"), text);

        String copy = Commands.database("H2", Files.createDirectory(folder.resolve("copy")));
        assertEquals(0, zabbet(copy, "validate", file.toString()).status());
        assertEquals(0, zabbet(copy, "load", file.toString()).status());
        assertEquals(1, Commands.number(copy, "SELECT COUNT(*) FROM hut WHERE warden_id IS NOT NULL"));
        Outcome again = zabbet(copy, "load", file.toString());
        assertEquals(2, again.status());

        Files.writeString(
                file,
                "use: {region: stored, hut: stored, warden: stored, room: stored, guest: stored, stay: stored, stay_guest: stored}\n"
                        + text.replace("country: AT", "country: IT"));
        Outcome found = zabbet(copy, "load", file.toString());
        assertEquals("", found.err());
        assertTrue(found.out().contains("  region steinmatt, but country is AT, not IT\n"), found.out());
        String json = zabbet(copy, "load", file.toString(), "--json").out().replaceAll("\\s", "");
        assertTrue(json.contains("\"differences\":[\"countryisAT,notIT\"]"), json);
    }

    @Test
    void documentsAreWrittenOutAndComeBack() throws Exception {
        String url = huts("H2");
        List<String> documents = List.of(
                "{\"shower\":true,\"floors\":3,\"price\":7.50,\"code\":\"010\",\"count\":\"3\",\"open\":\"true\",\"none\":null}",
                "{\"tags\":[\"null\",\"~\",\"no\",\"2031-07-01\",\"a: b\",\"{x}\",\" \",\"\",\"ä\\n\\u0007\"],\"odd.name\":{\"a b\":[]}}",
                "{\"row\":\"edelgrat\"}",
                "{\"stove\":{\"invent\":\"word\"},\"e\":1e30,\"deep\":[[{}],{\"literal\":1}]}",
                "[1,\"2\",{\"file\":\"x\"}]");
        for (int i = 0; i < documents.size(); i++) {
            Commands.execute(
                    url,
                    "INSERT INTO hut (id, region_id, name, altitude_m, beds, opened_on, amenities) VALUES (" + (i + 10)
                            + ", 1, 'Hut " + i + "', 2000, 8, '1990-01-01', JSON '"
                            + documents.get(i).replace("'", "''") + "')");
        }
        Path file = folder.resolve("documents.yaml");
        Outcome taken = zabbet(url, "extract", "hut=all", "--unmasked", name(url), "--out", file.toString());
        assertEquals(0, taken.status(), taken.err());
        String text = Files.readString(file);
        assertTrue(
                text.contains(
                        "amenities: {shower: true, floors: 3, price: 7.50, code: \"010\", count: \"3\", open: \"true\","
                                + " none: null}}"),
                text);
        assertTrue(text.contains("amenities: {literal: {row: edelgrat}}}"), text);
        Outcome some = zabbet(url, "extract", "hut=1", "--where", "hut", "amenities.floors=3", "--unmasked", name(url));
        assertEquals(0, some.status(), some.err());
        assertTrue(some.out().contains("name: Hut 0") || some.out().contains("name: \"Hut 0\""), some.out());
        assertFalse(some.out().contains("Hut 1"), some.out());
        assertTrue(some.err().contains("No index begins with hut.amenities.floors"), some.err());
        String copy = Commands.database("H2", Files.createDirectory(folder.resolve("documents")));
        Outcome loaded = zabbet(copy, "load", file.toString());
        assertEquals(0, loaded.status(), loaded.err());
        for (int i = 0; i < documents.size(); i++) {
            String expected = "hut:\n      - {where: {name: Hut " + i + "}, holds: [{amenities: {literal: "
                    + documents.get(i) + "}}]}\n";
            Path expectation = Files.writeString(folder.resolve("expected.yaml"), "expect:\n    " + expected);
            Outcome verified = zabbet(copy, "verify", expectation.toString());
            assertEquals(0, verified.status(), verified.out() + verified.err() + text);
        }
    }

    /** The rows that documents refer to come along, also where their keys are personal; a place that is left out is nowhere. */
    @Test
    void referencesInDocumentsAreFollowed() throws Exception {
        String url = huts("H2");
        Commands.execute(
                url,
                "CREATE TABLE contact (email VARCHAR(60) PRIMARY KEY, note VARCHAR(40));"
                        + "INSERT INTO contact VALUES ('mia.tanner@huette.example', NULL), ('urs.rot@huette.example', NULL);"
                        + "UPDATE hut SET amenities = JSON '{\"shower\": true, \"contacts\": [{\"mail\": \"mia.tanner@huette.example\", \"seen\":"
                        + " \"by Mia Tanner\"}], \"wardenId\": 1}' WHERE id = 1");
        Path rules = Files.writeString(
                folder.resolve("rules.yaml"),
                "ref: {hut.amenities.contacts.mail: contact}\nwithout: [hut.amenities.contacts.seen]\n");
        Path file = folder.resolve("huts.yaml");
        List<String> asked = List.of(
                "extract", "--key", "hut=1", "--rules", rules.toString(), "--ref", "hut.amenities.wardenId=warden");
        Outcome taken = zabbet(url, with(asked, "--out", file.toString()));
        assertEquals("", taken.err());
        assertTrue(taken.out().contains("  contact     1  needed by hut.amenities.contacts.mail\n"), taken.out());
        assertTrue(taken.out().contains("  hut.amenities.contacts.mail  E-mail address "), taken.out());
        String text = Files.readString(file);
        assertTrue(
                text.matches("(?s).*amenities: \\{shower: true, contacts: \\[\\{mail: \\{row: contact-[a-z-]+}}],"
                        + " wardenId: \\{row: warden-1}}}.*"),
                text);
        Path sql = folder.resolve("huts.sql");
        assertEquals(0, zabbet(url, with(asked, "--out", sql.toString())).status());
        String inserts = Files.readString(sql);
        String email = inserts.replaceFirst("(?s).*\\('([^']+@[^']+)', NULL\\).*", "$1");
        assertTrue(inserts.contains("{\"mail\":\"" + email + "\"}],\"wardenId\":1}"), inserts);
        assertFalse((text + inserts).contains("anner"), text + inserts);

        String copy = Commands.database("H2", Files.createDirectory(folder.resolve("referring")));
        Commands.execute(copy, "CREATE TABLE contact (email VARCHAR(60) PRIMARY KEY, note VARCHAR(40))");
        assertEquals("", zabbet(copy, "dedicate").err());
        assertEquals("", zabbet(copy, "add", "warden=3").err());
        Outcome loaded = zabbet(copy, "load", file.toString());
        assertEquals("", loaded.err());
        assertEquals(
                1,
                Commands.number(
                        copy,
                        "SELECT COUNT(*) FROM hut h JOIN warden w ON h.amenities = JSON '{\"shower\":true,\"contacts\":[{\"mail\":\""
                                + email + "\"}],\"wardenId\":4}' AND w.id = 4 AND w.hut_id = h.id"));

        Outcome nowhere = zabbet(url, with(asked, "--ref", "hut.amenties.wardenId=warden"));
        assertEquals(2, nowhere.status());
        assertTrue(nowhere.err().contains("There is no column named 'hut.amenties.wardenId'"), nowhere.err());
        Outcome unwritten = zabbet(url, with(asked, "--ref", "hut.amenities.wardenId"));
        assertEquals("zabbet: 'hut.amenities.wardenId' is not written as --ref PLACE=TABLE.\n", unwritten.err());
        Files.writeString(rules, "ref: [hut.amenities.wardenId]\n");
        assertTrue(zabbet(url, asked.toArray(String[]::new))
                .err()
                .contains("rules.yaml, line 1, column 6: ref says which table's keys stand at places in documents:"
                        + " {hut.amenities.wardenId: warden}."));
    }

    private static String[] with(List<String> some, String... more) {
        return Stream.concat(some.stream(), Stream.of(more)).toArray(String[]::new);
    }

    @ParameterizedTest
    @ValueSource(strings = {"H2", "POSTGRES", "MARIADB", "SQLITE"})
    void everyWayOutLeadsToTheSameRows(String engine) throws Exception {
        String url = huts(engine);
        String other = "jdbc:h2:" + folder.resolve("other"); // of another kind, whichever engines are tried
        Commands.execute(other, Files.readString(Commands.EXAMPLES.resolve("db/huts.sql")));
        assertEquals(0, zabbet(other, "dedicate").status());
        Outcome into = zabbet(url, "extract", "stay=all", "--below", "stay_guest", "--into", other);
        assertEquals("", into.err());
        assertTrue(into.out().contains("\n18 rows stored.\n"), into.out());
        assertEquals(
                3,
                Commands.number(
                        other,
                        "SELECT COUNT(*) FROM stay s JOIN room r ON r.hut_id = s.hut_id AND r.number = s.room_number"));

        Path csv = folder.resolve("csv");
        assertEquals(
                0,
                zabbet(url, "extract", "stay=all", "--below", "stay_guest", "--csv", "--out", csv.toString())
                        .status());
        String loaded = Commands.database(engine, Files.createDirectory(folder.resolve("fromcsv")));
        Outcome load = zabbet(loaded, "load", csv.toString());
        assertEquals("", load.err());
        Path sql = folder.resolve("stays.sql");
        assertEquals(
                0,
                zabbet(url, "extract", "stay=all", "--below", "stay_guest", "--out", sql.toString())
                        .status());
        String run = Commands.database(engine, Files.createDirectory(folder.resolve("fromsql")));
        Jdbc.run(Jdbc.dataSource(run, "", ""), sql.toString(), ExtractCommandTest.class);
        for (String copy : List.of(loaded, run)) {
            assertEquals(4, Commands.number(copy, "SELECT COUNT(*) FROM stay_guest"));
            assertEquals(1, Commands.number(copy, "SELECT COUNT(*) FROM hut WHERE warden_id = 1 AND id = 1"));
        }
        Outcome printed = zabbet(url, "extract", "--key", "guest=2", "--unmasked", name(url));
        assertTrue(
                printed.out().startsWith("tables:\n  guest:\n    alva-nett-post-example: {full_name: \"Alva Nett\""),
                printed.out());
        assertTrue(printed.err().contains("Nothing was masked, as --unmasked says"), printed.err());
    }

    private static String name(String url) {
        String plain = url.replaceAll("[?;].*", "");
        return plain.substring(Math.max(plain.lastIndexOf('/'), plain.lastIndexOf(':')) + 1);
    }

    @Test
    void rulesLongValuesAndTheReport() throws Exception {
        String url = huts("H2");
        Path rules = folder.resolve("masking.yaml");
        Files.writeString(rules, "keep: [guest.born]\nmask: [hut.name]\nwithout: [guest.password_hash]\n");
        Path file = folder.resolve("huts.yaml");
        Outcome done = zabbet(
                url,
                "extract",
                "hut=1",
                "guest=2",
                "--rules",
                rules.toString(),
                "--report",
                "--longest",
                "12",
                "--out",
                file.toString());
        assertEquals("", done.err());
        assertTrue(done.out().contains("  guest.born                  kept            asked for"), done.out());
        assertTrue(done.out().contains("  hut.name                    personal value  asked for"), done.out());
        String text = Files.readString(file);
        assertTrue(text.contains("born: 1990-05-04") && !text.contains("Edelgrat") && !text.contains("password"), text);
        assertTrue(text.contains("email: {file: \"huts-values/guest-guest-1-email.txt\"}"), text);
        String copy = Commands.database("H2", Files.createDirectory(folder.resolve("copy")));
        assertEquals("", zabbet(copy, "load", file.toString()).err());
        assertEquals(2, Commands.number(copy, "SELECT COUNT(*) FROM guest WHERE email LIKE '%@%.test'"));
        Outcome json = zabbet(url, "extract", "hut=1", "--json", "--out", file.toString());
        assertTrue(json.out().replaceAll("\\s", "").contains("\"kind\":\"phonenumber\""), json.out());

        Files.writeString(rules, "keep: [guest.born]\nmaks: [hut.name]\n");
        Outcome wrong = zabbet(url, "extract", "hut=1", "--rules", rules.toString());
        assertEquals(2, wrong.status());
        assertTrue(
                wrong.err()
                        .contains(
                                "masking.yaml, line 2, column 1: 'maks' is no rule. Did you mean 'mask'? Known: keep, mask, without,"
                                        + " ref, keepDomains."),
                wrong.err());
    }

    @Test
    void whatCannotBeToldStopsIt() throws Exception {
        String url = huts("H2");
        Commands.execute(
                url,
                "ALTER TABLE hut ADD COLUMN x17 VARCHAR(60); UPDATE hut SET x17 = CASE id WHEN 1 THEN 'north'"
                        + " ELSE 'nobody@post.example' END; INSERT INTO hut (id, region_id, name, altitude_m, beds, opened_on, x17) SELECT 100 + x, 1,"
                        + " 'Rotbach ' || x, 900, 9, '1950-01-01', 'south ' || x FROM system_range(1, 8)");
        Path file = folder.resolve("huts.yaml");
        Outcome stopped = zabbet(url, "extract", "hut=all", "--out", file.toString());
        assertEquals(2, stopped.status());
        assertEquals("""
                zabbet: Nothing was written: it cannot be told whether this column is personal.
                  hut.x17 holds something that looks personal in 1 of 10 different values
                Decide for each: --mask hut.x17, --keep hut.x17, or --without hut.x17.
                """, stopped.err());
        assertFalse(Files.exists(file));
        assertEquals(
                0,
                zabbet(url, "extract", "hut=all", "--keep", "hut.x17", "--out", file.toString())
                        .status());
        Outcome where =
                zabbet(url, "extract", "guest=9", "--where", "guest", "born < '1988-01-01'", "--out", file.toString());
        assertTrue(
                where.out().contains("Note: No index begins with guest.born: all rows of guest were looked at."),
                where.out());
        assertTrue(Files.readString(file).contains("guest-2"), where.out());
        Outcome odd = zabbet(url, "extract", "guest");
        assertEquals("zabbet: 'guest' asks for no rows. Write TABLE=N, TABLE=all, or TABLE=1%.\n", odd.err());
    }

    /** A file may not grow, or the process is killed: what was there before is there still. */
    @Test
    void nothingIsHalfWritten() throws Exception {
        String url = huts("SQLITE"); // which writes nothing while it reads
        Commands.execute(
                url,
                "INSERT INTO guest (id, full_name, email, password_hash) WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1"
                        + " FROM n WHERE x < 40000) SELECT 100 + x, 'Dario Wyler', 'dario' || x || '@post.example', 'x' FROM n");
        Path file = folder.resolve("guests.yaml");
        Files.writeString(file, "as it was");
        List<String> command = List.of(
                "sh",
                "-c",
                "ulimit -f 8192; exec \"$@\"",
                "sh",
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-cp",
                System.getProperty("java.class.path"),
                "dev.zabbet.cli.Zabbet",
                "extract",
                "guest=all",
                "--db",
                url,
                "--out",
                file.toString());
        ProcessBuilder full = new ProcessBuilder(command).redirectErrorStream(true);
        full.environment().putAll(Commands.ENVIRONMENT);
        Process process = full.start();
        String said = new String(process.getInputStream().readAllBytes());
        assertEquals(2, process.waitFor(), said);
        assertTrue(said.contains("guests.yaml' cannot be written, and was not changed: "), said);
        for (int i = 0; i < 6; i++) {
            Process killed =
                    Commands.start(url, folder.resolve("err"), "extract", "guest=all", "--out", file.toString());
            killed.waitFor(600 + 500L * i, TimeUnit.MILLISECONDS);
            killed.destroyForcibly().waitFor();
            String left = Files.readString(file);
            assertTrue(
                    left.equals("as it was") || left.lines().count() == 40005,
                    left.lines().count() + " lines");
        }
        Files.writeString(file, "as it was");
        assertEquals(
                0, zabbet(url, "extract", "guest=all", "--out", file.toString()).status());
        try (Stream<Path> files = Files.list(folder)) {
            assertTrue(files.noneMatch(f -> f.toString().endsWith(".part")));
        }
    }
}
