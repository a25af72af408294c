package dev.zabbet.jdbc;

import static dev.zabbet.row.Row.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
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
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SeedValue;
import java.util.List;
import java.util.Map;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.MethodSource;

/** Extracts of tables as they come about over the years: odd references, odd keys, rows that should not be there. */
class ExtractOddTest {
    private static final Masking MASKING = Masking.withSecret("a secret of the tests");

    private final SeedTarget target = new SeedTarget();

    private ExtractSummary take(DataSource from, Extract extract) {
        return Extracts.take(from, extract, MASKING, target);
    }

    private List<String> rows(String table) {
        return target.seed().rows().stream()
                .filter(row -> row.table().equals(table))
                .map(ExtractOddTest::text)
                .toList();
    }

    private static String text(SeedRow row) {
        return row.label().map(label -> label + ": ").orElse("") + row.values();
    }

    /** References to a unique key that is not the primary one, and two by one column. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void referencesLeadToAnyUniqueKey(Engine engine) {
        String ddl = """
                CREATE TABLE country (id ${id}, code CHAR(2) NOT NULL UNIQUE, name VARCHAR(40) NOT NULL);
                CREATE TABLE place (code CHAR(2) NOT NULL, zip VARCHAR(8) NOT NULL, name VARCHAR(40) NOT NULL,
                    PRIMARY KEY (code, zip), FOREIGN KEY (code) REFERENCES country (code));
                CREATE TABLE hut (id ${id}, code CHAR(2) NOT NULL, zip VARCHAR(8), name VARCHAR(40) NOT NULL,
                    FOREIGN KEY (code) REFERENCES country (code), FOREIGN KEY (code, zip) REFERENCES place (code, zip));
                """;
        DataSource database = engine.fresh(ddl);
        Engine.execute(
                database,
                "INSERT INTO country (id, code, name) VALUES (11, 'CH', 'Val Drun'), (12, 'AT', 'Steinmatt')",
                "INSERT INTO place VALUES ('CH', '7000', 'Edelgrat'), ('AT', '7000', 'Windegg')",
                "INSERT INTO hut (id, code, zip, name) VALUES (1, 'CH', '7000', 'Rotbach'), (2, 'CH', NULL, 'Rotbach')");
        ExtractSummary summary = take(database, Extract.all("hut"));
        assertEquals(Map.of("country", 1, "place", 1, "hut", 2), summary.tables());
        assertEquals(List.of("ch: (code=CH, name=Val Drun)"), rows("country"));
        assertEquals(List.of("edelgrat: (code={row: ch}, zip=7000, name=Edelgrat)"), rows("place"));
        assertEquals(
                List.of(
                        "(code={row: ch}, zip={row: edelgrat}, name=Rotbach)",
                        "(code={row: ch}, zip=null, name=Rotbach)"),
                rows("hut"));
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.load(target.seed());
            stage.expect("hut").where("zip", "7000").count(1);
        }
        take(database, Extract.key("country", 11).below("*"));
        assertEquals(2, rows("hut").size());
        assertEquals(1, rows("place").size());
    }

    /** Databases find too many rows by some places, and only those that are meant count. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void rowsAreChosenByPlacesInDocuments(Engine engine) {
        DataSource database = engine.fresh("CREATE TABLE hut (id ${id}, doc "
                + (engine == Engine.POSTGRES ? "JSONB" : "JSON")
                + ", name VARCHAR(9)); CREATE TABLE room (id ${id}, hut_id BIGINT NOT NULL, doc "
                + (engine == Engine.POSTGRES ? "JSONB" : "JSON") + ", FOREIGN KEY (hut_id) REFERENCES hut (id))");
        try (Stage stage = Jdbc.stage(database)) {
            for (int i = 1; i <= 9; i++) {
                stage.add(Factory.forTable("hut")
                        .with("id", i)
                        .with("doc.floors", i % 3)
                        .with("doc.code", i % 2 == 0 ? (Object) "7" : (Object) 7)
                        .with("name", "h" + i));
                stage.add(4, Factory.forTable("room").with("hut_id", i).inTurn("doc.beds", 2, 4, 6, 8));
            }
        }
        Extract extract = Extract.rows("hut", 2)
                .where("hut", "doc.floors", 1)
                .where("hut", "doc.code", 7)
                .below("room", 1)
                .where("room", "doc.beds", Expected.above(4));
        ExtractSummary summary =
                Extracts.take(database, extract, Masking.unmasked(Engine.databaseName(database)), target);
        assertEquals(Map.of("hut", 2, "room", 2), summary.tables());
        assertEquals(
                List.of("h1", "h7"),
                rows("hut").stream()
                        .map(row -> row.replaceFirst(".*name=(h\\d).*", "$1"))
                        .toList());
        assertEquals(
                List.of("6", "6"),
                rows("room").stream()
                        .map(row -> row.replaceFirst(".*beds\"\\s*:\\s*(\\d).*", "$1"))
                        .toList());
    }

    /** Rows that documents refer to come along, under new keys when they are loaded; a label is another row's name as well. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void documentsReferToRowsAndLeaveOutPlaces(Engine engine) {
        String json = engine == Engine.POSTGRES ? "JSONB" : "JSON";
        String ddl = "CREATE TABLE warden (id ${id}, name VARCHAR(20) NOT NULL, doc " + json + ");"
                + " CREATE TABLE hut (id ${id}, name VARCHAR(20) NOT NULL, doc " + json + ");"
                + " CREATE TABLE bed (hut_id BIGINT NOT NULL, number BIGINT NOT NULL, PRIMARY KEY (hut_id, number))";
        DataSource database = engine.fresh(ddl);
        try (Stage stage = Jdbc.stage(database)) {
            Factory<Row> warden = Factory.forTable("warden");
            stage.add(warden.with("id", 7).with("name", "Ida").with("doc.successor", 8));
            stage.add(warden.with("id", 8).with("name", "Reto"));
            stage.add(warden.with("id", 9).with("name", "Nobody's"));
            Factory<Row> hut = Factory.forTable("hut");
            stage.add(hut.with("name", "Ida")
                    .with(
                            "doc",
                            "{\"wardenId\": 7, \"helpers\": [{\"id\": 8, \"since\": 1}, {\"since\": 2}, {\"id\": 7}],"
                                    + " \"note\": \"kept\", \"contact\": {\"name\": \"Mia\"}}"));
            stage.add(hut.with("name", "Nowhere").with("doc", "{\"wardenId\": 99, \"helpers\": []}"));
            stage.add(hut.with("name", "Odd").with("doc", "{\"wardenId\": \"nine\"}"));
        }
        Extract extract = Extract.all("hut")
                .ref("hut.doc.wardenId", "warden")
                .ref("hut.doc.helpers[*].id", "warden")
                .ref("*.doc.successor", "warden")
                .without("hut.doc.contact", "hut.doc.helpers.since");
        Masking unmasked = Masking.unmasked(Engine.databaseName(database));
        ExtractSummary summary = Extracts.take(database, extract, unmasked, target);
        assertEquals(Map.of("hut", 3, "warden", 2), summary.tables());
        assertEquals(
                Map.of("needed by hut.doc.wardenId", 1, "needed by hut.doc.helpers[*].id", 1),
                summary.reasons().get("warden"));
        assertEquals(
                List.of(
                        "A document holds something at hut.doc.wardenId that is no key of warden; it is kept.",
                        "A row of warden that is needed by hut.doc.wardenId is not there: the document keeps the key, which"
                                + " leads nowhere."),
                summary.notes().stream().sorted().toList());
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.add(3, "warden"); // so that keys are others
            stage.load(target.seed());
            Object ida = stage.expect("warden").where("name", "Ida").one().get("id");
            Object reto = stage.expect("warden").where("name", "Reto").one().get("id");
            assertNotEquals(7L, ida);
            stage.expect("warden").where("name", "Ida").holds(row("doc.successor", reto));
            stage.expect("hut")
                    .where("name", "Ida")
                    .holds(row(
                            "doc",
                            Map.of(
                                    "wardenId",
                                    ida,
                                    "helpers",
                                    List.of(Map.of("id", reto), Map.of(), Map.of("id", ida)),
                                    "note",
                                    "kept")));
            stage.expect("hut").where("name", "Nowhere").holds(row("doc.wardenId", 99));
            stage.expect("hut").where("name", "Odd").holds(row("doc.wardenId", "nine"));
        }
        assertRefused(database, Extract.all("hut").ref("hut.name", "warden"), "'hut.name' is no place in documents");
        assertRefused(
                database, Extract.all("hut").ref("hut.doc.bed", "bed"), "'hut.doc.bed' refers to bed, whose key has 2");
        assertRefused(database, Extract.all("hut").without("hut.name.first"), "hut.name is ");
        assertRefused(database, Extract.all("hut").without("hut.dok.first"), "'hut.dok.first'");
    }

    /** Rows of a table that is too large to be held are read twice: first their keys and what leads to others. */
    @Test
    void documentsOfALargeTableReferToo() {
        DataSource database = Engine.H2.fresh("CREATE TABLE warden (id ${id}, name VARCHAR(20) NOT NULL);"
                + " CREATE TABLE hut (id ${id}, name VARCHAR(20) NOT NULL, doc JSON, other JSON)");
        try (Stage stage = Jdbc.stage(database)) {
            stage.add(3, "warden");
            stage.addMany(
                    20_500,
                    Factory.forTable("hut")
                            .inTurn("doc.wardenId", 1, 3)
                            .with("doc.note", "x")
                            .with("other.note", "y"));
        }
        Extract extract =
                Extract.all("hut").ref("hut.doc.wardenId", "warden").without("hut.doc.note", "hut.other.note");
        ExtractSummary summary =
                Extracts.take(database, extract, Masking.unmasked(Engine.databaseName(database)), target);
        assertEquals(Map.of("hut", 20_500, "warden", 2), summary.tables());
        assertEquals(
                20_500,
                target.seed().rows().stream()
                        .filter(row -> row.table().equals("hut"))
                        .filter(row -> row.values().get("doc.wardenId") instanceof SeedValue.RowRef)
                        .filter(row -> !row.values().toString().contains("note"))
                        .count());
    }

