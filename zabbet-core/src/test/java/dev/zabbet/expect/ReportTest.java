package dev.zabbet.expect;

import static dev.zabbet.expect.Expected.near;
import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.row;
import static dev.zabbet.expect.Expected.seconds;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Footprint;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ExpectationFailure;
import dev.zabbet.factory.Factory;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.store.Condition;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.time.LocalDateTime;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.function.Executable;
import org.opentest4j.AssertionFailedError;

/** The text of every kind of failed expectation, word by word. */
class ReportTest {
    record Stay(
            long id, String status, int nights, @Nullable LocalDateTime cancelledAt) {}

    private final Stage stage = Memory.stage(Schema.of(Stay.class));
    private final Table stay = stage.schema().require("stay");
    private final MemoryStore store = (MemoryStore) stage.store();

    @BeforeEach
    void threeStays() {
        stage.add(
                3,
                Factory.forType(Stay.class)
                        .inTurn(Stay::status, "CONFIRMED", "REQUESTED", "CONFIRMED")
                        .inTurn(Stay::nights, 2, 3, 4));
    }

    @Test
    void aRowStoredWithOtherValues() {
        fails("""
                stay where nights = 2: 1 of 1 expected row is stored with other values.

                  stay 1           stored      expected
                    status         CONFIRMED   CANCELLED
                    cancelled_at   null        within 2 s of 2031-07-01T08:00:00Z

                1 row looked at, 0 as expected.

                Variation 0.
                """, () -> stage.expect("stay")
                .where("nights", 2)
                .holdsOnly(row("status", "CANCELLED")
                        .with("nights", "2")
                        .with("cancelled_at", near(stage.now(), seconds(2)))));
    }

    /** A difference that has often been met is called by its name. */
    @Test
    void whatADifferenceLooksLike() {
        Schema money = new Schema(List.of(new Table(
                "price",
                "",
                "price",
                List.of(
                        column("id", DataType.precise(Kind.INTEGER, "BIGINT", 64, 0)),
                        column("amount", DataType.precise(Kind.DECIMAL, "NUMERIC(8, 2)", 8, 2)),
                        column("label", DataType.sized(Kind.TEXT, "VARCHAR(80)", 80)),
                        column("due", DataType.precise(Kind.TIMESTAMP, "TIMESTAMP(6)", 6, 0)),
                        column("day", DataType.of(Kind.DATE, "DATE"))),
                Optional.of(new UniqueKey("price_key", List.of("id"))),
                List.of(),
                List.of(),
                List.of(),
                TableNature.PLAIN)));
        Stage prices = Memory.stage(money);
        ((MemoryStore) prices.store())
                .insert(
                        money.require("price"),
                        row("id", 7)
                                .with("amount", "12.35")
                                .with("label", "Half board")
                                .with("due", "2031-07-01T08:00:00")
                                .with("day", "2031-07-01"));
        Map<Row, String> looks = new LinkedHashMap<>();
        looks.put(
                row("amount", new java.math.BigDecimal("12.345")),
                "amount: the database rounded 12.345; the column keeps 2 digits after the point.");
        looks.put(row("amount", "-12.35"), "amount: the same number with the other sign.");
        looks.put(row("amount", "1235"), "amount: the 100th part, as when units are mixed.");
        looks.put(row("label", "half Board"), "label: they differ only in upper and lower case.");
        looks.put(row("label", "Half board "), "label: they differ only in blanks at the ends.");
        looks.put(row("label", "Half\u00a0board"), "label: they differ only in characters that cannot be seen.");
        looks.put(
                row("label", "Half board and more"),
                "label: what is stored is the beginning of what was expected, 10 characters of it.");
        looks.put(
                row("due", "2031-07-01T10:00:00"),
                "due: they are exactly 2 hours apart, as when a time zone is left out or taken twice.");
        looks.put(
                row("due", "2031-07-01T13:30:00"),
                "due: they are exactly 5.5 hours apart, as when a time zone is left out or taken twice.");
        looks.put(
                row("due", "2031-07-01T08:00:00.4"),
                "due: they are less than a second apart; near(time, seconds(1)) allows for it.");
        looks.put(
                row("day", "2031-06-30"),
                "day: they are one day apart, as when midnight is taken in another time zone.");
        looks.put(row("id", 0).with("amount", "12.35"), "");
        looks.put(row("label", "Full board"), "");
        looks.forEach((expected, known) -> {
            String text = String.valueOf(assertThrows(
                            AssertionFailedError.class,
                            () -> prices.expect("price").where("id", 7).holds(expected))
                    .getMessage());
            assertEquals(!known.isEmpty(), text.contains("    (" + known + ")\n") && !known.isEmpty(), text);
        });
    }

    private static Column column(String name, DataType type) {
        return new Column(name, name, type, false, Optional.empty(), Generation.NONE);
    }

    @Test
    void rowsThatAreNotThereAndRowsTooMany() {
        fails("""
                stay: 1 of 2 expected rows is not stored and 2 rows are stored beyond those expected.

                  no row like this is stored
                    stay with id=9, status=DONE

                  stored beyond those expected
                    stay 1: id=1, status=CONFIRMED
                    stay 3: id=3, status=CONFIRMED

                3 rows looked at, 1 as expected.

                Variation 0.
                """, () -> stage.expect("stay")
                .holdsOnly(row("id", 9).with("status", "DONE"), row("id", 2).with("status", notNull())));
        fails("""
                stay where status = DONE holds no row; 1 expected.

                  no row like this is stored
                    stay with nights=2

                0 rows looked at, 0 as expected.

                Variation 0.
                """, () -> stage.expect("stay").where("status", "DONE").holds(Map.of("nights", 2)));
    }

