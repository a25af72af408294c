package dev.zabbet.spring;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.spring.huts.Hut;
import dev.zabbet.spring.huts.Stay;
import dev.zabbet.spring.huts.Stays;
import jakarta.persistence.criteria.Root;
import jakarta.persistence.criteria.Subquery;
import java.util.Arrays;
import java.util.List;
import org.springframework.data.domain.KeysetScrollPosition;
import org.springframework.data.domain.Limit;
import org.springframework.data.domain.Page;
import org.springframework.data.domain.PageRequest;
import org.springframework.data.domain.ScrollPosition;
import org.springframework.data.domain.Sort;
import org.springframework.data.domain.Window;
import org.springframework.data.jpa.domain.Specification;

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
        selects(stays, grat);
        partsAndViews(stays, grat);
        conditions(stays, grat);
        assertEquals(
                List.of("Di", "Cy"),
                stays.longerThan(5).stream().map(Stay::getGuest).toList());
        assertEquals(List.of("Eli", "Bo", "Ada"), stays.guestsOfShortStays(6));
        stage.act(() -> assertEquals(1, stays.setStatus(Stay.Status.CANCELLED, see)))
                .expect()
                .changed("stay", 5, row("status", "CANCELLED").with("nights", 6))
                .nothingElse();
        assertEquals(1, stays.hutsInUse());
        stage.act(() -> stays.deleteLong(9)).expect().removed("stay", 3, 4).nothingElse();
    }

    private static void selects(Stays stays, Hut grat) {
        assertEquals(List.of(new Stays.Use("Steingrat", 4, 27)), stays.uses(1));
        assertEquals(
                List.of("Seehaus"),
                stays.hutsWithoutLong(8).stream().map(Hut::getName).toList());
        assertEquals("Di", stays.longestIn("Steingrat").orElseThrow().getGuest());
        assertEquals(
                List.of("Ada 1", "Bo 5", "Cy 99", "Di 99"),
                stays.arrivals(grat).stream()
                        .map(arrival -> arrival.getGuest() + " " + arrival.getNights())
                        .toList());
        assertEquals(
                List.of(List.of("Steingrat", 6.75, "Ada"), List.of("Seehaus", 5.0, "Eli")),
                stays.averages().stream().map(Arrays::asList).toList());
        assertEquals(
                List.of("Bo", "Cy"),
                stays.inSql("Stein").stream().map(Stay::getGuest).toList());
        assertEquals(
                "[[Seehaus, 1, 5], [Steingrat, 4, 27]]",
                stays.usesInSql().stream().map(Arrays::asList).toList().toString());
    }

    private static void partsAndViews(Stays stays, Hut grat) {
        assertEquals(
                List.of(1, 5),
                stays.findByStatusOrderByNights(Stay.Status.BOOKED, Limit.of(2)).stream()
                        .map(Stay::getNights)
                        .toList());
        assertEquals(
                5,
                stays.findByStatusOrderByNights(Stay.Status.BOOKED, Limit.unlimited())
                        .size());
        assertEquals(
                List.of("Eli", "Ada", "Bo"),
                stays.findByNightsLessThanOrderByHut_NameAscGuestAsc(6, Stays.Arrival.class).stream()
                        .map(Stays.Arrival::getGuest)
                        .toList());
        assertEquals(
                5,
                stays.findByNightsLessThanOrderByHut_NameAscGuestAsc(6, Stay.class)
                        .get(0)
                        .getNights());
        for (ScrollPosition start : List.of(ScrollPosition.offset(), ScrollPosition.keyset())) {
            Window<Stay> first = stays.findFirst2ByHutOrderByGuest(grat, start);
            assertEquals(List.of("Ada", "Bo"), first.map(Stay::getGuest).getContent());
            assertTrue(first.hasNext());
            Window<Stay> second = stays.findFirst2ByHutOrderByGuest(grat, first.positionAt(1));
            assertEquals(List.of("Cy", "Di"), second.map(Stay::getGuest).getContent());
            assertFalse(second.hasNext());
        }
        Window<Stay> two = stays.findFirst2ByHutOrderByGuest(grat, ScrollPosition.keyset());
        Window<Stay> last = stays.findFirst2ByHutOrderByGuest(grat, two.positionAt(1));
        Window<Stay> before =
                stays.findFirst2ByHutOrderByGuest(grat, ((KeysetScrollPosition) last.positionAt(1)).backward());
        assertEquals(List.of("Bo", "Cy"), before.map(Stay::getGuest).getContent());
        assertTrue(before.hasNext());
        Window<Stay> first = stays.findFirst2ByHutOrderByGuest(grat, before.positionAt(0));
        assertEquals(List.of("Ada"), first.map(Stay::getGuest).getContent());
        assertFalse(first.hasNext());
    }

    private static void conditions(Stays stays, Hut grat) {
        Specification<Stay> inGrat = (root, query, builder) -> builder.and(
                builder.equal(root.get("hut"), grat), root.get("guest").in("Ada", "Cy", "Di", "Eli"));
        Specification<Stay> lengthy = (root, query, builder) -> builder.or(
                builder.greaterThan(root.get("nights"), 10), builder.like(builder.lower(root.get("guest")), "a%"));
        assertEquals(
                List.of("Di", "Ada"),
                stays.findAll(inGrat.and(lengthy), Sort.by("guest").descending()).stream()
                        .map(Stay::getGuest)
                        .toList());
        assertEquals(2, stays.count(inGrat.and(lengthy)));
        Page<Stay> page = stays.findAll(inGrat, PageRequest.of(1, 2, Sort.by("hut.name", "nights")));
        assertEquals(3, page.getTotalElements());
        assertEquals(List.of("Di"), page.map(Stay::getGuest).getContent());
        Specification<Stay> joined = (root, query, builder) -> {
            query.orderBy(builder.desc(root.get("nights")));
            return builder.equal(root.join("hut").get("name"), "Steingrat");
        };
        assertEquals(12, stays.findAll(joined).get(0).getNights());
        Specification<Stay> longest = (root, query, builder) -> {
            Subquery<Long> longer = query.subquery(Long.class);
            Root<Stay> other = longer.from(Stay.class);
            longer.select(other.get("id"))
                    .where(
                            builder.equal(other.get("hut"), root.get("hut")),
                            builder.gt(other.get("nights"), root.<Integer>get("nights")));
            return builder.not(builder.exists(longer));
        };
        assertEquals(
                List.of("Di", "Eli"),
                stays.findAll(longest, Sort.by("guest")).stream()
                        .map(Stay::getGuest)
                        .toList());
        assertTrue(stays.exists(longest));
        assertEquals(
                List.of("Di"),
                stays.findBy(
                        joined,
                        query ->
                                query
                                        .sortBy(Sort.by("guest").descending())
                                        .limit(1)
                                        .as(Stays.Arrival.class)
                                        .all()
                                        .stream()
                                        .map(Stays.Arrival::getGuest)
                                        .toList()));
    }
}