    private void assertRefused(DataSource database, Extract extract, String how) {
        String message = assertThrows(ZabbetException.class, () -> take(database, extract))
                .getMessage();
        assertTrue(message.contains(how), message);
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void rowsWithoutAKeyAreTakenAsOftenAsTheyAreThere(Engine engine) {
        String ddl = """
                CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL);
                CREATE TABLE visit (hut_id BIGINT NOT NULL, other_id BIGINT, nights INT NOT NULL,
                    FOREIGN KEY (hut_id) REFERENCES hut (id), FOREIGN KEY (other_id) REFERENCES hut (id));
                """;
        DataSource database = engine.fresh(ddl);
        Engine.execute(
                database,
                "INSERT INTO hut (id, name) VALUES (1, 'Edelgrat'), (2, 'Windegg')",
                "INSERT INTO visit VALUES (1, 2, 3), (1, 2, 3), (1, NULL, 3), (2, NULL, 1)");
        assertEquals(
                3, take(database, Extract.key("hut", 1).below("visit")).tables().get("visit"));
        assertEquals(
                4, take(database, Extract.all("hut").below("*")).tables().get("visit"), "not twice by two references");
        assertEquals(4, take(database, Extract.all("visit").below("*")).tables().get("visit"));
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.load(target.seed());
            stage.expect("visit").where("other_id", null).count(2);
            stage.expect("visit").count(4);
        }
    }

