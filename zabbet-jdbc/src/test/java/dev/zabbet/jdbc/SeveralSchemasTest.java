package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.Statement;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Tables in several schemas; in MariaDB those are databases, each with a mark of its own. */
class SeveralSchemasTest {
    private static final String TABLES = """
            CREATE TABLE BESIDE.hut (id ${id}, name VARCHAR(20) NOT NULL UNIQUE);
            CREATE TABLE BESIDE.warden (id ${id}, hut_id BIGINT NOT NULL, name VARCHAR(20) NOT NULL,
              FOREIGN KEY (hut_id) REFERENCES BESIDE.hut (id) ON DELETE CASCADE);
            CREATE TABLE hut (id ${id}, beside_id BIGINT NOT NULL, nights INTEGER NOT NULL,
              FOREIGN KEY (beside_id) REFERENCES BESIDE.hut (id) ON DELETE CASCADE);
            CREATE SEQUENCE BESIDE.bill_number;
            """;

    private record Two(DataSource database, String beside) {}

    private static Two two(Engine engine) {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource database = engine.empty();
        Jdbc.dedicate(database);
        String beside = "guests";
        if (engine == Engine.MARIADB) {
            DataSource other = engine.empty();
            Jdbc.dedicate(other);
            beside = Engine.name(other);
        } else {
            Engine.execute(database, "CREATE SCHEMA guests");
        }
        Jdbc.runSql(database, TABLES.replace("${id}", engine.id).replace("BESIDE", beside));
        return new Two(database, beside);
    }

    @ParameterizedTest
    @EnumSource(names = {"H2", "POSTGRES", "MARIADB"})
    void areStoredWatchedAndRewoundTogether(Engine engine) throws Exception {
        Two two = two(engine);
        String beside = two.beside();
        try (Stage stage = Jdbc.stage(two.database());
                Connection connection = two.database().getConnection();
                Statement application = connection.createStatement()) {
            assertEquals(
                    List.of(beside + ".hut", beside + ".warden", "hut"),
                    stage.schema().tables().stream()
                            .map(Table::name)
                            .sorted(Comparator.comparing(name -> name.replaceFirst("^hut$", "~")))
                            .toList());
            Object there = stage.add(beside + ".hut").get("id");
            stage.add(Factory.forTable(beside + ".warden").with("hut_id", there));
            stage.addMany(30_000, Factory.forTable("hut").with("beside_id", there));
            String sequence = engine == Engine.POSTGRES
                    ? "SELECT nextval('" + beside + ".bill_number')"
                    : "SELECT NEXT VALUE FOR " + beside + ".bill_number";
            RewindPoint point = stage.mark();
            String before = FollowingRowsTest.contents(stage);
            String changes = stage
                    .act(() -> {
                        application.execute("DELETE FROM hut WHERE id > 2");
                        application.execute("INSERT INTO " + beside + ".hut (name) VALUES ('Sarn')");
                        application.execute("DELETE FROM " + beside + ".hut WHERE id = " + there);
                        application.execute(sequence);
                        application.execute(sequence);
                    })
                    .changes()
                    .stream()
                    .filter(c ->
                            !c.table().name().equals("hut") || ((Number) c.row().get("id")).longValue() <= 2)
                    .map(c -> c.table().name().replace(beside, "guests") + " "
                            + c.getClass().getSimpleName() + " " + c.row().get("id"))
                    .sorted()
                    .collect(Collectors.joining(", "));
            assertEquals(
                    "guests.hut Added 2, guests.hut Removed 1, guests.warden Removed 1, hut Removed 1, hut Removed 2",
                    changes);
            stage.rewind(point);
            assertEquals(before, FollowingRowsTest.contents(stage));
            assertEquals(2L, ((Number) stage.add(beside + ".hut").get("id")).longValue());
            try (var next = application.executeQuery(sequence)) {
                next.next();
                assertEquals(1L, next.getLong(1));
            }
            ZabbetException lost = assertThrows(
                    ZabbetException.class,
                    () -> stage.addMany(25_000, Factory.forTable("hut").with("beside_id", 77)));
            assertTrue(
                    lost.getMessage().startsWith("A row of hut was refused")
                            && lost.getMessage().contains("and nothing was stored."),
                    lost.getMessage());
            stage.expect("hut").count(30_000);
        }
    }

