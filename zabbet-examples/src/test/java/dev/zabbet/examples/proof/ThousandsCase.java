package dev.zabbet.examples.proof;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.Stage;
import dev.zabbet.examples.huts.Status;
import dev.zabbet.examples.huts.Stay;
import dev.zabbet.junit.EveryStage;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;

/** Three thousand runs of tests, each with a story of its own; run by {@link SuitePageTest}. */
@EveryStage(value = "/db/huts.sql", on = "memory")
class ThousandsCase extends Desk {
    @RepeatedTest(1000)
    void cancels(Stage stage, RepetitionInfo of) {
        Stay stay = stage.inVariation(of.getCurrentRepetition()).add(STAYS);
        stage.act(() -> desk.cancel(stay.id()))
                .expect()
                .changed("stay", stay.id(), row("status", "CANCELLED"))
                .added("ledger_entry", row("kind", "REFUND"));
    }

    @RepeatedTest(1000)
    void confirms(Stage stage, RepetitionInfo of) {
        Stay stay = stage.inVariation(of.getCurrentRepetition()).add(STAYS.with(Stay::status, Status.REQUESTED));
        stage.act(() -> desk.confirm(stay.id()));
        stage.expect("stay").where("status", "CONFIRMED").count(1);
        assertEquals(1, stage.rows("ledger_entry").size());
    }

    @RepeatedTest(1000)
    void deletes(Stage stage, RepetitionInfo of) {
        Stay stay = stage.inVariation(of.getCurrentRepetition()).add(STAYS);
        stage.act(() -> stays.delete(stay.id()));
        stage.expect("stay").count(of.getCurrentRepetition() % 100 == 7 ? 1 : 0);
    }
}
