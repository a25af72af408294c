package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.above;
import static dev.zabbet.expect.Expected.any;
import static dev.zabbet.expect.Expected.below;
import static dev.zabbet.expect.Expected.between;
import static dev.zabbet.expect.Expected.equalToColumn;
import static dev.zabbet.expect.Expected.from;
import static dev.zabbet.expect.Expected.jsonPart;
import static dev.zabbet.expect.Expected.like;
import static dev.zabbet.expect.Expected.near;
import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.oneOf;
import static dev.zabbet.expect.Expected.otherThan;
import static dev.zabbet.expect.Expected.pattern;
import static dev.zabbet.expect.Expected.row;
import static dev.zabbet.expect.Expected.satisfying;
import static dev.zabbet.expect.Expected.seconds;
import static dev.zabbet.expect.Expected.together;
import static dev.zabbet.expect.Expected.upTo;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.fail;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.expect.FootprintExpectation;
import dev.zabbet.factory.Factory;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.row.Row;
import dev.zabbet.store.Condition;
import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * The same expectations hold and fail alike in memory and on every database. What a failed one says stands in
 * {@code reports/*.txt}, meant to be read; {@code -Dzabbet.writeReports=true} writes these files anew.
 */
class ReportsTest {
    private static final Set<String> WRITTEN = new HashSet<>();
    private static final Path REPORTS = Path.of("src/test/resources/reports");
    private static final int CASES = 84;
    private static final LocalDateTime NINE = LocalDateTime.of(2031, 7, 1, 9, 0);
    private static final String DDL = """
            CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL, beds INT NOT NULL, opened_on DATE, amenities JSON,
                notes VARCHAR(900), photo ${bytes}, checked_at TIMESTAMP(3) NULL);
            CREATE TABLE room (hut_id BIGINT NOT NULL REFERENCES hut (id), number INT NOT NULL, beds INT NOT NULL,
                PRIMARY KEY (hut_id, number));
            CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), guest VARCHAR(40) NOT NULL,
                status VARCHAR(12) NOT NULL, nights INT NOT NULL, price DECIMAL(8, 2) NOT NULL, booked_at TIMESTAMP(3) NULL,
                cancelled_at TIMESTAMP(3) NULL);
            CREATE TABLE log_line (said VARCHAR(60) NOT NULL, by_whom VARCHAR(20));
            """;
    private static final String RULES =
            "Quiet hours are from ten to six. Boots stay in the cellar; please bring slippers. ".repeat(4);

    /** An expectation under a name that says what it shows. */
    private record Case(String name, boolean holds, Consumer<Stage> expectation) {}

    private static Case holds(String name, Consumer<Stage> expectation) {
        return new Case(name, true, expectation);
    }

    private static Case fails(String name, Consumer<Stage> expectation) {
        return new Case(name, false, expectation);
    }

    private static void store(Stage stage) {
        Factory<Row> huts = Factory.forTable("hut");
        stage.add(huts.with("name", "Edelgrat")
                .with("beds", 34)
                .with("opened_on", "1999-05-01")
                .with("amenities", "{\"shower\": true, \"dishes\": [\"rösti\", \"soup\"], \"stars\": 2.0}")
                .with("notes", RULES)
                .with("photo", bytes(40, -1))
                .with("checked_at", NINE));
        stage.add(huts.with("name", "Windegg").with("beds", 12).with("opened_on", "2010-06-01"));
        stage.add(huts.with("name", "霧の小屋").with("beds", 12));
        stage.add(
                3,
                Factory.forTable("room")
                        .with("hut_id", 1)
                        .inTurn("number", 1, 2, 3)
                        .with("beds", 4));
        stage.add(
                4,
                Factory.forTable("stay")
                        .inTurn("hut_id", 1, 1, 2, 1)
                        .inTurn("guest", "Mara Quill", "Tove Anders", "Mara Quill", "Ilja Brandt")
                        .inTurn("status", "CONFIRMED", "CONFIRMED", "REQUESTED", "CANCELLED")
                        .inTurn("nights", 2, 3, 2, 5)
                        .inTurn("price", 80, 120, "59.90", 200)
                        .with("booked_at", NINE.minusDays(3))
                        .inTurn("cancelled_at", null, null, null, NINE.minusDays(1)));
        stage.add(
                2,
                Factory.forTable("log_line").inTurn("said", "opened", "opened").with("by_whom", null));
    }

    private static List<Case> stored() {
        return List.of(
                holds("rows in any order", s -> s.expect("room").holdsOnly(rooms(3), rooms(1), rooms(2))),
                holds("rows with nulls", s -> s.expect("stay")
                        .where("hut_id", 1)
                        .holdsOnly(
                                stay("Mara Quill", "CONFIRMED", 2).with("cancelled_at", null),
                                stay("Tove Anders", "CONFIRMED", 3).with("cancelled_at", null),
                                row("guest", "Ilja Brandt").with("cancelled_at", notNull()))),
                holds("rows that are alike", s -> s.expect("log_line")
                        .holdsOnly(row("said", "opened"), row("said", "opened"))),
                holds("an order", s -> s.expect("stay")
                        .orderedBy("-price")
                        .first(2)
                        .holdsInOrder(row("price", 200), row("price", 120))),
                holds("no two alike", s -> s.expect("stay").unique("guest", "hut_id")),
                holds("only some columns", s -> s.expect("room")
                        .ignoring("beds")
                        .holds(row("hut_id", 1).with("number", 2).with("beds", 99))),
                holds("none of those", s -> s.expect("stay").holdsNoneOf(row("status", "DONE"))),
                holds(
                        "empty, where nothing is",
                        s -> s.expect("stay").where("nights", above(7)).empty()),
                holds("soft-deleted", s -> s.expect("stay").softDeleted(4)),
                fails("one value of one row", s -> s.expect("stay")
                        .holds(row("id", 1).with("status", "CANCELLED"))),
                fails("several values of a row that is named by its key", s -> s.expect("room")
                        .holds(row("hut_id", 1).with("number", 2).with("beds", 6))),
                fails("the row that was meant is found among others", s -> s.expect("stay")
                        .where("hut_id", 1)
                        .holdsOnly(
                                stay("Mara Quill", "CONFIRMED", 2),
                                stay("Tove Anders", "DONE", 3),
                                stay("Ilja Brandt", "CANCELLED", 5))),
                fails("a row that is missing, and the nearest", s -> s.expect("stay")
                        .holds(
                                stay("Mara Quill", "CONFIRMED", 2),
                                stay("Mara Quill", "CONFIRMED", 2),
                                stay("Mara Quill", "REQUESTED", 2),
                                stay("Tove Anders", "CONFIRMED", 3),
                                stay("Ilja Brandt", "CANCELLED", 5))),
                fails("a key that is not stored", s -> s.expect("stay")
                        .holds(row("id", 99).with("nights", 2))),
                fails("a row too many", s -> s.expect("room").holdsOnly(rooms(1), rooms(2))),
                fails("one is another and one too many", s -> s.expect("stay")
                        .holdsOnly(
                                stay("Mara Quill", "CONFIRMED", 2),
                                stay("Mara Quill", "REQUESTED", 2),
                                stay("Tove Anders", "CONFIRMED", 4))),
                fails("rows without a key", s -> s.expect("log_line")
                        .holdsOnly(row("said", "opened"), row("said", "shut"))),
                fails(
                        "nothing is stored",
                        s -> s.expect("stay").where("status", "DONE").holds(row("nights", 1))),
                fails("what should not be there", s -> s.expect("stay").holdsNoneOf(row("status", "CONFIRMED"))),
                fails(
                        "another number of rows",
                        s -> s.expect("stay").where("nights", from(3)).count(3)),
                fails("not empty", s -> s.expect("stay")
                        .where("guest", like("Mara%"))
                        .orWhere("nights", 5)
                        .empty()),
                fails(
                        "another order",
                        s -> s.expect("room").orderedBy("number").holdsInOrder(rooms(2), rooms(1), rooms(3))),
                fails(
                        "too few in order",
                        s -> s.expect("room").orderedBy("number").holdsInOrder(rooms(1), rooms(2))),
                fails(
                        "too many in order",
                        s -> s.expect("room").orderedBy("number").holdsInOrder(rooms(1), rooms(2), rooms(3), rooms(4))),
                fails("two alike", s -> s.expect("stay").unique("hut_id", "status")),
                fails(
                        "one, and there are several",
                        s -> s.expect("stay").where("hut_id", 1).one()),
                fails(
                        "one, and there is none",
                        s -> s.expect("stay").where("hut_id", 3).one()),
                fails(
                        "no row with a key",
                        s -> s.expect("stay").where("hut_id", 1).one(3)),
                fails("not soft-deleted", s -> s.expect("stay").softDeleted(1)),
                fails(
                        "several expectations together",
                        s -> together(
                                () -> s.expect("room").count(3),
                                () -> s.expect("stay").count(5),
                                () -> s.expect("hut")
                                        .where("beds", 12)
                                        .holdsOnly(row("name", "Windegg"), row("name", "Gratli")))));
    }

    private static List<Case> values() {
        return List.of(
                holds("numbers by value", s -> s.expect("stay")
                        .holds(row("price", "80"), row("price", 120L), row("price", 59.9))),
                holds("JSON by structure", s -> s.expect("hut")
                        .holds(row("amenities", "{\"stars\":2,\"dishes\":[\"rösti\",\"soup\"],\"shower\":true}"))),
                holds("matchers", s -> s.expect("stay")
                        .holds(
                                row("price", near(60, 0.2)).with("guest", pattern("Mara .*")),
                                row("nights", oneOf(4, 5)).with("cancelled_at", notNull()),
                                row("nights", between(3, 4)).with("id", any()),
                                row("price", upTo(80))
                                        .with("nights", below(3))
                                        .with("status", otherThan("REQUESTED")))),
                holds("a column of the same row and of another", s -> s.expect("stay")
                        .holds(
                                row("id", 2).with("nights", satisfying("odd", n -> ((Number) n).intValue() % 2 == 1)),
                                row("id", 1).with("hut_id", equalToColumn("id")),
                                row("id", 3).with("nights", equalToColumn("stay", 1, "nights")))),
                holds("a finer time than the column keeps", s -> s.expect("hut")
                        .holds(row("checked_at", NINE.plusNanos(1)))),
                fails(
                        "a finer time, strictly",
                        s -> s.expect("hut").strictly().holds(row("id", 1).with("checked_at", NINE.plusNanos(1)))),
                fails("what the database made of a value beside a difference", s -> s.expect("hut")
                        .holds(row("id", 1)
                                .with("checked_at", NINE.plusNanos(1))
                                .with("beds", 30))),
                fails("a long text", s -> s.expect("hut")
                        .holds(row("id", 1).with("notes", RULES.replaceFirst("(?s)^(.*)slippers", "$1Slippers")))),
                fails("a long text that is cut", s -> s.expect("hut")
                        .holds(row("id", 1).with("notes", RULES + "No dogs."))),
                fails("bytes", s -> s.expect("hut").holds(row("id", 1).with("photo", bytes(40, 25)))),
                fails("inside a document", s -> s.expect("hut")
                        .holds(row("id", 1)
                                .with(
                                        "amenities",
                                        "{\"shower\": true, \"dishes\": [\"rösti\", \"stew\"], \"stars\": 2}"))),
                fails("a part of a document", s -> s.expect("hut")
                        .holds(row("id", 1).with("amenities", jsonPart("{\"stars\": 3}")))),
                fails("case", s -> s.expect("hut").holds(row("id", 2).with("name", "WINDEGG"))),
                fails("blanks at the end", s -> s.expect("hut")
                        .holds(row("id", 2).with("name", "Windegg "))),
                fails("a blank that is none", s -> s.expect("stay")
                        .holds(row("id", 1).with("guest", "Mara\u00a0Quill"))),
                fails("what cannot be seen", s -> s.expect("stay")
                        .holds(row("id", 1).with("guest", "Mara\u200b Quill\n"))),
                fails("the word null", s -> s.expect("stay")
                        .holds(row("id", 1).with("status", "null").with("nights", 1))),
                fails("wide characters", s -> s.expect("hut")
                        .holds(row("id", 3).with("name", "霧の山小屋").with("beds", 14))),
                fails("a scale", s -> s.expect("stay").holds(row("id", 3).with("price", new BigDecimal("59.904")))),
                fails("the other sign", s -> s.expect("stay").holds(row("id", 3).with("price", "-59.90"))),
                fails("cents", s -> s.expect("stay").holds(row("id", 1).with("price", 8000))),
                fails("a time zone", s -> s.expect("hut").holds(row("id", 1).with("checked_at", NINE.plusHours(2)))),
                fails("less than a second", s -> s.expect("hut")
                        .holds(row("id", 1).with("checked_at", NINE.plusNanos(400_000_000)))),
                fails("a day", s -> s.expect("hut").holds(row("id", 1).with("opened_on", "1999-04-30"))),
                fails("not near enough", s -> s.expect("hut")
                        .holds(row("id", 1).with("checked_at", near(NINE.plusSeconds(5), seconds(2))))),
                fails("no match", s -> s.expect("stay")
                        .holds(row("id", 2)
                                .with("guest", pattern("Mara.*"))
                                .with("nights", oneOf(1, 2))
                                .with("price", between(10, 20))
                                .with("status", notNull())
                                .with("cancelled_at", notNull()))),
                fails("another row's column", s -> s.expect("stay")
                        .holds(row("id", 2).with("nights", equalToColumn("stay", 1, "nights")))),
                fails("a column of a row that is not there", s -> s.expect("stay")
                        .holds(row("id", 2).with("nights", equalToColumn("stay", 99, "nights")))),
                fails("very many rows", s -> s.expect("room")
                        .holdsOnly(IntStream.rangeClosed(1, 300)
                                .mapToObj(i -> row("number", i).with("beds", 5))
                                .toList())),
                fails("very many rows in key order", s -> s.expect("stay")
                        .holdsOnlyInKeyOrder(IntStream.of(1, 3, 4, 5)
                                .mapToObj(i -> row("id", i).with("nights", 2)))));
    }

    private static List<Case> footprints() {
        return List.of(
                holds("all that happened", s -> act(s).changed(
                                "stay",
                                1,
                                row("status", "CONFIRMED"),
                                row("status", "CANCELLED").with("cancelled_at", NINE))
                        .added("stay", row("guest", "Pia Lund").with("nights", 1))
                        .removed("room", row("number", 3))
                        .added("log_line", row("said", "cancelled stay 1"))
                        .nothingElse()),
                holds("a table left out", s -> act(s).ignoring("log_line", "*.cancelled_at")
                        .changed("stay", 1, row("status", "CANCELLED"))
                        .counts("stay", 1, 1, 0)
                        .counts("room", 0, 0, 1)
                        .nothingElse()),
                holds("a column left out after all was said", s -> others(act(s))
                        .changed("stay", 1, row("status", "CANCELLED"))
                        .strictly()
                        .ignoring("*.cancelled_at")
                        .nothingElse()),
                holds("the columns of a row one after another", s -> others(act(s))
                        .softDeleted("stay", 1)
                        .changed("stay", 1, row("status", "CANCELLED"))
                        .nothingElse()),
                holds("soft-deleted by the act", s -> act(s).softDeleted("stay", 1)),
                holds("another table as it was", s -> act(s).unchanged("hut")),
                holds("nothing at all", s -> s.act(() -> {}).expect().unchanged()),
                fails("a change to something else", s -> act(s).changed("stay", 1, row("status", "DONE"))),
                fails("a change from something else", s -> act(s).changed(
                                "stay", 1, row("status", "REQUESTED"), row("status", "CANCELLED"))),
                fails("a row that was not changed", s -> act(s).changed("stay", 2, row("status", "CANCELLED"))),
                fails("a row that was removed instead", s -> act(s).changed("room", List.of(1, 3), row("beds", 2))),
                fails("no row changed like that", s -> act(s).changed("stay", row("status", "DONE"))),
                fails("added with other values", s -> act(s).added(
                                "stay", row("guest", "Pia Lund").with("nights", 2))),
                fails("added too rarely", s -> act(s).added(
                                "log_line", row("said", "cancelled stay 1"), row("said", "mailed Mara Quill"))),
                fails("nothing added there", s -> act(s).added("hut", row("name", "Gratli"))),
                fails("another row removed", s -> act(s).removed("room", row("number", 2))),
                fails("other numbers", s -> act(s).counts("stay", 0, 1, 0)),
                fails("something else too", s -> act(s).changed("stay", 1, row("status", "CANCELLED"))
                        .nothingElse()),
                fails("another column of an expected row", s -> others(act(s))
                        .changed("stay", 1, row("cancelled_at", NINE))
                        .nothingElse()),
                fails("another column of a row deleted softly", s -> others(act(s))
                        .ignoring("hut")
                        .softDeleted("stay", 1)
                        .nothingElse()),
                fails("a table that was touched", s -> act(s).unchanged("room")),
                fails("something, where nothing should be", s -> act(s).ignoring("stay")
                        .unchanged()),
                fails("not soft-deleted by the act", s -> act(s).softDeleted("stay", 2)),
                fails("an act that left nothing", s -> s.act(() -> {}).expect().added("stay", row("nights", 1))));
    }

    private static Row rooms(int number) {
        return row("hut_id", 1).with("number", number).with("beds", 4);
    }

    private static Row stay(String guest, String status, int nights) {
        return row("guest", guest).with("status", status).with("nights", nights);
    }

    private static byte[] bytes(int length, int other) {
        byte[] bytes = new byte[length];
        for (int i = 0; i < length; i++) {
            bytes[i] = (byte) (i == other ? 0xFF : i);
        }
        return bytes;
    }

    /** Accounts for all that the act left but the change of stay 1. */
    private static FootprintExpectation others(FootprintExpectation expectation) {
        return expectation
                .added("stay", row("guest", "Pia Lund"))
                .removed("room", row("number", 3))
                .added("log_line", row("said", "cancelled stay 1"));
    }

    private static FootprintExpectation act(Stage stage) {
        return stage.act(() -> {
                    if (stage.store() instanceof MemoryStore memory) {
                        memory.update(
                                memory.schema().require("stay"),
                                new Condition.Equal("id", 1L),
                                row("status", "CANCELLED").with("cancelled_at", NINE));
                        memory.delete(memory.schema().require("room"), new Condition.Equal("number", 3L));
                        memory.insert(
                                memory.schema().require("stay"),
                                row("hut_id", 2L)
                                        .with("guest", "Pia Lund")
                                        .with("status", "REQUESTED")
                                        .with("nights", 1L)
                                        .with("price", new BigDecimal("40.00")));
                        memory.insert(
                                memory.schema().require("log_line"),
                                row("said", "cancelled stay 1").with("by_whom", "desk"));
                    } else {
                        Engine.execute(
                                stage.dataSource(),
                                "UPDATE stay SET status = 'CANCELLED', cancelled_at = '2031-07-01 09:00:00' WHERE id = 1",
                                "DELETE FROM room WHERE number = 3",
                                "INSERT INTO stay (hut_id, guest, status, nights, price)"
                                        + " VALUES (2, 'Pia Lund', 'REQUESTED', 1, 40)",
                                "INSERT INTO log_line VALUES ('cancelled stay 1', 'desk')");
                    }
                })
                .expect();
    }

    @ParameterizedTest
    @MethodSource("homes")
    void reportsAreTheSameEverywhere(String home) throws IOException {
        Map<String, List<Case>> files = new LinkedHashMap<>();
        files.put("stored.txt", stored());
        files.put("values.txt", values());
        files.put("footprints.txt", footprints());
        try (Stage stage = open(home)) {
            store(stage);
            for (Map.Entry<String, List<Case>> file : files.entrySet()) {
                List<String> told = new ArrayList<>();
                for (Case one : file.getValue()) {
                    run(stage, one, told);
                }
                compare(file.getKey(), String.join("\n", told));
            }
        }
        assertEquals(CASES, files.values().stream().mapToInt(List::size).sum());
    }

    private static void run(Stage stage, Case one, List<String> told) {
        var start = stage.mark();
        try {
            one.expectation().accept(stage);
        } catch (AssertionError e) {
            if (one.holds()) {
                fail(one.name() + " should hold: " + e.getMessage());
            }
            told.add("== " + one.name() + "\n\n" + e.getMessage());
            return;
        } finally {
            stage.rewind(start);
        }
        if (!one.holds()) {
            fail(one.name() + " should fail.");
        }
    }

    private static void compare(String file, String told) throws IOException {
        if (Boolean.getBoolean("zabbet.writeReports") && WRITTEN.add(file)) { // once; the others are compared with it
            Files.writeString(REPORTS.resolve(file), told);
        }
        assertEquals(Files.readString(REPORTS.resolve(file)), told, file);
    }

    private static Stream<String> homes() {
        return Stream.concat(Engine.all().map(Engine::name), Stream.of("MEMORY"));
    }

    private static Stage open(String home) {
        Engine engine = home.equals("MEMORY") ? Engine.H2 : Engine.valueOf(home);
        String ddl = DDL.replace("${bytes}", engine == Engine.POSTGRES ? "BYTEA" : "BLOB");
        return home.equals("MEMORY") ? Memory.stage(Jdbc.schema(engine.fresh(ddl))) : Jdbc.stage(engine.fresh(ddl));
    }
}
