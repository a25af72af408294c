package dev.zabbet.examples.huts;

import static dev.zabbet.expect.Expected.row;

import dev.zabbet.Stage;
import dev.zabbet.files.RowDocument;
import dev.zabbet.junit.EveryStage;
import dev.zabbet.row.Row;
import org.junit.jupiter.api.Test;

/** The desk on base data from a row document; what a test leaves is compared with another. */
@EveryStage(value = "/db/huts.sql", load = "/seeds/huts.yaml", expect = "/seeds/intact.yaml")
class SeededDeskTest {
    @Test
    void cancellingLeavesWhatTheDocumentSays(Stage stage) {
        StayDesk desk = new StayDesk(
                stage.fakeOrReal(StayRepository.class, JdbcStayRepository::new),
                stage.fakeOrReal(GuestRepository.class, JdbcGuestRepository::new),
                stage.fakeOrReal(LedgerRepository.class, JdbcLedgerRepository::new),
                stage.clock());
        Row early =
                stage.store().labelled(stage.schema().require("stay"), "early").orElseThrow();

        stage.act(() -> desk.cancel(early.get("id", Long.class))).expect(RowDocument.read("/seeds/cancel.yaml"));
    }

    @Test
    void everyTestFindsTheBaseData(Stage stage) {
        stage.expect(RowDocument.read("/seeds/huts.yaml"));
        stage.expect("stay").holds(row("price", "120.00"));
    }
}
