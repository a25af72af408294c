package dev.zabbet.cli;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The huts as row documents: validated, loaded, verified, and checked while somebody else's program runs. */
class DocumentsTest {
    private static final String HUTS =
            Commands.EXAMPLES.resolve("seeds/huts.yaml").toString();
    private static final String CANCEL =
            Commands.EXAMPLES.resolve("seeds/cancel.yaml").toString();
    /** The engine's own client where it is installed; else any program that speaks SQL. */
    static List<String> client(String engine, String url, Path folder, String sql) {
        String name = url.replaceAll(".*/([^/?]*).*", "$1");
        List<String> client =
                switch (engine) {
                    case "POSTGRES" -> List.of("psql", "-q", url.replaceFirst("^jdbc:", ""), "-c", sql);
                    case "MARIADB" -> {
                        String port = url.replaceFirst(".*//[^/:]*:?(\\d*)/.*", "$1");
                        String password =
                                url.contains("password=") ? url.replaceFirst(".*password=(\\w*).*", "$1") : "";
                        yield List.of(
                                "mariadb",
                                "--host=127.0.0.1",
                                "--port=" + (port.isEmpty() ? "3306" : port),
                                "--user=root",
                                "--password=" + password,
                                name,
                                "-e",
                                sql);
                    }
                    case "SQLITE" ->
                        List.of("sqlite3", folder.resolve("huts.db").toString(), sql);
                    default -> List.of("none");
                };
        boolean installed = List.of(System.getenv("PATH").split(":")).stream()
                .anyMatch(place -> Files.isExecutable(Path.of(place, client.get(0))));
        return installed
                ? client
                : List.of(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-cp",
                        System.getProperty("java.class.path"),
                        Client.class.getName(),
                        url,
                        sql);
    }

    /** A client that speaks SQL, where none is installed. */
    static final class Client {
        public static void main(String[] arguments) throws Exception {
            try (Connection connection = DriverManager.getConnection(arguments[0]);
                    Statement statement = connection.createStatement()) {
                for (String sql : arguments[1].split(";")) {
                    statement.execute(sql);
                }
            }
        }
    }

    @ParameterizedTest
    @ValueSource(strings = {"H2", "SQLITE", "POSTGRES", "MARIADB"})
    void theHutsAreLoadedVerifiedAndWatched(String engine, @TempDir Path folder) throws Exception {
        // the program that is watched has to reach an H2 file too
        String url = Commands.database(engine, folder) + (engine.equals("H2") ? ";AUTO_SERVER=TRUE" : "");
        Commands.Outcome valid = Commands.zabbet(url, "validate", HUTS);
        assertEquals(0, valid.status(), valid.err());
        Commands.Outcome loaded = Commands.zabbet(url, "load", HUTS);
        assertEquals(
                valid.out().replace("Valid. It would be stored; nothing was", "Stored"), loaded.out(), loaded.err());
        assertTrue(loaded.out().contains("  stay           3  labelled early, late, asked\n"), loaded.out());
        assertEquals(
                "All 5 expectations hold\n",
                Commands.zabbet(url, "verify", HUTS).out());

        String entry = engine.equals("SQLITE")
                ? "X'00000000000040008000000000000001'"
                : "'00000000-0000-4000-8000-000000000001'";
        String cancel = "UPDATE stay SET status = 'CANCELLED', cancelled_at = CURRENT_TIMESTAMP WHERE arrives ="
                + " '2031-07-11'; INSERT INTO ledger_entry (id, stay_id, amount, kind, entered_at) SELECT " + entry
                + ", id, -80, 'REFUND', CURRENT_TIMESTAMP FROM stay WHERE arrives = '2031-07-11';";
        watch(engine, url, folder, cancel);
        Commands.execute(url, "UPDATE stay SET status = 'DONE' WHERE arrives = '2031-07-11'");
        Commands.Outcome broken = Commands.zabbet(url, "verify", HUTS);
        assertEquals(1, broken.status());
        assertTrue(broken.out().startsWith("stay where hut_id = "), broken.out());
        Commands.Outcome json = Commands.zabbet(url, "verify", "--json", HUTS);
        assertEquals(1, json.status());
        assertTrue(json.out().contains("\"holds\" : false"), json.out());

        Commands.Outcome again = Commands.zabbet(url, "load", HUTS);
        assertEquals(2, again.status());
        assertTrue(
                again.err()
                        .contains(
                                "huts.yaml, line 9, column 15: A row of region with name = Val Drun is stored already"),
                again.err());
    }