    @Test
    void aRowThatShouldNotBeThereAndAWrongCount() {
        fails("""
                stay holds 1 row that should not be there.

                  stored
                    stay 2: status=REQUESTED

                Variation 0.
                """, () -> stage.expect("stay").holdsNoneOf(row("status", "REQUESTED")));
        AssertionFailedError failure = fails(
                """
                stay where status = CONFIRMED holds 2 rows; 1 expected.

                  stored
                    stay 1: status=CONFIRMED, nights=2, cancelled_at=null
                    stay 3: status=CONFIRMED, nights=4, cancelled_at=null

                Variation 0.
                """, () -> stage.expect("stay").where("status", "CONFIRMED").count(1));
        assertEquals(
                "1 rows",
                failure.getExpected().getStringRepresentation().lines().toList().get(2));
    }

    @Test
    void footprintsThatAreNotAsExpected() {
        Footprint footprint = stage.act(() -> {
            store.update(stay, new Condition.Equal("id", 1L), row("status", "DONE"));
            store.insert(stay, row("status", "REQUESTED").with("nights", 1));
            store.delete(stay, new Condition.Equal("id", 3L));
        });
        String left = """

                  what the act left
                    stay 1 changed: status CONFIRMED → DONE
                    stay 4 added: status=REQUESTED, nights=1
                    stay 3 removed: status=CONFIRMED, nights=4

                Variation 0.
                """;
        fails("""
                stay 1 was changed, but not to what was expected.

                  stay 1     before      after   expected
                    status   CONFIRMED   DONE    CANCELLED
                """ + left, () -> footprint.expect().changed("stay", 1, row("status", "CANCELLED")));
        fails(
                "stay 3 was removed; expected that it changes to status=DONE.\n" + left,
                () -> footprint.expect().changed("stay", 3, row("status", "DONE")));
        fails("""
                1 of 1 row of stay expected to be added was added with other values.

                  stay 4     added   expected
                    nights   1       7
                """ + left, () -> footprint
                .expect()
                .added("stay", row("status", "REQUESTED").with("nights", 7)));
        fails(
                """
                The act left 2 changes that nobody expected.

                  not expected
                    stay 4 added: status=REQUESTED, nights=1
                    stay 3 removed: status=CONFIRMED, nights=4

                Variation 0.
                """,
                () -> footprint.expect().changed("stay", row("status", "DONE")).nothingElse());
        fails("""
                The act should have left nothing; it left 3 changes.

                  what it left
                    stay 1 changed: status CONFIRMED → DONE
                    stay 4 added: status=REQUESTED, nights=1
                    stay 3 removed: status=CONFIRMED, nights=4

                Variation 0.
                """, () -> footprint.expect().unchanged());
        footprint
                .expect()
                .changed("stay", 1, Map.of("status", "DONE"))
                .added("stay", row("nights", 1))
                .removed("stay", 3)
                .nothingElse();
    }

    @Test
    void anActThatDoesNotFailAsItShould() {
        AssertionFailedError failure =
                assertThrows(AssertionFailedError.class, () -> stage.actFailing(IllegalStateException.class, () -> {}));
        assertEquals(
                "The act should have thrown IllegalStateException; it threw nothing.\n\nThe act left nothing at all.\n\n"
                        + "Variation 0.\n",
                failure.getMessage());
    }

    @Test
    void matchersPairRowsWhereverTheyFit() {
        // The first expected row fits all; it must not take the row that only the second one fits.
        stage.expect("stay")
                .holdsOnly(row("status", Expected.any()), row("nights", 2), row("nights", Expected.between(3, 9)));
        List<Row> rows = stage.rows("stay");
        stage.expect("stay").holds(rows).count(3);
    }

    /** On a terminal a report has colours, and lines that are no longer than it is wide. */
    @Test
    void aReportFitsItsTerminal() {
        Executable expectation = () -> stage.expect("stay")
                .holdsOnly(
                        row("status", "a status that nobody would ever store").with("nights", 2));
        ExpectationFailure failure = assertThrows(ExpectationFailure.class, expectation);
        assertEquals(failure.plain() + "\nVariation 0.\n", failure.getMessage());
        assertEquals(failure.plain(), failure.coloured().replaceAll("\u001b\\[[0-9;]*m", ""));
        assertTrue(failure.coloured().contains("\u001b[33mCONFIRMED\u001b[0m"), failure.coloured());
        System.setProperty("zabbet.width", "60");
        System.setProperty("zabbet.colour", "always");
        try {
            ExpectationFailure narrow = assertThrows(ExpectationFailure.class, expectation);
            assertTrue(narrow.getMessage().startsWith("\u001b[1mstay: 1 of 1"), narrow.getMessage());
            assertTrue(narrow.plain().contains("""

                      stay 1
                        status
                          stored     CONFIRMED
                          expected   a status that nobody would ever store

                    """), narrow.plain());
            assertTrue(narrow.plain().lines().skip(1).allMatch(line -> line.length() <= 60), narrow.plain());
        } finally {
            System.clearProperty("zabbet.width");
            System.clearProperty("zabbet.colour");
        }
        stage.expect("stay").where("id", 1).holds(row("nights", Expected.equalToColumn("stay", 1, "nights")));
    }

    private static AssertionFailedError fails(String report, Executable expectation) {
        AssertionFailedError failure = assertThrows(AssertionFailedError.class, expectation);
        assertEquals(report, failure.getMessage());
        return failure;
    }
}
