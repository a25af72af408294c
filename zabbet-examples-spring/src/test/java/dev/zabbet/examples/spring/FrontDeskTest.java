package dev.zabbet.examples.spring;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertThrows;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import org.junit.jupiter.api.Test;
import org.springframework.orm.jpa.JpaObjectRetrievalFailureException;

/** A service with fakes of its repositories: no database, no context, milliseconds. */
class FrontDeskTest {
    private final Stage stage = Memory.stage(Schema.of(Hut.class, Stay.class, Refund.class));
    private final FrontDesk desk =
            new FrontDesk(stage.fake(Huts.class), stage.fake(Stays.class), stage.fake(Refunds.class));

    @Test
    void aCancelledStayIsPaidBack() {
        Stay stay = stage.add(Factory.forType(Stay.class).with(Stay::getStatus, Stay.Status.BOOKED));
        stage.act(() -> desk.cancel(stay.getId()))
                .expect()
                .changed("stay", stay.getId(), row("status", "CANCELLED").with("version", stay.getVersion() + 1))
                .added("refund", row("amount", stay.getPrice()))
                .nothingElse();
    }

    @Test
    void aHutThatIsNotThere() {
        assertThrows(JpaObjectRetrievalFailureException.class, () -> desk.book(7, "Ida Holm", 2));
    }
}
