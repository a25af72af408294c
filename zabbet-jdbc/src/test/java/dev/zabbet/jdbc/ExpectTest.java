package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.above;
import static dev.zabbet.expect.Expected.any;
import static dev.zabbet.expect.Expected.below;
import static dev.zabbet.expect.Expected.between;
import static dev.zabbet.expect.Expected.equalToColumn;
import static dev.zabbet.expect.Expected.from;
import static dev.zabbet.expect.Expected.jsonPart;
import static dev.zabbet.expect.Expected.like;
import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.oneOf;
import static dev.zabbet.expect.Expected.otherThan;
import static dev.zabbet.expect.Expected.pattern;
import static dev.zabbet.expect.Expected.row;
import static dev.zabbet.expect.Expected.together;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Footprint;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.Store;
import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** The same expectations on every database and in memory: what holds, and what is said when it does not. */
class ExpectTest {
    private static final String DDL = """
            CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL, beds INT NOT NULL, opened_on DATE, amenities JSON,
                code CHAR(6), deleted_at TIMESTAMP NULL);
            CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), nights INT NOT NULL,
                price DECIMAL(8, 2) NOT NULL, updated_at TIMESTAMP NULL);
            """;
    private Stage stage = Memory.stage(new Schema(List.of()));

    /** Each database, and memory with the tables of H2. */
    private static Stream<String> homes() {
        return Stream.concat(Engine.all().map(Engine::name), Stream.of("MEMORY"));
    }

    private void open(String home) {
        stage = home.equals("MEMORY")
                ? Memory.stage(Jdbc.schema(Engine.H2.fresh(DDL)))
                : Jdbc.stage(Engine.valueOf(home).fresh(DDL));
        Factory<Row> huts = Factory.forTable("hut");
        stage.add(huts.with("name", "Edelgrat")
                .with("beds", 34)
                .with("opened_on", "1999-05-01")
                .with("amenities", "{\"shower\": true, \"dishes\": [\"rösti\", \"soup\"], \"stars\": 2.0}")
                .with("code", "EDEL"));
        stage.add(huts.with("name", "Windegg").with("beds", 12).with("opened_on", "2010-06-01"));
        stage.add(huts.with("name", "edel_weiss").with("beds", 12));
        stage.add(
                3,
                Factory.forTable("stay")
                        .ref("hut_id", 1L)
                        .inTurn("nights", 2, 3, 5)
                        .inTurn("price", 20, 30, 50));
    }

    @AfterEach
    void close() {
        stage.close();
    }

    @ParameterizedTest
    @MethodSource("homes")
    void rowsAreLookedForInTheSameWay(String home) {
        open(home);
        stage.expect("hut").where("beds", above(12)).count(1);
        stage.expect("hut").where("beds", below(34)).count(2);
        stage.expect("hut").where("beds", from(12)).count(3);
        stage.expect("hut")
                .where("beds", between(10, 20))
                .where("name", otherThan("Windegg"))
                .count(1);
        stage.expect("hut").where("opened_on", notNull()).count(2);
        stage.expect("hut").where("opened_on", null).count(1);
        stage.expect("hut").where("opened_on", below(LocalDate.of(2000, 1, 1))).count(1);
        stage.expect("hut")
                .where("opened_on", oneOf(LocalDate.of(2010, 6, 1), null))
                .count(2);
        stage.expect("hut").where("name", like("Edel%")).count(1);
        stage.expect("hut").where("name", like("edel\\_%")).count(1);
        stage.expect("hut").where("name", like("%'%")).empty();
        stage.expect("hut").where("name", "Edelgrat").orWhere("beds", 12).count(3);
        assertEquals(
                "A row cannot be looked for by \"text like /x/\". where(column, …) takes a value, null, notNull, below,"
                        + " upTo, above, from, otherThan, between, oneOf and like.",
                assertThrows(ZabbetException.class, () -> stage.expect("hut").where("name", pattern("x")))
                        .getMessage());
    }