    /** A row refers to itself, or to one that comes later, and has to. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void parentsInOneTableComeFirst(Engine engine) {
        String ddl =
                "CREATE TABLE unit (id BIGINT NOT NULL PRIMARY KEY, part_of BIGINT NOT NULL, name VARCHAR(20) NOT NULL,"
                        + " FOREIGN KEY (part_of) REFERENCES unit (id))";
        DataSource database = engine.fresh(ddl);
        Engine.execute(
                database,
                "INSERT INTO unit VALUES (9, 9, 'root')",
                "INSERT INTO unit VALUES (5, 9, 'five')",
                "INSERT INTO unit VALUES (1, 5, 'one')",
                "INSERT INTO unit VALUES (3, 1, 'three')");
        assertEquals(4, take(database, Extract.key("unit", 3)).tables().get("unit"));
        assertEquals(
                List.of(
                        "root: (id=9, part_of={row: root}, name=root)",
                        "five: (id=5, part_of={row: root}, name=five)",
                        "one: (id=1, part_of={row: five}, name=one)",
                        "three: (id=3, part_of={row: one}, name=three)"),
                rows("unit"));
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.load(target.seed());
            stage.expect("unit").count(4);
        }
        assertEquals(
                Map.of("unit", 2),
                take(database, Extract.key("unit", 9).below("unit").depth(1)).tables());
    }

    /** MariaDB takes 'ch' for 'CH', also in a reference. */
    @ParameterizedTest
    @EnumSource(names = "MARIADB")
    void keysThatTheDatabaseTakesForEqualAreOne(Engine engine) {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource database = engine.fresh(
                "CREATE TABLE country (code CHAR(2) NOT NULL PRIMARY KEY, name VARCHAR(40) NOT NULL);"
                        + " CREATE TABLE hut (id ${id}, code CHAR(2) NOT NULL, FOREIGN KEY (code) REFERENCES country (code))");
        Engine.execute(
                database,
                "INSERT INTO country VALUES ('CH', 'Val Drun')",
                "INSERT INTO hut (code) VALUES ('CH'), ('ch'), ('Ch')");
        assertEquals(
                Map.of("country", 1, "hut", 3),
                take(database, Extract.all("hut")).tables());
        assertEquals(
                3,
                rows("hut").stream()
                        .filter(row -> row.equals("(code={row: ch})"))
                        .count());
    }