    private static void watch(String engine, String url, Path folder, String cancel) throws Exception {
        Commands.Outcome ran = watched(url, client(engine, url, folder, cancel));
        assertEquals(0, ran.status(), ran.out() + ran.err());
        assertTrue(ran.out().startsWith("The program ended with status 0 and left what "), ran.out());

        Commands.Outcome half = watched(url, client(engine, url, folder, cancel.replace("-80", "-40")));
        assertEquals(1, half.status(), half.out() + half.err());
        assertTrue(
                half.out().startsWith("1 of 1 row of ledger_entry expected to be added was added with other values.\n"),
                half.out());
        assertTrue(half.out().matches("(?s).*\n    amount +-40(\\.00)? +-80(\\.00)?\n.*"), half.out());
    }

    private static Commands.Outcome watched(String url, List<String> client) throws Exception {
        List<String> run = new ArrayList<>(List.of("run", "--rewind", "--expect", CANCEL, "--"));
        run.addAll(client);
        return Commands.zabbet(url, run.toArray(String[]::new));
    }

    @Test
    void expectationsAreRewrittenFromWhatIsFound(@TempDir Path folder) throws Exception {
        String url = Commands.database("SQLITE", folder);
        Path huts = Files.copy(Path.of(HUTS), folder.resolve("huts.yaml"));
        Path cancel = Files.copy(Path.of(CANCEL), folder.resolve("cancel.yaml"));
        assertEquals(0, Commands.zabbet(url, "load", huts.toString()).status());
        Commands.execute(
                url,
                "UPDATE hut SET beds = 35, name = 'Edelgrat | neu' WHERE id = 1;"
                        + "UPDATE stay SET nights = 4, cancelled_at = '2031-07-01 08:00:00' WHERE nights = 3;"
                        + "INSERT INTO stay (hut_id, room_number, arrives, nights, status, price)"
                        + " VALUES (1, 1, '2031-08-01', 2, 'DONE', 44)");
        Commands.ENVIRONMENT.put("CI", "true");
        try {
            Commands.Outcome refused = Commands.zabbet(url, "verify", "--rewrite", huts.toString());
            assertEquals(2, refused.status());
            assertTrue(refused.err().contains("are not rewritten in continuous integration (CI=true)"), refused.err());
        } finally {
            Commands.ENVIRONMENT.clear();
        }
        assertEquals(Files.readString(Path.of(HUTS)), Files.readString(huts));
        Commands.Outcome rewritten = Commands.zabbet(url, "verify", "--rewrite", huts.toString());
        assertEquals("All 5 expectations hold\n", rewritten.out(), rewritten.err());
        assertEquals(
                "zabbet: " + huts + " was rewritten from what was found, in 5 places. Look at what changed.\n",
                rewritten.err());
        assertEquals(
                Files.readString(Path.of(HUTS))
                        .replace(
                                "{name: Edelgrat, warden_id: {row: ida}, beds: 34, amenities: {j",
                                "{name: \"Edelgrat | neu\", warden_id: {row: ida}, beds: 35, amenities: {j")
                        .replace(
                                "        | CONFIRMED | 3      | `null`       |\n",
                                "        | CONFIRMED | 4      | 2031-07-01 08:00:00 |\n"
                                        + "        | DONE      | 2      | `null`       |\n")
                        .replace("- count: 3", "- count: 4"),
                Files.readString(huts));

        String program = "UPDATE stay SET status = 'DONE', nights = 9 WHERE nights = 2; INSERT INTO guest (full_name,"
                + " email, password_hash) VALUES ('Uli Bez', 'uli.bez@example.org', 'x')";
        List<String> run = new ArrayList<>(List.of("run", "--rewrite", "--expect", cancel.toString(), "--"));
        run.addAll(client("SQLITE", url, folder, program));
        Commands.Outcome ran = Commands.zabbet(url, run.toArray(String[]::new));
        assertEquals(0, ran.status(), ran.out() + ran.err());
        assertEquals("""
                # What cancelling the early stay has to leave, and nothing else.
                footprint:
                  stay:
                    changed:
                      - {row: early, from: {status: CONFIRMED, cancelled_at: null}, to: {status: DONE, cancelled_at: null, nights: 9}}
                      - {key: 3, from: {nights: 2, status: REQUESTED}, to: {nights: 9, status: DONE}}
                      - {key: 4, from: {nights: 2}, to: {nights: 9}}
                  ledger_entry:
                    added: []
                  nothingElse: true
                  guest:
                    added:
                      - {full_name: "Uli Bez", email: "uli.bez@example.org", password_hash: x}
                """, Files.readString(cancel));

        Path brackets = folder.resolve("brackets.yaml");
        Files.writeString(brackets, """
                expect:
                  hut: {holdsOnly: [
                     {name: Windegg, beds: 17},    # stays
                     {name: Elsewhere, beds: 998}
                  ]}
                """);
        assertEquals(
                0,
                Commands.zabbet(url, "verify", "--rewrite", brackets.toString()).status());
        assertEquals("""
                expect:
                  hut: {holdsOnly: [
                     {name: Windegg, beds: 18}    # stays
                     , {name: "Edelgrat | neu", beds: 35}
                  ]}
                """, Files.readString(brackets));
        Path json = folder.resolve("huts.json");
        Files.writeString(json, "{\"expect\": {\"region\": {\"holds\": [{\"name\": \"Val\"}], \"count\": 7}}}");
        assertEquals(
                0, Commands.zabbet(url, "verify", "--rewrite", json.toString()).status());
        assertEquals(
                "{\"expect\": {\"region\": {\"holds\": [{\"name\": \"Val Drun\"}], \"count\": 1}}}",
                Files.readString(json));
    }

