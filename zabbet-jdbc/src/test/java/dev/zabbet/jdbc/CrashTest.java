package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.internal.guard.FileLease;
import dev.zabbet.row.Row;
import dev.zabbet.store.RewindPoint;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** A process is killed while it loads, acts or rewinds; the next stage on its database finds and mends what it left. */
class CrashTest {
    private static final String DDL = "CREATE TABLE hut (id ${id}, name VARCHAR(80) NOT NULL);"
            + "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id) ON DELETE CASCADE, nights INT NOT NULL);"
            + "CREATE TABLE trace (name VARCHAR(80) NOT NULL);";

    /** Triggers that write down new huts; they rest during a rewind and have to be there after it, whatever happens. */
    private static final Map<Engine, List<String>> TRIGGERS = Map.of(
            Engine.SQLITE,
            List.of("CREATE TRIGGER made AFTER INSERT ON hut BEGIN INSERT INTO trace VALUES (NEW.name); END"),
            Engine.MARIADB,
            List.of("CREATE TRIGGER made AFTER INSERT ON hut FOR EACH ROW INSERT INTO trace VALUES (NEW.name)"),
            Engine.POSTGRES,
            List.of(
                    "CREATE FUNCTION made() RETURNS trigger LANGUAGE plpgsql AS"
                            + " $$ BEGIN INSERT INTO trace VALUES (NEW.name); RETURN NEW; END $$",
                    "CREATE TRIGGER made AFTER INSERT ON hut FOR EACH ROW EXECUTE FUNCTION made()"));

    /** Types whose values are more than a number or a word. */
    private static final String KINDS =
            "CREATE TABLE \"kinds\" (\"it's\" BIGINT PRIMARY KEY, real_ REAL, double_ DOUBLE PRECISION, money DECIMAL(30, 7), exact DECFLOAT,"
                    + " zoned TIMESTAMP(9) WITH TIME ZONE, plain TIMESTAMP(9), born DATE, slot TIME(9), slot_there TIME WITH TIME ZONE, months INTERVAL YEAR TO MONTH, doc JSON, id UUID, raw VARBINARY(90),"
                    + " long_raw BLOB, long_text CLOB, fixed CHAR(5), small TINYINT, truth BOOLEAN, kind ENUM('a', 'it''s'),"
                    + " several INTEGER ARRAY, words VARCHAR(20) ARRAY, span INTERVAL DAY TO SECOND, twice INT AS (small * 2));";

    private static Stream<Engine> lasting() {
        return Engine.all().filter(e -> e != Engine.H2);
    }

    /** What the process that is going to be killed does: arguments are the URL and one of load, act and rewind. */
    static final class Victim {
        public static void main(String[] arguments) throws Exception {
            DataSource database = Jdbc.dataSource(arguments[0], arguments.length > 2 ? arguments[2] : "", "");
            Stage stage = Jdbc.stage(database);
            stage.mark();
            RewindPoint point = stage.mark();
            if (arguments[1].equals("load")) {
                say("ready");
                Factory<Row> stays = Factory.forTable("stay").ref("hut_id", 1L);
                while (true) {
                    stage.addMany(30_000, stays);
                }
            }
            Engine.execute(
                    database,
                    "DELETE FROM hut WHERE id = 2",
                    "UPDATE stay SET nights = nights + 1",
                    "INSERT INTO hut (name) VALUES ('left behind')");
            if (arguments[1].equals("truncate")) {
                Engine.execute(
                        database, "UPDATE stay SET nights = nights - 1", "TRUNCATE TABLE stay", "DELETE FROM trace");
            }
            say("ready");
            for (int i = 0; arguments[1].equals("odd"); i++) {
                Engine.execute(
                        database,
                        "DELETE FROM trace WHERE name = (SELECT MAX(name) FROM trace)",
                        "INSERT INTO trace VALUES ('t" + i % 2 + "')",
                        "UPDATE \"kinds\" SET real_ = real_ + 1, zoned = CURRENT_TIMESTAMP, doc = NULL",
                        "UPDATE \"kinds\" SET \"it's\" = \"it's\" + 1000",
                        "DELETE FROM \"kinds\" WHERE MOD(\"it's\", 7) = " + i % 7,
                        "INSERT INTO \"kinds\" (\"it's\") VALUES (" + -i + ")");
            }
            while (arguments[1].equals("rewind")) {
                stage.rewind(point);
                Engine.execute(database, "DELETE FROM hut WHERE id = 2", "UPDATE stay SET nights = nights + 1");
            }
            Thread.sleep(60_000);
        }

