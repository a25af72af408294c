package dev.zabbet.examples.huts;

import static dev.zabbet.expect.Expected.row;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import java.math.BigDecimal;
import org.junit.jupiter.api.Test;

/** The desk without any database: the repositories are fakes over rows in memory. */
class StayDeskInMemoryTest {
    @Test
    void cancellingEarlyRefundsInFull() {
        Stage stage = Memory.stage(Schema.of(Guest.class, Stay.class, LedgerEntry.class));
        StayDesk desk = new StayDesk(
                stage.fake(StayRepository.class),
                stage.fake(GuestRepository.class),
                stage.fake(LedgerRepository.class),
                stage.clock());
        Stay stay = stage.add(Factory.forType(Stay.class)
                .with(Stay::status, Status.CONFIRMED)
                .with(Stay::price, new BigDecimal("80.00"))
                .invent(Stay::arrives, values -> values.today().plusDays(10)));

        stage.act(() -> desk.cancel(stay.id()))
                .expect()
                .changed("stay", stay.id(), row("status", "CANCELLED").with("cancelled_at", stage.now()))
                .added("ledger_entry", row("stay_id", stay.id()).with("amount", "-80.00"))
                .nothingElse();
    }
}
