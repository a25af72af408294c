package dev.zabbet.cli;

import static dev.zabbet.cli.Commands.zabbet;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.expect.Expected;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.seed.Seed;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** {@code zabbet look} as people and scripts call it. */
class LookTest {
    private static final String SCRIPT = """
            CREATE TABLE stay (id INT PRIMARY KEY, status VARCHAR(20) NOT NULL, nights INT NOT NULL, note VARCHAR(200),
              access_token VARCHAR(40));
            INSERT INTO stay VALUES (1, 'CONFIRMED', 2, NULL, 'abc'), (2, 'CANCELLED', 3, 'a|b, "c"', NULL),
              (3, 'CANCELLED', 1, 'none', 'xyz'), (4, 'DONE', 14,
              'This note is far longer than what a listing on a terminal has room for, and is cut', NULL)""";

    @TempDir
    private Path folder;

    private String database() throws Exception {
        Path script = folder.resolve("stays.sql");
        Files.writeString(script, SCRIPT);
        return "jdbc:h2:mem:look;USER=sa;INIT=RUNSCRIPT FROM '"
                + script.toString().replace('\\', '/') + "'";
    }

    @Test
    void rowsAreShownByConditionOrderAndNumber() throws Exception {
        String url = database();
        assertEquals("""
                stay, 4 rows
                  id  status     nights  note
                   1  CONFIRMED       2  null
                   2  CANCELLED       3  a|b, "c"
                   3  CANCELLED       1  none
                   4  DONE           14  This note is far longer than what a list… (42 more characters)
                Hidden: access_token; --all shows it.
                """, zabbet(url, "look", "stay").out());
        assertEquals(
                """
                stay where status = CANCELLED and nights >= 1, the first row
                  id  nights
                   2       3
                There are more rows; --first 10 shows more.
                """,
                zabbet(
                                url,
                                "look",
                                "stay",
                                "id",
                                "nights",
                                "--where",
                                "stay.status=CANCELLED",
                                "--where",
                                "nights>=1",
                                "--order",
                                "-nights",
                                "--first",
                                "1")
                        .out());
        String all = zabbet(url, "look", "STAY", "--all", "--where", "access_token not null", "--order", "status,-id")
                .out();
        assertTrue(all.contains("access_token") && all.contains("abc") && !all.contains("Hidden"), all);
        assertTrue(all.indexOf("CANCELLED") < all.indexOf("CONFIRMED"), all);
    }

    /** What a file writes for a place in a document has no type: a number, true and text are each known by what is stored. */
    @Test
    void placesInDocumentsAreLookedAtAndVerified() throws Exception {
        Path script = Files.writeString(folder.resolve("huts.sql"), """
                CREATE TABLE hut (id INT PRIMARY KEY, name VARCHAR(40) NOT NULL, amenities JSON);
                INSERT INTO hut VALUES
                  (1, 'Edelgrat', JSON '{"floors": 3, "shower": true, "kitchen": {"stoves": [2, 4]}}'),
                  (2, 'Firnalp', JSON '{"floors": 1, "shower": "no", "pin_token": 7}')""");
        String url = "jdbc:h2:mem:places;USER=sa;INIT=RUNSCRIPT FROM '"
                + script.toString().replace('\\', '/') + "'";
        assertEquals(
                """
                hut where amenities.floors >= 2 and amenities.shower = true, 1 row
                  name      amenities.kitchen  amenities.kitchen.stoves[1]
                  Edelgrat  {"stoves":[2,4]}                             4
                """,
                zabbet(
                                url,
                                "look",
                                "hut",
                                "name",
                                "amenities.kitchen",
                                "amenities.kitchen.stoves[1]",
                                "--where",
                                "amenities.floors>=2",
                                "--where",
                                "hut.amenities.shower=true")
                        .out());
        String markdown = zabbet(
                        url,
                        "look",
                        "hut",
                        "name",
                        "amenities.floors",
                        "amenities.shower",
                        "--order",
                        "-amenities.floors",
                        "--markdown")
                .out();
        assertEquals("""
                | name | amenities.floors | amenities.shower |
                | --- | --- | --- |
                | Edelgrat | 3 | true |
                | Firnalp | 1 | no |
                """, markdown);
        Path expected = Files.writeString(folder.resolve("expected.yaml"), """
                expect:
                  hut:
                    holdsInOrder: |
                %s
                    orderedBy: -amenities.floors
                """.formatted(
                        markdown.indent(6).stripTrailing()));
        Commands.Outcome verified = zabbet(url, "verify", expected.toString());
        assertEquals(0, verified.status(), verified.out() + verified.err());
        Files.writeString(expected, """
                expect:
                  hut:
                    holdsOnly:
                      - {name: Edelgrat, amenities.floors: 3, "amenities.kitchen.stoves": {literal: [2, 4]}}
                      - {name: Firnalp, amenities.floors: {between: [2, 4]}, amenities.shower: no}
                """);
        verified = zabbet(url, "verify", expected.toString());
        assertEquals(1, verified.status());
        assertEquals("""
                hut: 1 of 2 expected rows is stored with other values.

                  hut 2                stored   expected
                    amenities.floors   1        between 2 and 4

                2 rows looked at, 1 as expected.
                """, verified.out().strip() + "\n");
        Files.writeString(expected, Files.readString(expected) + """
                    holds: |
                      | name | amenities.floors | amenities.shower |
                      | Edelgrat | 4 | false |
                """);
        zabbet(url, "verify", "--rewrite", expected.toString());
        assertEquals("""
                expect:
                  hut:
                    holdsOnly:
                      - {name: Edelgrat, amenities.floors: 3, "amenities.kitchen.stoves": {literal: [2, 4]}}
                      - {name: Firnalp, amenities.floors: 1, amenities.shower: no}
                    holds: |
                      | name | amenities.floors | amenities.shower |
                      | Edelgrat | 3 | true  |
                """, Files.readString(expected));
        assertEquals(0, zabbet(url, "verify", expected.toString()).status());
        assertEquals(
                "zabbet: All of these columns look like secrets: amenities.pin_token. --all shows them.\n",
                zabbet(url, "look", "hut", "amenities.pin_token").err());
    }

