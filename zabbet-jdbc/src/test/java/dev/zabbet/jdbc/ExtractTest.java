package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.Expected;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.ExtractSummary;
import dev.zabbet.extract.Masking;
import dev.zabbet.extract.SeedTarget;
import dev.zabbet.row.Row;
import dev.zabbet.seed.Loaded;
import dev.zabbet.seed.Seed;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.MethodSource;

/** Which rows an extract takes, what it costs, and what it leaves behind when it fails: nothing. */
class ExtractTest {
    private static final Masking MASKING = Masking.withSecret("a secret of the tests");
    private static final String HUTS = """
            CREATE TABLE region (code CHAR(2) NOT NULL PRIMARY KEY, name VARCHAR(40) NOT NULL);
            CREATE TABLE hut (id ${id}, region CHAR(2) NOT NULL, name VARCHAR(40) NOT NULL UNIQUE, partner_id BIGINT,
                FOREIGN KEY (region) REFERENCES region (code), FOREIGN KEY (partner_id) REFERENCES hut (id));
            CREATE TABLE guest (id ${id}, full_name VARCHAR(60) NOT NULL, born DATE, referred_by BIGINT,
                FOREIGN KEY (referred_by) REFERENCES guest (id));
            CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL, guest_id BIGINT NOT NULL, nights INT NOT NULL,
                FOREIGN KEY (hut_id) REFERENCES hut (id), FOREIGN KEY (guest_id) REFERENCES guest (id));
            CREATE INDEX stay_guest_id ON stay (guest_id);
            CREATE INDEX stay_hut_id ON stay (hut_id);
            CREATE TABLE entry (id ${id}, stay_id BIGINT NOT NULL, amount INT NOT NULL,
                FOREIGN KEY (stay_id) REFERENCES stay (id));
            CREATE INDEX entry_stay_id ON entry (stay_id);
            """;

    private static DataSource huts(Engine engine, int guests) {
        DataSource database = engine.fresh(HUTS);
        List<String> sql = new ArrayList<>();
        sql.add("INSERT INTO region VALUES ('VD', 'Val Drun'), ('SM', 'Steinmatt')");
        sql.add(
                "INSERT INTO hut (id, region, name) VALUES (1, 'VD', 'Edelgrat'), (2, 'SM', 'Windegg'), (3, 'SM', 'Rotbach')");
        sql.add("UPDATE hut SET partner_id = 2 WHERE id = 1");
        sql.add("UPDATE hut SET partner_id = 1 WHERE id = 2");
        for (int from = 1; from <= guests; from += 500) {
            IntStream some = IntStream.range(from, Math.min(guests + 1, from + 500));
            List<Integer> ids = some.boxed().toList();
            sql.add("INSERT INTO guest (id, full_name, born, referred_by) VALUES "
                    + ids.stream()
                            .map(i -> "(" + i + ", 'Alva Nett " + i + "', '19" + (50 + i % 50) + "-03-04', "
                                    + (i % 10 == 0 ? String.valueOf(i - 1) : "NULL") + ")")
                            .collect(Collectors.joining(", ")));
            sql.add("INSERT INTO stay (id, hut_id, guest_id, nights) VALUES "
                    + ids.stream()
                            .flatMap(i -> Stream.of(2 * i - 1, 2 * i)
                                    .map(s -> "(" + s + ", " + (1 + s % 2) + ", " + i + ", " + (1 + i % 7) + ")"))
                            .collect(Collectors.joining(", ")));
        }
        sql.add("INSERT INTO entry (id, stay_id, amount) VALUES (1, 1, 80), (2, 1, 90), (3, 2, 70), (4, 3, 60)");
        Engine.execute(database, sql.toArray(String[]::new));
        return database;
    }