    @ParameterizedTest
    @MethodSource("homes")
    void valuesAreComparedByWhatTheyAre(String home) {
        open(home);
        stage.expect("hut")
                .holds(
                        Map.of(
                                "name",
                                "Edelgrat",
                                "amenities",
                                "{\"stars\": 2, \"dishes\": [\"rösti\", \"soup\"], \"shower\": true}"),
                        row("name", pattern("W.*")).with("id", any()));
        if (!home.equals("SQLITE")) { // which keeps no fixed width
            stage.expect("hut").holds(row("code", "EDEL  ").with("beds", "34"));
        }
        stage.expect("hut").where("id", 1).holdsOnly(row("amenities", jsonPart("{\"dishes\": [\"soup\"]}")));
        stage.expect("stay").holds(row("price", 20).with("nights", below(3)), row("price", "50.00"));
        stage.expect("stay").where("nights", 2).holdsOnly(row("id", equalToColumn("hut_id")));
        assertTrue(failure(() ->
                        stage.expect("hut").where("id", 1).holdsOnly(row("amenities", jsonPart("{\"stars\": 3}"))))
                .contains("JSON with {\"stars\": 3}"));
    }

    @ParameterizedTest
    @MethodSource("homes")
    void orderKeysAndDuplicates(String home) {
        open(home);
        stage.expect("hut")
                .orderedBy("-beds", "name")
                .holdsInOrder(row("beds", 34), row("name", "Windegg"), row("id", 3));
        stage.expect("stay").orderedBy("-price").first(2).holdsInOrder(row("nights", 5), row("nights", 3));
        assertTrue(failure(() -> stage.expect("stay")
                        .orderedBy("price")
                        .first(2)
                        .holdsInOrder(row("nights", 2), row("nights", 5)))
                .startsWith("stay by price, the first 2: row 2 is another one than expected."));
        assertEquals(
                "first(1) of stay needs an order: rows of a table have none of their own, so that it could be others next"
                        + " time. Say orderedBy(…) first.",
                assertThrows(ZabbetException.class, () -> stage.expect("stay").first(1))
                        .getMessage());
        stage.expect("hut").unique("name").unique("opened_on");
        assertTrue(failure(() -> stage.expect("hut").unique("beds"))
                .startsWith("hut: beds should be different in each row."));
        assertEquals("Windegg", stage.expect("hut").one(2).get("name"));
        assertEquals("Edelgrat", stage.expect("hut").where("beds", 34).one().get("name"));
        assertTrue(failure(() -> stage.expect("hut").one(99)).startsWith("No row of hut has the key 99."));
        assertTrue(failure(() -> stage.expect("hut").where("beds", 12).one())
                .startsWith("hut where beds = 12 holds 2 rows; 1 expected."));
        record Hut(long id, String name, int beds) {}
        stage.expect("hut").select("name").holds(new Hut(99, "Windegg", 1));
        stage.expect("hut").ignoring("id", "beds").holds(new Hut(99, "Windegg", 1));
    }