        private static void say(String word) {
            System.out.println(word);
            System.out.flush();
        }
    }

    @ParameterizedTest
    @MethodSource("lasting")
    void theNextStageMendsWhatADeadProcessLeft(Engine engine) throws Exception {
        DataSource database = engine.fresh(DDL);
        Engine.execute(database, TRIGGERS.get(engine).toArray(String[]::new));
        List<String> triggers = OwnTriggersTest.texts(database, OwnTriggersTest.DEFINITIONS.get(engine));
        String rows;
        try (Stage stage = Jdbc.stage(database)) {
            List<Row> made = stage.add(2, "hut");
            stage.add(500, Factory.forTable("stay").ref("hut_id", made));
            rows = FollowingRowsTest.contents(stage);
        }
        Random random = new Random(7);
        for (String deed : List.of("act", "load", "rewind", "rewind", "load")) {
            kill(Engine.urlOf(database), deed, random.nextInt(400));
            try (Stage stage = Jdbc.stage(database)) {
                assertEquals(rows, FollowingRowsTest.contents(stage), deed);
                RewindPoint point = stage.mark();
                assertEquals(3L, stage.add("hut").get("id"), "counters come back too: " + deed);
                stage.add("stay");
                stage.rewind(point);
            }
            assertEquals(triggers, OwnTriggersTest.texts(database, OwnTriggersTest.DEFINITIONS.get(engine)), deed);
        }
    }

    /** A server carries a statement to its end although nobody waits for it any more: what it has noted is undone, too. */
    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void whatAServerStillDoesForADeadProcessIsWaitedFor(Engine engine) throws Exception {
        DataSource database = engine.fresh(DDL.replace("${id}", engine.id));
        String rows;
        try (Stage stage = Jdbc.stage(database)) {
            stage.add(500, Factory.forTable("stay").ref("hut_id", stage.add(2, "hut")));
            rows = FollowingRowsTest.contents(stage);
        }
        kill(Engine.urlOf(database), "act", 100);
        try (Connection late = database.getConnection();
                Statement statement = late.createStatement()) {
            late.setAutoCommit(false);
            statement.executeUpdate("UPDATE hut SET name = 'late'");
            CompletableFuture<Void> end = CompletableFuture.runAsync(() -> {
                try {
                    Thread.sleep(700);
                    late.commit();
                } catch (Exception e) {
                    throw new IllegalStateException(e);
                }
            });
            try (Stage stage = Jdbc.stage(database)) {
                assertEquals(rows, FollowingRowsTest.contents(stage));
            }
            end.get(10, TimeUnit.SECONDS);
        }
    }