    @Test
    void anotherDatabaseNeedsAMarkAndTheLeaseToo() throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == Engine.MARIADB));
        DataSource other = Engine.MARIADB.empty();
        DataSource home = Engine.MARIADB.empty();
        Jdbc.dedicate(home);
        String there = Engine.name(other);
        Engine.execute(
                home,
                "CREATE TABLE " + there + ".hut (id BIGINT PRIMARY KEY)",
                "INSERT INTO " + there + ".hut VALUES (1)",
                "CREATE TABLE stay (id BIGINT PRIMARY KEY, hut_id BIGINT REFERENCES " + there + ".hut (id))");
        String refused =
                assertThrows(ZabbetException.class, () -> Jdbc.stage(home)).getMessage();
        assertEquals(
                "Nothing was written to the MariaDB database " + there
                        + " on HOST, which holds 1 table and 1 row. It is"
                        + " not dedicated to tests; a reference or a trigger leads there from a table of "
                        + Engine.name(home)
                        + ".\nIf it is meant for tests, and all that it holds may be lost, dedicate it once:\n"
                        + "  zabbet dedicate --db jdbc:mariadb://HOST/" + there
                        + " --may-lose " + there + "\nor in code: Jdbc.dedicate(dataSource, \"" + there + "\").",
                refused.replaceAll(" on [^ ]+:\\d+,", " on HOST,").replaceAll("//[^/]+/", "//HOST/"));
        assertEquals(2, Jdbc.schema(home).tables().size(), "reading needs no mark");

        Jdbc.dedicate(other, there);
        System.setProperty("zabbet.leaseSeconds", "0");
        try (Stage stage = Jdbc.stage(home)) {
            String taken =
                    assertThrows(ZabbetException.class, () -> Jdbc.stage(other)).getMessage();
            assertTrue(taken.startsWith("Another stage is open on the MariaDB database " + there), taken);
            stage.add("stay");
            stage.expect("stay").count(1);

            DataSource third = Engine.MARIADB.empty();
            Engine.execute(
                    home,
                    "CREATE TABLE " + Engine.name(third) + ".bill (id BIGINT PRIMARY KEY)",
                    "ALTER TABLE stay ADD bill_id BIGINT REFERENCES " + Engine.name(third) + ".bill (id)");
            String undedicated = assertThrows(ZabbetException.class, () -> stage.act(() -> {}))
                    .getMessage();
            assertTrue(
                    undedicated.startsWith("Nothing was written to the MariaDB database " + Engine.name(third)),
                    undedicated);
            Jdbc.dedicate(third);
            String grown = assertThrows(ZabbetException.class, () -> stage.act(() -> {}))
                    .getMessage();
            assertEquals(
                    "A reference leads to another database since this stage was opened on the MariaDB database "
                            + Engine.name(home) + " on HOST. Close it, and open a new one.",
                    grown.replaceAll(" on [^ ]+:\\d+\\.", " on HOST."));
        } finally {
            System.clearProperty("zabbet.leaseSeconds");
        }
    }

    /** The server keeps such names in another form where it numbers tables. */
    @ParameterizedTest
    @ValueSource(strings = {"hut", "hut-räume x", "parts"})
    void aTruncatedTableIsNoticedUnderAnyName(String table) throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == Engine.MARIADB));
        DataSource plain = Engine.MARIADB.empty();
        String name = Engine.name(plain) + "-a b";
        Engine.execute(plain, "CREATE DATABASE `" + name + "`");
        try {
            DataSource database = Jdbc.dataSource(Engine.MARIADB.url(name), "", "");
            Jdbc.dedicate(database);
            Engine.execute(
                    database,
                    "CREATE TABLE `" + table + "` (id BIGINT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(20))"
                            + (table.equals("parts") ? " PARTITION BY HASH (id) PARTITIONS 3" : ""));
            try (Stage stage = Jdbc.stage(database)) {
                stage.add(3, table);
                String message = assertThrows(
                                ZabbetException.class,
                                () -> stage.act(() -> Engine.execute(
                                        database,
                                        table.equals("parts")
                                                ? "ALTER TABLE parts TRUNCATE PARTITION p1"
                                                : "TRUNCATE TABLE `" + table + "`")))
                        .getMessage();
                assertTrue(message.startsWith("Table " + table + " was truncated or rebuilt"), message);
            }
        } finally {
            Engine.execute(plain, "DROP DATABASE `" + name + "`");
        }
    }
}
