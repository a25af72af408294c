package dev.zabbet.examples.huts;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.SameBehaviour;
import dev.zabbet.Stage;
import dev.zabbet.fake.ComparedCalls;
import dev.zabbet.junit.EveryStage;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
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
        ComparedCalls driven = SameBehaviour.check(type, stage, implementation, CALLS);
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
        assertTrue(report.getMessage().contains("\n     real:  gives Guest(id="), report.getMessage());
    }

    /** A difference that does not come back is shown as it was seen, and so are definitions heeded. */
    @Test
    void whatIsShownIsADifferenceAndTheSameEachTime(Stage stage) {
        assumeTrue(stage.store().dataSource().isPresent(), "in memory there is nothing to compare with");
        List<String> reports = new ArrayList<>();
        for (int run = 0; run < 2; run++) {
            AtomicInteger calls = new AtomicInteger();
            reports.add(assertThrows(
                            AssertionError.class,
                            () -> SameBehaviour.check(
                                    GuestRepository.class, stage, ds -> once(new JdbcGuestRepository(ds), calls), 2000))
                    .getMessage());
        }
        assertEquals(reports.get(0), reports.get(1));
        assertTrue(
                reports.get(0)
                        .contains(
                                "\nThe same calls made again showed no difference: something beside them decides, the time or"
                                        + " what the implementation keeps for itself.\nVariation 0."),
                reports.get(0));
        List<String> sides = reports.get(0)
                .lines()
                .filter(line -> line.matches("     (fake|real): .*"))
                .map(line -> line.substring(11))
                .toList();
        assertEquals(2, sides.size());
        assertNotEquals(sides.get(0), sides.get(1));

        stage.define(GuestRepository::find, (tables, given) -> null);
        assertTrue(assertThrows(
                        AssertionError.class,
                        () -> SameBehaviour.check(GuestRepository.class, stage, JdbcGuestRepository::new, 2000))
                .getMessage()
                .contains("\n     fake:  gives nothing\n     real:  gives Optional of Guest(id="));
    }

    /** A repository that finds nothing once, when it was called often enough. */
    private static GuestRepository once(GuestRepository real, AtomicInteger calls) {
        return new GuestRepository() {
            @Override
            public Guest save(Guest guest) {
                return real.save(guest);
            }

            @Override
            public java.util.Optional<Guest> find(long id) {
                java.util.Optional<Guest> found = real.find(id);
                return found.isPresent() && calls.incrementAndGet() == 9 ? java.util.Optional.empty() : found;
            }
        };
    }
}