    @ParameterizedTest
    @MethodSource("homes")
    void whatAnActLeft(String home) {
        open(home);
        if (home.equals("MEMORY")) {
            return; // there is no connection to act on
        }
        Footprint footprint = stage.act(() -> Engine.execute(
                stage.dataSource(),
                "UPDATE hut SET deleted_at = '2031-07-01 08:00:00' WHERE id = 2",
                "UPDATE stay SET updated_at = '2031-07-01 08:00:00'",
                "UPDATE stay SET nights = 4 WHERE id = 1",
                "INSERT INTO hut (name, beds) VALUES ('Grauhorn', 7)"));
        footprint
                .expect()
                .ignoring("*.updated_at")
                .softDeleted("hut", 2)
                .changed("stay", 1, row("nights", 2), row("nights", 4))
                .counts("hut", 1, 1, 0)
                .nothingElse();
        footprint
                .expect()
                .ignoring("stay", "hut.deleted_at")
                .added("hut", row("name", "Grauhorn"))
                .nothingElse();
        assertEquals(7, footprint.added("hut").one().get("beds", Integer.class));
        stage.expect("hut").softDeleted(2);
        assertEquals(
                "hut 1 is not soft-deleted: its deleted_at is null.",
                failure(() -> stage.expect("hut").softDeleted(1))
                        .lines()
                        .findFirst()
                        .orElse(""));
        assertTrue(failure(() -> footprint.expect().changed("stay", 1, row("nights", 9), row("nights", 4)))
                .startsWith("stay 1 was changed, but not from nights=9."));
        assertTrue(failure(() -> footprint.expect().counts("hut", 1, 0, 0))
                .startsWith("The act left 1 added, 1 changed and 0 removed rows of hut; 1, 0 and 0 expected."));
        String both = failure(() -> together(
                () -> stage.expect("hut").empty(), () -> stage.expect("stay").count(3), () -> stage.expect("stay")
                        .count(4)));
        assertTrue(both.startsWith("2 of 3 expectations do not hold.\n\n1) hut holds 4 rows; 0 expected."), both);
        assertTrue(both.contains("\n\n2) stay holds 3 rows; 4 expected."), both);
    }

    @ParameterizedTest
    @MethodSource("homes")
    void referencesThatLeadNowhereAreFound(String home) {
        open(home);
        stage.expectReferencesIntact();
        if (home.equals("SQLITE")) {
            Engine.execute(
                    Jdbc.dataSource(
                            stage.dataSource().toString().replaceFirst("foreign_keys=on", "foreign_keys=off"), "", ""),
                    "DELETE FROM hut WHERE id = 1");
            assertTrue(failure(() -> stage.expectReferencesIntact())
                    .startsWith("3 rows of stay refer to no hut (hut_id → hut)."));
        }
    }

    @ParameterizedTest
    @MethodSource("homes")
    void tablesAreClearedAllOrNone(String home) {
        open(home);
        List<dev.zabbet.schema.Table> all = stage.schema().tables();
        assertThrows(ZabbetException.class, () -> stage.store()
                .clear(List.of(stage.schema().require("hut"))));
        stage.expect("hut").count(3);
        stage.store().clear(List.of(stage.schema().require("stay")));
        stage.expect("stay").empty();
        stage.expect("hut").count(3);
        stage.add("stay");
        stage.store().clear(all);
        all.forEach(table -> assertEquals(0, stage.store().count(table), table.name()));
        assertEquals(5, stage.add("hut").get("id", Integer.class), "keys go on");
    }

    /** Two expected rows that each come nearest to the same stored one are paired so that the fewest columns differ. */
    @Test
    void theBestPairsAreFound() {
        stage = Jdbc.embeddedSql("CREATE TABLE t (id INT PRIMARY KEY, a INT, b INT, c INT)");
        Store store = stage.store();
        Factory<Row> rows = Factory.forTable("t");
        stage.add(rows.with("id", 1).with("a", 1).with("b", 1).with("c", 1));
        stage.add(rows.with("id", 2).with("a", 1).with("b", 2).with("c", 2));
        String told = failure(() -> stage.expect("t")
                .holdsOnly(
                        row("a", 1).with("b", 1).with("c", 9),
                        row("a", 1).with("b", 1).with("c", 2)));
        assertTrue(told.startsWith("t: 2 of 2 expected rows are stored with other values."), told);
        assertTrue(told.contains("t 1") && told.contains("t 2"), told);
        assertEquals(
                2,
                store.rows(store.schema().require("t"), dev.zabbet.store.Condition.all())
                        .size());
    }

    private static String failure(Runnable expectation) {
        return String.valueOf(
                assertThrows(AssertionError.class, expectation::run).getMessage());
    }