    /** References that lead nowhere were stored while nobody checked them. */
    @ParameterizedTest
    @EnumSource(names = {"SQLITE", "MARIADB"})
    void referencesThatLeadNowhereAreTold(Engine engine) {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource database = engine.fresh("CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL);"
                + " CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL, FOREIGN KEY (hut_id) REFERENCES hut (id))");
        Engine.execute(
                database,
                engine == Engine.SQLITE ? "PRAGMA foreign_keys = OFF" : "SET foreign_key_checks = 0",
                "INSERT INTO stay (hut_id) VALUES (77)");
        ExtractSummary summary = take(database, Extract.all("stay"));
        assertEquals(
                List.of(
                        "A row of hut that is needed by stay.hut_id is not there: the database holds references that lead nowhere,"
                                + " and the extract will not load."),
                summary.notes());
        assertEquals(List.of("(hut_id=77)"), rows("stay"));
    }

    /** To a partitioned table belong the rows of its parts: they are taken once. */
    @ParameterizedTest
    @EnumSource(names = "POSTGRES")
    void partsAreNotTakenBesideTheWhole(Engine engine) {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource database = engine.fresh("CREATE TABLE hut (id BIGINT PRIMARY KEY, name VARCHAR(40) NOT NULL);"
                + " CREATE TABLE stay (id BIGINT NOT NULL, hut_id BIGINT NOT NULL REFERENCES hut (id), PRIMARY KEY (id))"
                + " PARTITION BY RANGE (id); CREATE TABLE stay_1 PARTITION OF stay FOR VALUES FROM (1) TO (100);"
                + " CREATE TABLE stay_2 PARTITION OF stay FOR VALUES FROM (100) TO (200)");
        Engine.execute(database, "INSERT INTO hut VALUES (1, 'Edelgrat')", "INSERT INTO stay VALUES (1, 1), (150, 1)");
        assertEquals(
                Map.of("hut", 1, "stay", 2),
                take(database, Extract.all("hut").below("*")).tables());
        assertEquals(
                Map.of("hut", 1, "stay_2", 1),
                take(database, Extract.all("stay_2")).tables());
    }

    /** Tables in another schema, and names that have to stand in quotes. */
    @ParameterizedTest
    @EnumSource(names = {"H2", "POSTGRES"})
    void namesAreWrittenAsTheyAre(Engine engine) {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource database = engine.fresh(
                "CREATE SCHEMA beside; CREATE TABLE beside.\"Order\" (\"Key\" INT PRIMARY KEY, name VARCHAR(20));"
                        + " CREATE TABLE line (id ${id}, \"order by\" INT NOT NULL REFERENCES beside.\"Order\" (\"Key\"))");
        Engine.execute(
                database,
                "INSERT INTO beside.\"Order\" VALUES (1, 'a''b \"c\"'), (2, NULL)",
                "INSERT INTO line (\"order by\") VALUES (1), (2)");
        ExtractSummary summary = take(database, Extract.rows("line", 2).order("line", "-order by"));
        String order = summary.tables().keySet().iterator().next();
        assertTrue(order.toLowerCase(java.util.Locale.ROOT).endsWith("beside.order"), order);
        assertEquals(List.of("a-b-c: (Key=1, name=a'b \"c\")", "beside-order-2: (Key=2, name=null)"), rows(order));
    }
}
