package dev.zabbet.spring;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.spring.huts.Hut;
import dev.zabbet.spring.huts.Stay;
import dev.zabbet.spring.huts.Stays;
import java.util.List;
import org.springframework.data.domain.PageRequest;
import org.springframework.data.domain.Sort;

/** What queries give, be they run by a provider or understood by a fake. */
final class Queries {
    private Queries() {}

    static void check(Stage stage, Stays stays) {
        Hut grat = stage.add(Factory.forType(Hut.class).with(Hut::getName, "Steingrat"));
        Hut see = stage.add(Factory.forType(Hut.class).with(Hut::getName, "Seehaus"));
        Factory<Stay> booked = Factory.forType(Stay.class).with(Stay::getStatus, Stay.Status.BOOKED);
        stage.add(
                4,
                booked.with(Stay::getHut, grat)
                        .inTurn(Stay::getGuest, "Ada", "Bo", "Cy", "Di")
                        .inTurn(Stay::getNights, 1, 5, 9, 12));
        stage.add(booked.with(Stay::getHut, see).with(Stay::getGuest, "Eli").with(Stay::getNights, 5));
        assertEquals(
                List.of("Di", "Cy", "Ada"),
                stays.inHutsLike("GRAT", 6, List.of("Ada", "Eli")).stream()
                        .map(Stay::getGuest)
                        .toList());
        assertEquals(2, stays.hutsInUse());
        var guests = stays.guestsOf(grat, PageRequest.of(0, 2, Sort.by("guest")));
        assertEquals(List.of("Ada", "Bo"), guests.getContent());
        assertEquals(3, guests.getTotalElements());
        stage.act(() -> assertEquals(1, stays.setStatus(Stay.Status.CANCELLED, see)))
                .expect()
                .changed("stay", 5, row("status", "CANCELLED").with("nights", 6))
                .nothingElse();
        assertEquals(1, stays.hutsInUse());
        stage.act(() -> stays.deleteLong(9)).expect().removed("stay", 3, 4).nothingElse();
    }
}
