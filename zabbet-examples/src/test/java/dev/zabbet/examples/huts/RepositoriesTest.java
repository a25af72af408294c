package dev.zabbet.examples.huts;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.SameBehaviour;
import dev.zabbet.Stage;
import dev.zabbet.fake.Comparison;
import dev.zabbet.junit.EveryStage;
import java.util.List;
import java.util.function.Function;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;

/** The repositories over JDBC behave as their fakes do, on every database. */
@EveryStage("/db/huts.sql")
class RepositoriesTest {
    private static final int CALLS = Integer.getInteger("zabbet.calls", 200);

    @Test
    void stays(Stage stage) {
        check(stage, StayRepository.class, JdbcStayRepository::new);
    }

    @Test
    void guests(Stage stage) {
        check(stage, GuestRepository.class, JdbcGuestRepository::new);
    }

    @Test
    void ledger(Stage stage) {
        check(stage, LedgerRepository.class, JdbcLedgerRepository::new);
    }

    private static <R> void check(Stage stage, Class<R> type, Function<DataSource, R> implementation) {
        assumeTrue(stage.store().dataSource().isPresent(), "in memory there is nothing to compare with");
        Comparison.Driven driven = SameBehaviour.check(type, stage, implementation, CALLS);
        assertEquals(List.of(), driven.leftOut());
        assertTrue(driven.refused() > CALLS / 50, "too few refusals to prove much: " + driven);
        assertTrue(driven.refused() < CALLS * 3 / 4, "too many refusals to prove much: " + driven);
    }

    /** A repository that forgets a column when it changes a guest. */
    record Forgetful(JdbcGuestRepository real) implements GuestRepository {
        @Override
        public Guest save(Guest guest) {
            return real.save(
                    guest.id() == 0
                            ? guest
                            : new Guest(
                                    guest.id(),
                                    guest.fullName(),
                                    real.find(guest.id()).orElse(guest).email(),
                                    guest.born(),
                                    guest.emergencyContactId(),
                                    guest.passwordHash()));
        }

        @Override
        public java.util.Optional<Guest> find(long id) {
            return real.find(id);
        }
    }

    @Test
    void aWrongRepositoryIsShownByTheFewestCalls(Stage stage) {
        assumeTrue(stage.store().dataSource().isPresent(), "in memory there is nothing to compare with");
        AssertionError report = assertThrows(
                AssertionError.class,
                () -> SameBehaviour.check(
                        GuestRepository.class, stage, ds -> new Forgetful(new JdbcGuestRepository(ds)), 2000));
        assertTrue(report.getMessage().startsWith("Forgetful on "), report.getMessage());
        assertTrue(report.getMessage().contains("\n  1. save(Guest[id="), report.getMessage());
        assertTrue(!report.getMessage().contains("\n  2. "), report.getMessage());
        assertTrue(report.getMessage().contains("\n     fake:  gives Guest(id="), report.getMessage());
    }
}
