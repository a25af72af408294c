package dev.zabbet.spring;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.Staged;
import dev.zabbet.spring.huts.FrontDesk;
import dev.zabbet.spring.huts.HutsApplication;
import dev.zabbet.spring.huts.Stay;
import dev.zabbet.spring.huts.Stays;
import org.junit.jupiter.api.Nested;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.Test;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.boot.test.context.SpringBootTest;
import org.springframework.dao.DataIntegrityViolationException;
import org.springframework.test.context.transaction.TestTransaction;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** One annotation on a Spring Boot test: with and without the test's own transaction. */
@Staged
@SpringBootTest(classes = HutsApplication.class)
class SpringBootStageTest {
    @Autowired
    FrontDesk desk;

    @Autowired
    Stays stays;

    @Autowired
    Stage injected;

    @RepeatedTest(2)
    void committedAndTakenBack(Stage stage) {
        assertEquals(stage, injected);
        stage.expect("stay").count(0);
        stage.expect("hut").holdsOnly(row("name", "Edelgrat"));
        Stay booked = stage.act(() -> desk.book(1, "Ida Holm", 2)).value();
        stage.act(() -> desk.cancelAndTell(booked.getId()))
                .expect()
                .changed("stay", booked.getId(), row("status", "CANCELLED").with("version", 1))
                .added("letter", row("text", "Stay " + booked.getId() + " is cancelled."))
                .nothingElse();
        assertEquals(1, booked.getId());
    }

    @RepeatedTest(2)
    @Transactional
    void insideTheTestsTransaction(Stage stage) {
        var stay = stage.add(Factory.forTable("stay")
                .with("nights", 3)
                .with("status", "BOOKED")
                .with("version", 0));
        long id = (Long) stay.get("id");
        assertEquals(1, id);
        stage.act(() -> desk.cancel(id))
                .expect()
                .changed("stay", id, row("status", "CANCELLED").with("version", 1))
                .nothingElse();
        assertEquals(1, stays.count());
        stage.act(() -> desk.book(1, "Ida Holm", 2))
                .expect()
                .added("stay", row("guest", "Ida Holm").with("nights", 2))
                .nothingElse();
        stage.actFailing(DataIntegrityViolationException.class, () -> desk.book(1, "Ida Holm", 15))
                .expect()
                .unchanged();
    }

    @Test
    @Transactional
    void anotherTransactionInsideIsSeenAndTakenBack(Stage stage) {
        var stay = stage.add(Factory.forTable("stay").with("status", "BOOKED").with("version", 7));
        stage.act(() -> desk.cancelAndTell((Long) stay.get("id")))
                .expect()
                .changed("stay", stay.get("id"), row("status", "CANCELLED").with("version", 8))
                .added("letter", row("text", "Stay " + stay.get("id") + " is cancelled."))
                .nothingElse();
    }

    @RepeatedTest(2)
    void nothingIsLeftOfThat(Stage stage) {
        stage.expect("letter").count(0);
        stage.expect("stay").count(0);
    }

    @Test
    @Transactional
    void aRewindInsideMakesTheProviderForget(Stage stage) {
        var stay = stage.add(Factory.forTable("stay").with("status", "BOOKED").with("nights", 2));
        long id = (Long) stay.get("id");
        var point = stage.mark();
        desk.cancel(id);
        stage.expect("stay").holdsOnly(row("status", "CANCELLED"));
        stage.rewind(point);
        assertEquals(Stay.Status.BOOKED, stays.findById(id).orElseThrow().getStatus());
        stage.expect("stay").holdsOnly(row("status", "BOOKED"));
    }

    @Test
    @Transactional
    void queriesGiveWhatFakesGive(Stage stage) {
        Queries.check(stage, stays);
    }

    @RepeatedTest(2)
    @Transactional
    void committedOnTheWay(Stage stage) {
        stage.expect("stay").count(0);
        stage.add(2, "stay");
        TestTransaction.flagForCommit();
        TestTransaction.end();
        stage.expect("stay").count(2);
        stage.act(() -> desk.book(1, "Ida Holm", 2))
                .expect()
                .added("stay", row("nights", 2))
                .nothingElse();
        TestTransaction.start();
        stage.expect("stay").count(3);
    }

    @Nested
    @Transactional(propagation = Propagation.NOT_SUPPORTED)
    class WithoutATransaction {
        @RepeatedTest(2)
        void commits(Stage stage) {
            assertEquals(stage, injected);
            stage.act(() -> desk.book(1, "Ida Holm", 2))
                    .expect()
                    .added("stay", row("nights", 2))
                    .nothingElse();
        }
    }
}
