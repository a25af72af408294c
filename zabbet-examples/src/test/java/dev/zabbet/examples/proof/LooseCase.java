package dev.zabbet.examples.proof;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;

import dev.zabbet.Acted;
import dev.zabbet.Stage;
import dev.zabbet.examples.huts.Stay;
import dev.zabbet.examples.huts.StayRepository;
import dev.zabbet.junit.EveryStage;
import java.util.List;
import java.util.NoSuchElementException;
import org.junit.jupiter.api.Test;

/** Tests with one loose end each, and some without any. Run by {@link SuiteTest}. */
@EveryStage("/db/huts.sql")
class LooseCase extends Desk {
    @Test
    void act(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
    }

    @Test
    void actThatLeavesNothing(Stage stage) {
        stage.act(() -> stays.findAll());
    }

    @Test
    void expectation(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id())).expect().counts("stay", 0, 1, 0);
        stage.expect("stay").where("status", "CANCELLED");
    }

    @Test
    void calls(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id())).expect().counts("stay", 0, 1, 0);
        stage.rules(stays).calls(StayRepository::save).with(stay);
    }

    @Test
    void rule(Stage stage) {
        stage.rules(stays).on(StayRepository::delete).fails(new IllegalStateException("locked"));
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id())).expect().counts("stay", 0, 1, 0);
    }

    @Test
    void answer(Stage stage) {
        stage.rules(stays).on(StayRepository::findAll).gives(List.of());
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id())).expect().counts("stay", 0, 1, 0);
        assertEquals(List.of(), stays.findAll());
    }

    @Test
    void noneWithTheResult(Stage stage) {
        Stay stay = stage.build(STAYS);
        Acted<Stay> act = stage.act(() -> stays.save(stay));
        act.expect().added("stay", act.value()).nothingElse();
    }

    @Test
    void noneWithAReadResult(Stage stage) {
        assertEquals(List.of(), stage.act(() -> stays.findAll()).value());
    }

    @Test
    void noneWithAFailure(Stage stage) {
        stage.rules(stays).on(StayRepository::save).fails(new IllegalStateException("locked"));
        Stay stay = stage.add(STAYS);
        stage.actFailing(IllegalStateException.class, () -> desk.cancel(stay.id()));
        assertThrows(NoSuchElementException.class, () -> desk.cancel(404));
    }

    @Test
    void noneWithALookAfterwards(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        stage.expect("ledger_entry").where("kind", "REFUND").count(1);
    }
}
