package dev.zabbet.expect;

import static dev.zabbet.expect.Expected.near;
import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.row;
import static dev.zabbet.expect.Expected.seconds;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;

import dev.zabbet.Footprint;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.MemoryStore;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Map;
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
                1 of 1 stay expected to be added was added with other values.

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
                "The act should have thrown IllegalStateException; it threw nothing and left 0 changes.",
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

    private static AssertionFailedError fails(String report, Executable expectation) {
        AssertionFailedError failure = assertThrows(AssertionFailedError.class, expectation);
        assertEquals(report, failure.getMessage());
        return failure;
    }
}
