package dev.zabbet.examples.proof;

import static org.junit.jupiter.api.Assertions.assertFalse;

import dev.zabbet.Stage;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Factory;
import dev.zabbet.files.RowDocument;
import dev.zabbet.junit.EveryStage;
import dev.zabbet.junit.Variations;
import dev.zabbet.row.Row;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.List;
import java.util.function.Predicate;

/**
 * Ten faults that depend on one or two invented values. The code under test is the predicate; it stands for a mistake in an
 * application. Run by {@link DecidingValuesTest}.
 */
@EveryStage("/db/huts.sql")
class DecidingCase {

    @Variations(40)
    void theShortestStay(Stage stage) {
        fault(stage.add("stay"), stay -> nights(stay) == 1);
    }

    @Variations(40)
    void theLongestStay(Stage stage) {
        fault(stage.add("stay"), stay -> nights(stay) == 14);
    }

    @Variations(40)
    void anEmptyBirthday(Stage stage) {
        fault(stage.add("guest"), guest -> guest.get("born") == null);
    }

    @Variations(40)
    void aParentThatIsThere(Stage stage) {
        fault(stage.add("hut"), hut -> hut.get("warden_id") != null);
    }

    @Variations(40)
    void aFreeStay(Stage stage) {
        fault(stage.add("stay"), stay -> ((BigDecimal) stay.get("price")).signum() == 0);
    }

    @Variations(60)
    void aLeapDay(Stage stage) {
        fault(
                stage.add("stay"),
                stay -> arrives(stay).getDayOfYear() == 60 && arrives(stay).isLeapYear());
    }

    @Variations(40)
    void aLongName(Stage stage) {
        fault(stage.add("warden"), warden -> warden.get("full_name").toString().length() > 40);
    }

    @Variations(60)
    void bookedAfterArrival(Stage stage) {
        Factory<Row> soon = Factory.forTable("stay")
                .invent("arrives", values -> values.today().plusDays(values.between(0, 20)))
                .invent(
                        "booked_at",
                        values -> values.today().plusDays(values.between(0, 20)).atStartOfDay());
        fault(
                stage.add(soon),
                stay -> ((LocalDateTime) stay.get("booked_at")).toLocalDate().isAfter(arrives(stay)));
    }

    @Variations(80)
    void longAndCancelled(Stage stage) {
        stage.load(RowDocument.of("base", "tables: {stay: [{}]}").seed());
        fault(
                stage.rows("stay").get(0),
                stay -> nights(stay) > 7 && stay.get("status").equals("CANCELLED"));
    }

    @Variations(60)
    void theSecondIsLonger(Stage stage) {
        stage.add(Bulk.of(2, "stay"));
        List<Row> stays = stage.rows("stay");
        fault(stays.get(0), stay -> nights(stay) > nights(stays.get(1)) + 6);
    }

    private static void fault(Row row, Predicate<Row> fails) {
        assertFalse(fails.test(row), "the application goes wrong");
    }

    private static long nights(Row stay) {
        return stay.get("nights", Long.class);
    }

    private static LocalDate arrives(Row stay) {
        return stay.get("arrives", LocalDate.class);
    }
}
