package dev.zabbet.cli;

import static org.junit.jupiter.api.Assertions.assertArrayEquals;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.io.File;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The command as its users run it: a process with arguments, an environment, two streams and an exit status. */
class ZabbetTest {
    private static final String SCRIPT = Path.of(
                    System.getProperty("zabbet.repository.root"), "zabbet-examples/src/main/resources/db/huts.sql")
            .toString();
    private static final String HUTS = "jdbc:h2:mem:huts;INIT=RUNSCRIPT FROM '" + SCRIPT + "'";

    private record Outcome(int status, String out, String err) {}

    private static Outcome zabbet(Map<String, String> environment, String... arguments) throws Exception {
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:TieredStopAtLevel=1",
                "-XX:+UseSerialGC",
                "-cp",
                System.getProperty("java.class.path"),
                "dev.zabbet.cli.Zabbet"));
        command.addAll(List.of(arguments));
        Path err = java.nio.file.Files.createTempFile("zabbet", ".err");
        ProcessBuilder builder = new ProcessBuilder(command).redirectError(err.toFile());
        builder.environment().putAll(environment);
        Process process = builder.start();
        String out = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertTrue(process.waitFor(60, TimeUnit.SECONDS));
        return new Outcome(process.exitValue(), out, java.nio.file.Files.readString(err));
    }

    @Test
    void theDemoTellsTheWholeStory() throws Exception {
        Outcome demo = zabbet(Map.of(), "demo");

        assertEquals(0, demo.status(), demo.err());
        assertEquals("", demo.err());
        assertTrue(demo.out().contains("""
                   stay, 2 rows
                     id  hut_id  room_number  arrives     nights  status      price
                      1       1            1  2031-07-04       2  CONFIRMED   80.00
                      2       1            2  2031-07-04       2  CONFIRMED  120.00
                """), demo.out());
        assertTrue(
                demo.out()
                        .contains(
                                "stay 1 changed: status CONFIRMED → CANCELLED, cancelled_at null → 2031-07-01 08:00:00"),
                demo.out());
        assertTrue(demo.out().contains("""
                     stay where hut_id = 1: 1 of 2 expected rows is stored with other values.

                       stay 2           stored      expected
                         status         CONFIRMED   CANCELLED
                         cancelled_at   null        not null
                """), demo.out());
        assertFalse(demo.out().contains("\u001b"), "colours only on a terminal");
    }

    @Test
    void schemaShowsTablesOrderAndCycles() throws Exception {
        Outcome schema = zabbet(Map.of("ZABBET_DB", HUTS, "ZABBET_USER", "sa"), "schema");

        assertEquals(0, schema.status(), schema.err());
        assertTrue(schema.out().startsWith("8 tables, 10 references, 2 cycles\n"), schema.out());
        assertTrue(schema.out()
                .contains("  Cycle hut → warden → hut: warden_id can be stored empty and filled afterwards."));
        assertTrue(schema.out().contains("  (hut_id, room_number) → room\n"));
        assertTrue(schema.out().indexOf("1  region") < schema.out().indexOf("  hut, after region"), schema.out());
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "''                                | Which command? Known: demo, schema, validate, load, add, look, extract, verify, run, serve, tests, clear, dedicate, completion.",
                "schema                            | Which database? Name it by --db jdbc:…, or set ZABBET_DB.",
                "schema --db jdbc:nosuch:x         | No driver on the class path takes jdbc:nosuch:x.",
                "schema --db jdbc:h2:file:./nowhere/x;IFEXISTS=TRUE;PASSWORD=geheim | not found",
                "schema --dp x                     | Unknown option",
                "demmo                             | demo",
            })
    void whatCannotBeDoneIsSaidWithStatus2(String arguments, String words) throws Exception {
        Outcome outcome = zabbet(Map.of(), arguments.isEmpty() ? new String[0] : arguments.split(" "));
        assertEquals(2, outcome.status(), outcome.out());
        assertTrue(outcome.err().contains(words), outcome.err());
        assertFalse(outcome.err().contains("geheim") || outcome.err().contains("\tat "), outcome.err());
    }

    @Test
    void aDatabaseThatHoldsRowsIsDedicatedByItsNameAlone(@TempDir Path folder) throws Exception {
        Path file = folder.resolve("huts.db");
        try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file);
                Statement statement = connection.createStatement()) {
            statement.execute("CREATE TABLE hut (id INTEGER PRIMARY KEY, name TEXT NOT NULL)");
            statement.execute("INSERT INTO hut (name) VALUES ('Edelgrat')");
        }
        Outcome asked = zabbet(Map.of(), "dedicate", "--db", "jdbc:sqlite:" + file);
        assertEquals(2, asked.status(), asked.out());
        assertTrue(asked.err().contains("holds 1 table and 1 row"), asked.err());
        assertTrue(
                asked.err().contains("zabbet dedicate --db jdbc:sqlite:" + file + " --may-lose huts.db"), asked.err());

        Outcome wrong = zabbet(Map.of(), "dedicate", "--db", "jdbc:sqlite:" + file, "--may-lose", "other.db");
        assertEquals(2, wrong.status(), wrong.out());

        byte[] before = Files.readAllBytes(file);
        Outcome tried =
                zabbet(Map.of(), "dedicate", "--dry-run", "--db", "jdbc:sqlite:" + file, "--may-lose", "huts.db");
        assertEquals(
                "Would be dedicated to tests; nothing was written: SQLite database " + file + " on this machine.",
                tried.out().strip());
        assertEquals(
                2,
                zabbet(Map.of(), "dedicate", "--dry-run", "--db", "jdbc:sqlite:" + file)
                        .status());
        assertArrayEquals(before, Files.readAllBytes(file), "a dry run leaves no byte changed");

        Outcome done = zabbet(Map.of(), "dedicate", "--db", "jdbc:sqlite:" + file, "--may-lose", "huts.db");
        assertEquals(0, done.status(), done.err());
        assertTrue(done.out().startsWith("Dedicated to tests: SQLite database " + file), done.out());

        Outcome both = zabbet(Map.of(), "dedicate", "--undo", "--db", "jdbc:sqlite:" + file, "--may-lose", "huts.db");
        assertEquals(2, both.status(), both.out());
        assertTrue(both.err().contains("Leave --may-lose out."), both.err());
        Outcome undone = zabbet(Map.of(), "dedicate", "--undo", "--db", "jdbc:sqlite:" + file);
        assertEquals(
                "No longer dedicated to tests: SQLite database " + file + " on this machine.\n"
                        + "Its rows stay; the mark, the journal and its triggers are gone.",
                undone.out().strip().replace("\r", ""));
        Outcome again = zabbet(Map.of(), "dedicate", "--undo", "--db", "jdbc:sqlite:" + file);
        assertEquals(2, again.status(), again.out());
        assertTrue(again.err().contains("It is not dedicated to tests."), again.err());
    }

    /** A program of anybody's: runs one statement on a database. */
    static final class Program {
        public static void main(String[] arguments) throws Exception {
            try (Connection connection = DriverManager.getConnection(arguments[0]);
                    Statement statement = connection.createStatement()) {
                statement.execute(arguments[1]);
            }
            System.out.println("the program's own words");
            System.exit(3);
        }
    }

    @Test
    void rowsAreAddedAProgramIsRunAndAllIsCleared(@TempDir Path folder) throws Exception {
        String url = "jdbc:sqlite:" + folder.resolve("huts.db");
        Map<String, String> environment = Map.of("ZABBET_DB", url);
        try (Connection connection = DriverManager.getConnection(url);
                Statement statement = connection.createStatement()) {
            statement.execute("CREATE TABLE hut (id INTEGER PRIMARY KEY, name VARCHAR(40) NOT NULL)");
            statement.execute("CREATE TABLE stay (id INTEGER PRIMARY KEY, hut_id INTEGER NOT NULL REFERENCES hut (id),"
                    + " nights INT NOT NULL CHECK (nights BETWEEN 1 AND 14))");
        }
        assertEquals(0, zabbet(environment, "dedicate").status());

        Outcome tried = zabbet(environment, "add", "--dry-run", "hut=1", "stay=4");
        assertEquals("""
                Would be stored; nothing was
                  table  rows
                  hut       1
                  stay      4
                """, tried.out());
        Outcome added = zabbet(environment, "add", "hut=1", "stay=4", "--variation", "7");
        assertEquals(tried.out().replace("Would be stored; nothing was", "Stored"), added.out(), added.err());
        assertTrue(zabbet(environment, "add", "--dry-run", "stay=3", "hut=1")
                .out()
                .endsWith("  hut       4  3 of them came along\n  stay      3\n"));
        Outcome refused = zabbet(environment, "add", "hut=2", "tour=1");
        assertEquals(2, refused.status());
        assertTrue(refused.err().startsWith("zabbet: There is no table named 'tour'."), refused.err());

        List<String> run = new ArrayList<>(List.of("run", "--rewind", "--"));
        run.addAll(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-cp",
                System.getProperty("java.class.path"),
                Program.class.getName(),
                url,
                "UPDATE stay SET nights = nights % 14 + 1 WHERE id = 2"));
        Outcome ran = zabbet(environment, run.toArray(String[]::new));
        assertEquals(3, ran.status(), ran.err());
        assertTrue(
                ran.out()
                        .matches("(?s)the program's own words\nThe program ended with status 3 and left 1 change\n\n"
                                + "  stay, 1 changed\n    row  column  before  after\n    2    nights  \\d+ +\\d+\n"
                                + "\nAll rows are as they were before\\.\n"),
                ran.out());

        Outcome referred = zabbet(environment, "clear", "--except", "stay");
        assertEquals(2, referred.status());
        assertTrue(
                referred.err()
                        .startsWith(
                                "zabbet: The rows cannot be deleted, and none was: rows of other tables refer to them."
                                        + " The database says: "),
                referred.err());
        assertEquals("""
                Deleted
                  table  rows
                  stay      4
                """, zabbet(environment, "clear", "--except", "hut").out());
        assertEquals("""
                Deleted
                  table  rows
                  hut       1
                """, zabbet(environment, "clear").out());
        assertEquals(
                "There is no row to delete in 2 tables.\n",
                zabbet(environment, "clear").out());
    }

    @Test
    void theCommandRunsFromTheModulePath() throws Exception {
        Process process = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-p",
                        modulePath(),
                        "-m",
                        "dev.zabbet.cli/dev.zabbet.cli.Zabbet",
                        "demo")
                .redirectErrorStream(true)
                .start();
        String out = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertEquals(0, process.waitFor(), out);
        assertTrue(out.contains("holds  The stay is cancelled"), out);
    }

    /** The class path less the test classes and what only tests need. */
    private static String modulePath() {
        return Arrays.stream(System.getProperty("java.class.path").split(File.pathSeparator))
                .filter(p -> !p.contains("test-classes") && !p.contains("junit") && !p.contains("apiguardian"))
                .collect(Collectors.joining(File.pathSeparator));
    }

    @Test
    void helpAndVersion() throws IOException, Exception {
        Outcome version = zabbet(Map.of(), "--version");
        assertTrue(version.out().matches("zabbet \\d+\\.\\d+\\.\\d+\\S* \\(Java \\d+\\)\\s+"), version.out());
        Outcome help = zabbet(Map.of(), "schema", "--help");
        assertTrue(help.out().contains("Example: zabbet schema --db jdbc:h2:./huts"), help.out());
        assertEquals(0, help.status());
    }
}
