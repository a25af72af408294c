package dev.zabbet.cli;

import static dev.zabbet.cli.Commands.zabbet;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** {@code zabbet tests} as a process, on what runs have written down. */
class TestsCommandTest {
    private static final String TABLES = """
            "tables": [{"name": "stay", "columns": [{"name": "id", "type": "BIGINT", "mark": "key"},
              {"name": "status", "type": "VARCHAR"}, {"name": "price", "type": "NUMERIC"}]}],""";

    @TempDir
    private Path folder;

    private void write(String file, String kind, String tests) throws IOException {
        Files.writeString(folder.resolve(file), """
                {"format": 1, "kind": "%s", "run": "1", "began": "2031-07-01T08:00:00Z", %s "tests": [%s]}""".formatted(kind, TABLES, tests));
    }

    private static String test(String method, String outcome, String price, String more) {
        return """
                {"test": "dev.huts.DeskTest#%s", "name": "on H2", "module": "huts", "process": "7", "outcome": "%s",
                 "millis": 3, "acts": [{"line": "DeskTest.java:%d", "left": [0, 1, 0], "changes": ["stay 1 changed"],
                 "written": {"stay": {"(row)": "seen", "status": "seen", "price": "%s"}}}], "looks": []%s}""".formatted(method, outcome, 10 + method.length(), price, more);
    }

    @Test
    void whatWouldBeMissedStandsOnOneScreen() throws Exception {
        write("before.json", "tests", test("books", "passed", "seen", ""));
        write(
                "tests.json",
                "tests",
                test("books", "passed", "unseen", "") + "," + test("cancels", "failed", "unseen", """
                , "loose": [{"kind": "rule", "line": "DeskTest.java:15", "text": "No call met the rule: Stays.save fails."},
                  {"kind": "footprint", "line": "DeskTest.java:17", "text": "Expected without nothingElse()."}]"""));
        write("counterproof.json", "counterproof", test("books", "passed", "unseen", ", \"verdict\": \"hollow\""));

        assertEquals(
                """
                2 tests: 1 passed, 1 failed

                Hollow tests, of 1 test in the counterproof: 1
                  test            act that stored something
                  DeskTest.books  DeskTest.java:15

                Values that no test looks at: 1
                  column      written at
                  stay.price  DeskTest.java:15, DeskTest.java:17

                Loose ends: 1
                  line              what
                  DeskTest.java:15  No call met the rule: Stays.save fails.

                Footprints expected without nothingElse(): 1, a hint

                Since the run before: 2
                  DeskTest.cancels, on H2, fails now.
                  stay.price is unseen; it was seen.

                The whole of it: %s
                """.formatted(folder.resolve("index.html")),
                zabbet("", "tests", folder.toString()).out());
        assertEquals("""
                ### What these tests would miss

                2 tests: 1 passed, 1 failed.

                **Hollow tests**: 1

                - `dev.huts.DeskTest#books`, on H2

                **Values that no test looks at**: 1

                - `stay.price`, written at DeskTest.java:15, DeskTest.java:17

                **Loose ends**: 1

                - DeskTest.java:15: No call met the rule: Stays.save fails.

                **Since the run before**: 2

                - DeskTest.cancels, on H2, fails now.
                - stay.price is unseen; it was seen.
                """, zabbet("", "tests", folder.toString(), "--markdown").out());
        assertTrue(zabbet("", "tests", folder.toString(), "--json")
                .out()
                .contains("\"hollow\" : [ \"dev.huts.DeskTest#books\" ]"));
    }

    @Test
    void buildsForbidByChoice() throws Exception {
        write("tests.json", "tests", test("books", "passed", "seen", ""));
        write("counterproof.json", "counterproof", test("books", "passed", "seen", ", \"verdict\": \"hollow\""));
        Path known = folder.resolve("known.txt");
        Files.writeString(
                known, zabbet("", "tests", folder.toString(), "--hollow").out());

        assertEquals("dev.huts.DeskTest#books\n", Files.readString(known));
        assertEquals(0, zabbet("", "tests", folder.toString()).status());
        assertEquals(
                1, zabbet("", "tests", folder.toString(), "--forbid", "hollow").status());
        assertEquals(
                0,
                zabbet("", "tests", folder.toString(), "--forbid", "hollow", "--known", known.toString())
                        .status());
        assertEquals(
                0,
                zabbet("", "tests", folder.toString(), "--forbid", "unseen", "--forbid", "loose")
                        .status());
    }

    @Test
    void whatCannotBeReadIsSaid() throws Exception {
        Commands.Outcome none = zabbet("", "tests", folder.toString());
        assertEquals(2, none.status());
        assertEquals(
                "zabbet: No tests have been written down in " + folder
                        + ". Run tests that use @Staged or @EveryStage first,"
                        + " or name the folder of those that ran.\n",
                none.err());
        Files.writeString(folder.resolve("tests.json"), "{\"format\": 1, ");
        Commands.Outcome broken = zabbet("", "tests", folder.toString());
        assertEquals(2, broken.status());
        assertTrue(
                broken.err().startsWith("zabbet: What tests have written down in " + folder + " cannot be read: "),
                broken.err());
        assertEquals(
                2,
                zabbet("", "tests", folder.toString(), "--forbid", "nonsense").status());
    }
}