    /** What rows held stands in the file, whatever their types. */
    @Test
    void anH2FileIsBroughtBack(@TempDir Path folder) throws Exception {
        String url = "jdbc:h2:" + folder.resolve("huts");
        DataSource file = Jdbc.dataSource(url, "sa", "");
        Jdbc.dedicate(file);
        Jdbc.runSql(file, DDL.replace("${id}", Engine.H2.id) + KINDS);
        Engine.execute(file, "SET WRITE_DELAY 300");
        String rows;
        try (Stage stage = Jdbc.stage(file)) {
            stage.add(200, Factory.forTable("stay").ref("hut_id", stage.add(2, "hut")));
            stage.add(20, Factory.forTable("kinds").filled());
            stage.add(5, "trace");
            Engine.execute(
                    file,
                    "INSERT INTO trace SELECT name FROM trace",
                    "INSERT INTO \"kinds\" (\"it's\", real_) VALUES (101, -0.0), (102, 'NaN'), (103, 'Infinity')");
            rows = FollowingRowsTest.contents(stage);
        }
        Random random = new Random(11);
        for (String deed : List.of("act", "odd", "rewind", "odd", "act", "rewind", "odd")) {
            kill(url, deed, random.nextInt(1200), "sa");
            try (Stage stage = Jdbc.stage(file)) {
                assertEquals(rows, FollowingRowsTest.contents(stage), deed);
                RewindPoint point = stage.mark();
                assertEquals(3L, stage.add("hut").get("id"), "counters come back too: " + deed);
                stage.rewind(point);
            }
            assertEquals(List.of(), OwnTriggersTest.texts(file, OwnTriggersTest.DEFINITIONS.get(Engine.H2)));
            assertEquals(
                    List.of(),
                    OwnTriggersTest.texts(
                            file,
                            "SELECT TABLE_NAME FROM INFORMATION_SCHEMA.TABLES WHERE TABLE_SCHEMA = 'ZABBET'"
                                    + " AND TABLE_NAME IN ('JOURNAL', 'COUNTED', 'UNKEYED', 'DELAY')"));
        }
        assertEquals(
                "300",
                OwnTriggersTest.texts(
                                file,
                                "SELECT SETTING_VALUE FROM INFORMATION_SCHEMA.SETTINGS WHERE SETTING_NAME = 'WRITE_DELAY'")
                        .get(0));
        kill(url, "truncate", 0, "sa");
        ZabbetException refusal = assertThrows(ZabbetException.class, () -> Jdbc.stage(file));
        assertTrue(
                refusal.getMessage()
                        .contains(
                                "A process that died had changed rows of this H2 file, and what they held cannot be told: stay"
                                        + " has 0 rows, and from what was noted 100 follow: it was truncated, or written to without"
                                        + " triggers. Make the file again, or, if what it holds now is as good: DROP TABLE"
                                        + " ZABBET.JOURNAL"),
                refusal::getMessage);
        Engine.execute(file, "DROP TABLE ZABBET.JOURNAL");
        Jdbc.stage(file).close();
        assertEquals(List.of(), OwnTriggersTest.texts(file, OwnTriggersTest.DEFINITIONS.get(Engine.H2)));
    }

    /** Takes and gives back a lease many times; arguments are the database file and how often. */
    static final class Neighbour {
        public static void main(String[] arguments) throws Exception {
            Path here = Path.of(arguments[0] + ".here");
            for (int i = 0; i < Integer.parseInt(arguments[1]); i++) {
                while (!FileLease.take(arguments[0])) {
                    Thread.onSpinWait();
                }
                Files.createFile(here); // fails if somebody else is there
                Thread.yield();
                Files.delete(here);
                FileLease.release(arguments[0]);
            }
        }
    }

    /** A lease's file is taken away by who gives it back, perhaps after another opened it. */
    @Test
    void aFileIsHeldByOneProcessAtATime(@TempDir Path folder) throws Exception {
        List<Process> neighbours = new ArrayList<>();
        for (int i = 0; i < 3; i++) {
            neighbours.add(new ProcessBuilder(
                            Path.of(System.getProperty("java.home"), "bin", "java")
                                    .toString(),
                            "-cp",
                            System.getProperty("java.class.path"),
                            Neighbour.class.getName(),
                            folder.resolve("huts.db").toString(),
                            "700")
                    .inheritIO()
                    .start());
        }
        for (Process neighbour : neighbours) {
            assertEquals(0, neighbour.waitFor());
        }
        assertEquals(0, folder.toFile().list().length);
    }

    private static void kill(String url, String deed, int afterMs, String... user)
            throws IOException, InterruptedException {
        Process process = new ProcessBuilder(Stream.concat(
                                Stream.of(
                                        Path.of(System.getProperty("java.home"), "bin", "java")
                                                .toString(),
                                        "-cp",
                                        System.getProperty("java.class.path"),
                                        Victim.class.getName(),
                                        url,
                                        deed),
                                Stream.of(user))
                        .toList())
                .redirectErrorStream(true)
                .start();
        try (BufferedReader out =
                new BufferedReader(new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8))) {
            String line = out.readLine();
            while (line != null && !line.equals("ready")) {
                System.out.println("victim: " + line);
                line = out.readLine();
            }
            assertEquals("ready", line);
            Thread.sleep(afterMs);
        }
        process.destroyForcibly().waitFor();
    }
}