    @Test
    void rowsOfAFootprintAreCountedAndKeysOfLabelsToldToPrograms(@TempDir Path folder) throws Exception {
        String url = Commands.database("SQLITE", folder);
        assertEquals("""
                {
                  "stored" : {
                    "guest" : 2,
                    "region" : 1,
                    "hut" : 2,
                    "warden" : 1,
                    "room" : 3,
                    "stay" : 3,
                    "stay_guest" : 3
                  },
                  "labels" : {
                    "region" : {
                      "valdrun" : 1
                    },
                    "hut" : {
                      "edelgrat" : 1,
                      "windegg" : 2
                    },
                """, beginning(Commands.zabbet(url, "load", "--json", HUTS).out(), 18));
        String other = Commands.zabbet(url, "load", "--json", write(folder, "rooms.yaml", """
                tables:
                  room: {large: {hut_id: 1, number: 7}}
                """))
                .out();
        assertTrue(
                other.replaceAll("\\s", "").contains("\"labels\":{\"room\":{\"large\":{\"hut_id\":1,\"number\":7}}}"),
                other);
        assertEquals(
                "{\"wouldBeStored\":{\"room\":1}}",
                Commands.zabbet(url, "load", "--json", "--dry-run", write(folder, "more.yaml", """
                        tables: {room: [{hut_id: 1, number: 8}]}
                        """))
                        .out()
                        .replaceAll("\\s", ""));

        String document = write(folder, "counts.yaml", """
                footprint:
                  stay: {counts: {changed: 1, removed: 0}}
                  guest:
                    counts:
                      removed: 2   # none of them
                  nothingElse: true
                """);
        String program = "UPDATE stay SET nights = 9; INSERT INTO guest (full_name, email, password_hash) VALUES ('Uli"
                + " Bez', 'uli.bez@example.org', 'x')";
        List<String> run = new ArrayList<>(List.of("run", "--rewind", "--expect", document, "--"));
        run.addAll(client("SQLITE", url, folder, program));
        Commands.Outcome off = Commands.zabbet(url, run.toArray(String[]::new));
        assertEquals(1, off.status(), off.err());
        assertTrue(
                off.out()
                        .startsWith(
                                "The act left 0 added, 3 changed and 0 removed rows of stay; 0, 1 and 0 expected.\n"),
                off.out());
        run.add(2, "--rewrite");
        Commands.Outcome mended = Commands.zabbet(url, run.toArray(String[]::new));
        assertEquals(0, mended.status(), mended.out() + mended.err());
        assertEquals("""
                footprint:
                  stay: {counts: {changed: 3, removed: 0}}
                  guest:
                    counts:
                      removed: 0   # none of them
                      added: 1
                  nothingElse: true
                """, Files.readString(Path.of(document)));

        Commands.Outcome wrong =
                Commands.zabbet(url, "run", "--expect", write(folder, "wrong.yaml", """
                footprint:
                  stay: {counts: {adedd: 1}}
                  room: {counts: 3}
                  hut: {counts: {added: few}}
                """), "--", "true");
        assertEquals(2, wrong.status());
        assertTrue(
                wrong.err()
                        .contains(
                                "line 2, column 19: 'adedd' is no way to count rows of a footprint. Did you mean 'added'?"),
                wrong.err());
        assertTrue(
                wrong.err()
                        .contains("line 3, column 18: counts says how many rows: {added: 3, changed: 1}; what is left"
                                + " out is none."),
                wrong.err());
        assertTrue(wrong.err().contains("added is a whole number, not 'few'."), wrong.err());
    }