    @Test
    void formsForProgramsReadBackAsTheSameRows() throws Exception {
        String url = database();
        String markdown = zabbet(url, "look", "stay", "id", "status", "note", "--markdown", "--where", "nights<14")
                .out();
        assertEquals("""
                | id | status | note |
                | --- | --- | --- |
                | 1 | CONFIRMED | `null` |
                | 2 | CANCELLED | a\\|b, "c" |
                | 3 | CANCELLED | none |
                """, markdown);
        try (var stage = Jdbc.reading(Jdbc.dataSource(url.replace("USER=sa;", ""), "sa", ""))) {
            stage.expect("stay").where("nights", Expected.below(14)).holdsOnly(markdown);
        }
        assertEquals(
                "\"id\",\"note\"\n\"2\",\"a|b, \"\"c\"\"\"\n",
                zabbet(url, "look", "stay", "id", "note", "--csv", "--where", "id=2")
                        .out());
        Commands.Outcome json = zabbet(url, "look", "stay", "--json", "--where", "note null");
        assertEquals("""
                {
                  "rows" : [ {
                    "id" : 1,
                    "status" : "CONFIRMED",
                    "nights" : 2,
                    "note" : null
                  } ]
                }
                """, json.out());
        assertEquals("zabbet: Hidden: access_token; --all shows it.\n", json.err());
    }

    /** Blanks at the ends, line ends, bars, backticks, backslashes, an empty text and null, there and back. */
    @Test
    void oddTextsReadBackAsTheyAre() throws Exception {
        Path script = folder.resolve("odd.sql");
        Files.writeString(script, """
                CREATE TABLE odd (id INT PRIMARY KEY, text VARCHAR(40), bytes VARBINARY(9));
                INSERT INTO odd VALUES (1, ' a ', X'01ff'), (2, 'a' || CHAR(10) || 'b', NULL), (3, 'a|b', NULL), (4, '`null`', NULL),
                  (5, 'a\\|b\\', NULL), (6, '', NULL), (7, NULL, NULL), (8, 'null', NULL), (9, '"a", b', NULL), (10, '$1.^', NULL)""");
        String url = "jdbc:h2:mem:odd;USER=sa;INIT=RUNSCRIPT FROM '"
                + script.toString().replace('\\', '/') + "'";
        Path csv = folder.resolve("odd.csv");
        Files.writeString(csv, zabbet(url, "look", "odd", "--csv").out());
        try (Stage original = Jdbc.embeddedSql(Files.readString(script));
                Stage copy = Jdbc.embeddedSql(Files.readString(script).replaceAll("(?s)INSERT.*", ""))) {
            original.expect("odd")
                    .holdsOnly(zabbet(url, "look", "odd", "--markdown").out());
            copy.load(Seed.read(csv.toString()));
            assertEquals(original.rows("odd"), copy.rows("odd"));
        }
    }

    @Test
    void aCountIsACheck() throws Exception {
        String url = database();
        Commands.Outcome holds =
                zabbet(url, "look", "stay", "--where", "status one of CANCELLED, DONE", "--count", "3");
        assertEquals(0, holds.status());
        assertEquals("stay where status one of CANCELLED, DONE: 3 rows\n", holds.out());
        Commands.Outcome wrong = zabbet(url, "look", "stay", "--where", "status<>CANCELLED", "--count", "1");
        assertEquals(1, wrong.status());
        assertTrue(wrong.out().endsWith(": 2 rows; 1 expected.\n"), wrong.out());
        assertEquals(
                0,
                zabbet(url, "look", "stay", "--where", "note<>null", "--count", "3")
                        .status());
    }

    @Test
    void whatIsWrongIsRefusedWithStatus2() throws Exception {
        String url = database();
        for (String[] call : new String[][] {
            {"There is no table named 'stays'. Did you mean 'stay'?", "look", "stays"},
            {"There is no column of table stay named 'nigths'.", "look", "stay", "--where", "nigths=2"},
            {"\"nights wide\" is no condition. Write COLUMN=VALUE", "look", "stay", "--where", "nights wide"},
            {"The condition \"nights>null\" compares with null", "look", "stay", "--where", "nights>null"},
            {"--first takes a number from 1 to 1000000; it was 0.", "look", "stay", "--first", "0"},
            {"--first takes a number from 1 to 1000000; it was 2147483647.", "look", "stay", "--first", "2147483647"},
            {"--count shows no rows. Leave out columns", "look", "stay", "--count", "1", "--order", "id"},
            {"look like secrets: access_token. --all shows them.", "look", "stay", "access_token", "--csv"},
            {"--count takes a number from 0; it was -1.", "look", "stay", "--count", "-1"}
        }) {
            Commands.Outcome refused = zabbet(url, java.util.Arrays.copyOfRange(call, 1, call.length));
            assertEquals(2, refused.status(), call[0]);
            assertTrue(refused.err().contains(call[0]), refused.err());
        }
    }
}