    @ParameterizedTest
    @MethodSource("homes")
    void veryManyRowsAreComparedInKeyOrder(String home) {
        open(home);
        stage.addMany(
                5_000,
                Factory.forTable("stay").ref("hut_id", 1L).with("nights", 2).with("price", 9));
        Supplier<Stream<Row>> stays = () -> stage.rows("stay").stream();
        stage.expect("stay").holdsOnlyInKeyOrder(stays.get());
        stage.expect("stay")
                .where("nights", above(2))
                .select("nights")
                .holdsOnlyInKeyOrder(Stream.of(
                        row("id", 2).with("nights", 3).with("price", 1),
                        row("id", 3).with("nights", 5)));
        String report = assertThrows(AssertionError.class, () -> stage.expect("stay")
                        .holdsOnlyInKeyOrder(stays.get()
                                .filter(r -> !r.get("id").equals(7L))
                                .map(r -> (Long) r.get("id") > 4_000 ? r.with("price", 8) : r)
                                .map(r -> r.get("id").equals(5_003L) ? r.with("id", 9_999) : r)))
                .getMessage();
        assertTrue(
                report.startsWith(
                        "stay: 1002 rows of those expected are stored with other values, 1 row of those expected is not"
                                + " stored and 2 rows are stored beyond those expected.\n"),
                report);
        assertTrue(report.contains("\n    … and 992 more rows\n"), report);
        assertTrue(report.contains("\n    stay 7: hut_id=1, nights=2, price=9"), report);
        assertTrue(report.contains("5003 rows looked at, in key order, beside 5002 expected rows."), report);
        assertEquals(
                "Row 2 of those expected in stay is not behind the one before it by id: (id=1). Sort them by the key, or use"
                        + " holdsOnly.",
                assertThrows(ZabbetException.class, () -> stage.expect("stay")
                                .holdsOnlyInKeyOrder(Stream.of(row("id", 3), row("id", 1))))
                        .getMessage());
        assertTrue(assertThrows(ZabbetException.class, () -> stage.expect("stay")
                        .holdsOnlyInKeyOrder(Stream.of(row("nights", 3))))
                .getMessage()
                .startsWith("Row 1 of those expected in stay does not give its key (id)"));
    }

    /** What is being read is given up when nobody wants it any more; the stage goes on. */
    @Timeout(60)
    @ParameterizedTest
    @MethodSource("homes")
    void readingEndsWhereExpectedRowsEndInTrouble(String home) {
        open(home);
        stage.addMany(23_000, Factory.forTable("stay").ref("hut_id", 1L).with("nights", 2));
        long all = stage.rows("stay").size();
        Stream<Row> trouble = stage.rows("stay").stream().peek(r -> {
            if (r.get("id").equals(13_000L)) {
                throw new IllegalStateException("the file ends here");
            }
        });
        assertEquals(
                "the file ends here",
                assertThrows(IllegalStateException.class, () -> stage.expect("stay")
                                .holdsOnlyInKeyOrder(trouble))
                        .getMessage());
        stage.expect("stay").count((int) all).holdsOnlyInKeyOrder(stage.rows("stay").stream());
        stage.expect("stay")
                .where("nights", 2)
                .holdsOnlyInKeyOrder(
                        stage.rows("stay").stream().filter(r -> r.get("nights").equals(2L)));
        Row extra = stage.rows("stay").get(10_500);
        Row late = stage.rows("stay").get(21_000);
        String report = assertThrows(AssertionError.class, () -> stage.expect("stay")
                        .holdsOnlyInKeyOrder(stage.rows("stay").stream()
                                .filter(r -> !r.equals(extra))
                                .map(r -> r.equals(late) ? r.with("nights", 3) : r)))
                .getMessage();
        assertTrue(
                report.contains("1 row of those expected is stored with other values and 1 row is stored beyond"),
                report);
        assertTrue(
                report.contains("stay " + late.get("id") + "   stored   expected\n    nights     2        3\n"),
                report);
        assertTrue(report.contains("beyond those expected\n    stay " + extra.get("id") + ": hut_id=1"), report);
    }
}