    private static String beginning(String text, int lines) {
        return text.lines().limit(lines).map(line -> line + "\n").collect(Collectors.joining());
    }

    private static String write(Path folder, String name, String content) throws Exception {
        return Files.writeString(folder.resolve(name), content).toString();
    }

    @Test
    void allThatIsWrongIsToldAtOnceAndNothingIsStored(@TempDir Path folder) throws Exception {
        String url = Commands.database("H2", folder);
        Path file = folder.resolve("bad.yaml");
        Files.writeString(
                file,
                Files.readString(Path.of(HUTS))
                        .replace("status: CONFIRMED, booked", "stauts: CONFIRMED, booked")
                        .replace("{row: larder}", "{row: lardr}")
                        .replace("beds: 10}", "beds: 100}")
                        .replace("{plusDays: 20}", "soon"));
        for (String command : List.of("validate", "load")) {
            Commands.Outcome refused = Commands.zabbet(url, command, file.toString());
            assertEquals(2, refused.status());
            for (String part : List.of(
                    "zabbet: The seed cannot be stored, and nothing of it was: 4 things are wrong.",
                    "bad.yaml, line 19, column 11: A row of room would break its check room_beds, \"BEDS\" BETWEEN 1 AND 30",
                    "bad.yaml, line 24, column 65: There is no column of table stay named 'stauts'. Did you mean 'status'?",
                    "bad.yaml, line 25, column 12: There is no row of room labelled 'lardr'. Did you mean 'larder'?",
                    "bad.yaml, line 26, column 39: stay.arrives is DATE, and 'soon' is not a date such as 2031-07-01.")) {
                assertTrue(refused.err().contains(part), () -> part + "\nis not in\n" + refused.err());
            }
        }
        assertTrue(Commands.zabbet(url, "clear", "--dry-run").out().startsWith("There is no row to delete"));
        Commands.Outcome missing = Commands.zabbet(url, "load", "nowhere.yaml");
        assertEquals(2, missing.status());
        assertTrue(missing.err().startsWith("zabbet: 'nowhere.yaml' is neither a file here"), missing.err());
    }

    @Test
    void theSchemaIsWrittenAsItsFileIsNamed(@TempDir Path folder) throws Exception {
        String url = Commands.database("H2", folder);
        Map<String, String> parts = Map.of(
                "json",
                "\"hut\"",
                "svg",
                ">hut</text>",
                "html",
                ">hut</text>",
                "mmd",
                "region ||--o{ hut : \"region_id\"");
        for (String ending : List.of("json", "svg", "html", "mmd")) {
            Path file = folder.resolve("huts." + ending);
            Commands.Outcome written = Commands.zabbet(url, "schema", "--out", file.toString());
            assertEquals("Written: " + file + ", 8 tables\n", written.out(), written.err());
            String text = Files.readString(file);
            assertTrue(text.contains(parts.get(ending)), text);
        }
        assertEquals(2, Commands.zabbet(url, "schema", "--out", "huts.txt").status());
        assertTrue(Commands.zabbet(url, "completion").out().contains("complete -F _complete_zabbet"));
        Commands.Outcome driver = Commands.zabbet(
                url, "schema", "--driver", folder.resolve("no.jar").toString());
        assertTrue(driver.err().startsWith("zabbet: There is no file "), driver.err());
    }
}