    private static ExtractSummary take(DataSource from, Extract extract) {
        return Extracts.take(from, extract, MASKING, new SeedTarget());
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void parentsAlwaysComeAlongAndChildrenWhereAskedFor(Engine engine) {
        DataSource database = huts(engine, 40);
        ExtractSummary one = take(database, Extract.key("stay", 4));
        assertEquals(Map.of("region", 2, "hut", 2, "guest", 1, "stay", 1), one.tables());
        assertEquals(
                Map.of(
                        "region", Map.of("needed by hut.region", 2),
                        "hut", Map.of("needed by stay.hut_id", 1, "needed by hut.partner_id", 1),
                        "guest", Map.of("needed by stay.guest_id", 1),
                        "stay", Map.of("asked for", 1)),
                one.reasons());

        ExtractSummary below =
                take(database, Extract.rows("guest", 2).below("stay", 1).below("entry"));
        assertEquals(Map.of("region", 2, "hut", 2, "guest", 2, "stay", 2, "entry", 3), below.tables());
        ExtractSummary all = take(database, Extract.rows("guest", 2).below("*"));
        assertEquals(Map.of("region", 2, "hut", 2, "guest", 2, "stay", 4, "entry", 4), all.tables());
        assertEquals(Map.of("below guest, by guest_id", 4), all.reasons().get("stay"));
        ExtractSummary step = take(database, Extract.rows("guest", 2).below("*").depth(1));
        assertFalse(step.tables().containsKey("entry"));
        ExtractSummary contacts = take(database, Extract.key("guest", 9).below("guest"));
        assertEquals(2, contacts.tables().get("guest"));
        ExtractSummary byReference = take(database, Extract.key("entry", 4).below("stay.hut_id", 3));
        assertEquals(
                6, byReference.tables().get("stay"), "three of its hut, its stay among them, and three of the partner");
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void rowsAreAskedForByConditionOrderAndShare(Engine engine) {
        DataSource database = huts(engine, 300);
        assertEquals(
                List.of("300", "299"),
                names(database, Extract.rows("guest", 2).order("guest", "-id").without("guest.referred_by")));
        ExtractSummary old = take(
                database,
                Extract.all("guest")
                        .where("guest", "born", Expected.below("1952-01-01"))
                        .whereSql("guest", "id > 100"));
        assertEquals(
                8,
                old.tables().get("guest") - old.reasons().get("guest").getOrDefault("needed by guest.referred_by", 0));
        assertEquals(List.of("No index begins with guest.born: all rows of guest were looked at."), old.notes());
        ExtractSummary twice = take(
                database,
                Extract.rows("GUEST", 2).where("guest", "id", Expected.above(5)).without("guest.referred_by"));
        assertEquals(2, twice.tables().get("guest"), "one table, named in two ways");
        List<String> some = names(database, Extract.share("guest", 0.1).without("guest.referred_by"));
        assertTrue(some.size() > 10 && some.size() < 60, () -> some.size() + " of 300");
        assertEquals(some, names(database, Extract.share("guest", 0.1).without("guest.referred_by")));
        assertEquals(
                2,
                take(database, Extract.rows("guest", 2).below("stay").where("stay", "hut_id", 1))
                        .tables()
                        .get("stay"));
    }

    private static List<String> names(DataSource database, Extract extract) {
        SeedTarget target = new SeedTarget();
        Extracts.take(database, extract, Masking.unmasked(Engine.databaseName(database)), target);
        return target.seed().rows().stream()
                .filter(row -> row.table().equals("guest"))
                .map(row -> String.valueOf(row.values().get("full_name")).replace("Alva Nett ", ""))
                .sorted(java.util.Comparator.reverseOrder())
                .toList();
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void itCostsAsMuchAsThereIsInTheExtract(Engine engine) {
        List<Integer> statements = new ArrayList<>();
        for (int guests : List.of(100, 5_000)) {
            CountingDataSource counted = new CountingDataSource(huts(engine, guests));
            take(counted, Extract.rows("guest", 10).below("*"));
            statements.add((int)
                    counted.sent().stream().filter(sql -> sql.contains("FROM")).count());
        }
        assertEquals(statements.get(0), statements.get(1), "statements");
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void whatMakesNoSenseIsRefusedBeforeAnythingIsRead(Engine engine) {
        DataSource database = huts(engine, 10);
        assertEquals("There is no row of guest with the key 77.", refusal(database, Extract.key("guest", 77)));
        assertEquals(
                "More than 5 rows of guest would be taken (asked for). Nothing was written. Ask for less, or allow more by --most.",
                refusal(database, Extract.all("guest").most(5)));
        assertEquals(
                "hut.id is a key and cannot be left out. Keys that a database gives are not written anyhow.",
                refusal(database, Extract.all("hut").without("hut.id")));
        assertEquals(
                "region stands below nothing: it refers to no table.",
                refusal(database, Extract.all("hut").below("region")));
        assertEquals(
                "A condition or an order was given for stay, and no rows of it are asked for, nor wanted below others.",
                refusal(database, Extract.all("hut").where("stay", "nights", 2)));
        assertTrue(refusal(database, Extract.all("hut").without("hut.nmae"))
                .startsWith("There is no column named 'hut.nmae'. Did you mean 'hut.name'?"));
        assertTrue(refusal(database, Extract.all("hutt")).contains("Did you mean 'hut'?"));
        ZabbetException other = assertThrows(
                ZabbetException.class,
                () -> Extracts.take(database, Extract.all("hut"), Masking.unmasked("production"), new SeedTarget()));
        assertTrue(other.getMessage()
                .startsWith("Values are written unmasked only where the database's own name is typed: "));
        assertEquals(
                List.of("Nothing of entry was taken: no row of stay that was taken has such rows below it."),
                take(database, Extract.key("guest", 5).below("stay").below("entry"))
                        .notes());
    }

    private static String refusal(DataSource database, Extract extract) {
        return String.valueOf(assertThrows(ZabbetException.class, () -> take(database, extract))
                .getMessage());
    }

    /** Somebody changes rows while they are read: all queries see one state. */
    @ParameterizedTest
    @EnumSource(names = {"H2", "POSTGRES", "MARIADB"})
    void allOfItIsOneSnapshot(Engine engine) {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource database = huts(engine, 5);
        boolean[] done = new boolean[1];
        DataSource changing = new WatchedDataSource(database, sql -> {
            if (!done[0]
                    && sql.matches("(?i)SELECT .* FROM .*[\"`]hut[\"`] .*")) { // the keys of the stays have been read
                done[0] = true;
                Engine.execute(database, "DELETE FROM entry", "DELETE FROM stay");
            }
        });
        SeedTarget seeds = new SeedTarget();
        ExtractSummary summary = Extracts.take(changing, Extract.all("stay"), MASKING, seeds);
        assertTrue(done[0]);
        assertEquals(10, summary.tables().get("stay"));
        assertEquals(
                10,
                seeds.seed().rows().stream()
                        .filter(row -> row.table().equals("stay"))
                        .count());
    }

    /** A query that takes too long is given up, and the message says what helps; the connection is as it was. */
    @ParameterizedTest
    @EnumSource(names = {"POSTGRES", "MARIADB"})
    void aQueryIsGivenUpInTime(Engine engine) {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        String sleep = engine == Engine.POSTGRES ? "pg_sleep(5) IS NOT NULL" : "SLEEP(5) = 0";
        String told = refusal(
                huts(engine, 3), Extract.all("guest").whereSql("guest", sleep).timeout(Duration.ofSeconds(1)));
        assertTrue(
                told.startsWith(
                        "The extract cannot be taken, and nothing was written: Table guest was not read within 1 seconds."
                                + " Narrow the extract, give the columns that it is looked for by an index, or allow more by --timeout"),
                told);
    }

    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void aUserWhoMayOnlyReadIsEnough(Engine engine) throws Exception {
        DataSource database = huts(engine, 10);
        String name = Engine.name(database);
        if (engine == Engine.POSTGRES) {
            Engine.execute(
                    database,
                    "DO $$ BEGIN CREATE ROLE zabbet_reader LOGIN PASSWORD 'reader'; EXCEPTION WHEN duplicate_object THEN NULL; END $$",
                    "ALTER ROLE zabbet_reader SET default_transaction_read_only = on",
                    "GRANT SELECT ON ALL TABLES IN SCHEMA public TO zabbet_reader");
        } else {
            Engine.execute(
                    database,
                    "CREATE USER IF NOT EXISTS zabbet_reader@'%' IDENTIFIED BY 'reader'",
                    "GRANT SELECT ON `" + name + "`.* TO zabbet_reader@'%'");
        }
        DataSource reader = Jdbc.dataSource(engine.url(name).replaceFirst("[?].*", ""), "zabbet_reader", "reader");
        assertEquals(
                4, take(reader, Extract.rows("guest", 2).below("*")).tables().get("stay"));
    }

    /** A connection that is lost in the middle, a full disk, a target that fails: no file, and none that was there is changed. */
    @Test
    void nothingIsHalfWritten(@TempDir Path folder) throws Exception {
        DataSource database = huts(Engine.H2, 50);
        Path file = folder.resolve("huts.sql");
        Files.writeString(file, "as it was");
        for (int failing = 1; failing < 12; failing++) {
            int at = failing;
            int[] calls = new int[1];
            DataSource lost = new WatchedDataSource(database, sql -> {
                if (sql.contains("\"GUEST\"") && ++calls[0] == at) {
                    throw new SQLException("the connection was lost", "08006");
                }
            });
            try {
                Extracts.take(lost, Extract.all("guest").below("*"), MASKING, Extracts.sql(file));
                break; // so many queries it does not take
            } catch (ZabbetException e) {
                assertTrue(e.getMessage().contains("the connection was lost"), e.getMessage());
                assertEquals("as it was", Files.readString(file));
                try (Stream<Path> files = Files.list(folder)) {
                    assertEquals(List.of(file), files.toList());
                }
            }
        }
        assertTrue(Files.readString(file).startsWith("INSERT INTO"), "written when nothing was lost");
        DataSource copy = Engine.H2.fresh(HUTS);
        Jdbc.run(copy, file.toString(), ExtractTest.class);
        try (Stage stage = Jdbc.stage(copy)) {
            stage.expect("stay").count(100);
            stage.expect("hut").where("name", "Edelgrat").holdsOnly(Row.row("partner_id", 2));
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void rowsThatAreThereAreReferredTo(Engine engine) {
        DataSource database = huts(engine, 5);
        SeedTarget target = new SeedTarget();
        Extracts.take(database, Extract.rows("stay", 2), MASKING, target);
        DataSource other = engine.fresh(HUTS);
        Engine.execute(
                other,
                "INSERT INTO region VALUES ('VD', 'Val Drun'), ('SM', 'Stonemead')",
                "INSERT INTO hut (id, region, name) VALUES (77, 'VD', 'Edelgrat')");
        try (Stage stage = Jdbc.stage(other)) {
            Loaded loaded = stage.load(target.seed().usingStored("region", "hut"));
            assertEquals(
                    List.of("region sm [name is Stonemead, not Steinmatt]", "region vd []", "hut edelgrat []"),
                    loaded.found().stream()
                            .map(found -> found.table() + " " + found.label() + " " + found.differences())
                            .toList());
            stage.expect("region").count(2);
            stage.expect("hut").count(2);
            stage.expect("stay").where("hut_id", 77).count(1);
            Seed one = Seed.empty()
                    .with(
                            "stay",
                            Row.row("hut_id", Seed.stored(Row.row("name", "Edelgrat")))
                                    .with("nights", 3)
                                    .with("guest_id", Seed.ref("guest-1")));
            stage.load(one);
            stage.expect("stay").where("hut_id", 77).count(2);
            ZabbetException missing = assertThrows(
                    ZabbetException.class,
                    () -> stage.load(
                            Seed.empty().with("stay", Row.row("hut_id", Seed.stored(Row.row("name", "Nowhere"))))));
            assertTrue(
                    missing.getMessage()
                            .contains("There is no stored row of hut with (name=Nowhere). Store it before, or"
                                    + " give it a label and write it here."),
                    missing.getMessage());
            ZabbetException notUnique = assertThrows(
                    ZabbetException.class,
                    () -> stage.load(
                            Seed.empty().with("stay", Row.row("hut_id", Seed.stored(Row.row("region", "VD"))))));
            assertTrue(
                    notUnique
                            .getMessage()
                            .contains("{stored: …} finds a row of hut by a unique key: id, or name. This gives"
                                    + " region."),
                    notUnique.getMessage());
        }
    }
}
