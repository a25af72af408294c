package dev.zabbet.spring;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertSame;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import dev.zabbet.spring.huts.FrontDesk;
import dev.zabbet.spring.huts.Hut;
import dev.zabbet.spring.huts.Huts;
import dev.zabbet.spring.huts.Stay;
import dev.zabbet.spring.huts.Stays;
import dev.zabbet.spring.mapped.Mapped;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import java.util.List;
import java.util.stream.Collectors;
import org.hibernate.annotations.SQLRestriction;
import org.junit.jupiter.api.Test;
import org.springframework.dao.DataIntegrityViolationException;
import org.springframework.dao.OptimisticLockingFailureException;
import org.springframework.data.domain.Example;
import org.springframework.data.domain.ExampleMatcher;
import org.springframework.data.domain.Page;
import org.springframework.data.domain.PageRequest;
import org.springframework.data.domain.Sort;
import org.springframework.data.jpa.repository.JpaRepository;
import org.springframework.data.jpa.repository.Query;
import org.springframework.orm.jpa.JpaObjectRetrievalFailureException;

/** Fakes of Spring Data's repositories: a service's tests without a context. */
class FakesTest {
    private final Stage stage = Memory.stage(Schema.of(Hut.class, Stay.class));
    private final Huts huts = stage.fake(Huts.class);
    private final Stays stays = stage.fake(Stays.class);
    private final FrontDesk desk = new FrontDesk(huts, stays, null);
    private final Factory<Stay> booked =
            Factory.forType(Stay.class).with(Stay::getNights, 2).with(Stay::getStatus, Stay.Status.BOOKED);

    @Test
    void aServiceWorks() {
        Hut edelgrat = stage.add(Factory.forType(Hut.class).with(Hut::getName, "Edelgrat"));
        Stay stay = stage.act(() -> desk.book(edelgrat.getId(), "Ida Holm", 3)).value();
        stage.act(() -> desk.cancel(stay.getId()))
                .expect()
                .changed("stay", stay.getId(), row("status", "CANCELLED").with("version", 1)) // and nobody called save
                .nothingElse();
        assertEquals(
                "Edelgrat", stays.findById(stay.getId()).orElseThrow().getHut().getName());
        assertEquals(1, stays.countByHut_Name("Edelgrat"));
        assertThrows(JpaObjectRetrievalFailureException.class, () -> huts.getReferenceById(99L));
    }

    /** As its transaction would roll back; what it saved by a call is another matter. */
    @Test
    void whatAFailedActChangedIsForgotten() {
        Stay stay = stage.add(booked);
        stage.actFailing(IllegalStateException.class, () -> desk.cancelAndFail(stay.getId()))
                .expect()
                .unchanged();
        stage.expect(Stay.class).holdsOnly(row("status", "BOOKED"));
    }

    @Test
    void relationsAreObjects() {
        Hut edelgrat = stage.add(Factory.forType(Hut.class)
                .with(Hut::getName, "Edelgrat")
                .with(Hut::getBeds, 12)
                .children(2, booked.inTurn(Stay::getGuest, "Ida", "Jon")));
        assertEquals(
                List.of("Ida", "Jon"),
                edelgrat.getStays().stream().map(Stay::getGuest).toList());
        assertSame(edelgrat, edelgrat.getStays().get(0).getHut());
        Stay third = stage.add(booked.with(Stay::getHut, edelgrat).with(Stay::getGuest, "Kaja"));
        assertSame(edelgrat, third.getHut());
        Stay elsewhere = stage.add(booked);
        assertTrue(elsewhere.getHut().getName() != null, "a parent that came along is a whole object");
        assertEquals(3, stays.findByHut_NameAndNightsGreaterThan("Edelgrat", 1).size());
        assertEquals(
                List.of("Kaja", "Jon", "Ida"),
                stays.findByHutBedsLessThanOrderByGuestDesc(13).stream()
                        .filter(stay -> stay.getHut().getId().equals(edelgrat.getId()))
                        .map(Stay::getGuest)
                        .toList());
        stage.expect(Stay.class).where("hut_id", edelgrat.getId()).holds(third);
    }

    @Test
    void pagesExamplesAndViews() {
        Hut hut = stage.add(Factory.forType(Hut.class));
        stage.add(5, booked.with(Stay::getHut, hut).inTurn(Stay::getGuest, "Ada", "Bo", "Cy", "Di", "Eli"));
        Page<Stay> page =
                stays.findByHut(hut, PageRequest.of(1, 2, Sort.by("guest").descending()));
        assertEquals(List.of("Cy", "Bo"), page.map(Stay::getGuest).getContent());
        assertEquals(5, page.getTotalElements());
        assertTrue(stays.findByNights(2, PageRequest.of(0, 3)).hasNext());
        assertFalse(stays.findByNights(2, PageRequest.of(1, 3)).hasNext());
        assertEquals("Ada", stays.findAll(Sort.by("guest")).get(0).getGuest());
        assertEquals(2, stays.findByStatus(Stay.Status.BOOKED).get(0).getNights());
        Example<Stay> like = Example.of(
                new Stay(hut, "d", 2),
                ExampleMatcher.matching()
                        .withIgnorePaths("hut.stays")
                        .withIgnoreCase()
                        .withStringMatcher(ExampleMatcher.StringMatcher.CONTAINING));
        assertEquals(
                List.of("Ada", "Di"),
                stays.findAll(like, Sort.by("guest")).stream()
                        .map(Stay::getGuest)
                        .toList());
        assertEquals(2, stays.count(like));
        stays.deleteAllByIdInBatch(stays.findAll(like).stream().map(Stay::getId).toList());
        assertEquals(3, stays.count());
        stays.deleteAllInBatch();
        stage.expect(Stay.class).count(0);
    }

    @Test
    void refusalsAreThrownAsSpringTranslatesThem() {
        Stay stay = stage.add(booked);
        Stay early = stays.findById(stay.getId()).orElseThrow();
        Stay late = stays.findById(stay.getId()).orElseThrow();
        early.cancel();
        stays.save(early);
        late.cancel();
        assertThrows(OptimisticLockingFailureException.class, () -> stays.saveAndFlush(late));
        Stay unbooked = stage.build(booked);
        assertEquals(null, unbooked.getId());
        assertEquals(stays.save(unbooked).getId(), unbooked.getId());
        assertThrows(
                DataIntegrityViolationException.class,
                () -> huts.deleteById(stay.getHut().getId()));
        stage.expect(Stay.class).where("id", stay.getId()).holdsOnly(row("status", "CANCELLED"));
    }

    @Test
    void theApplicationsOwnCodeStores() {
        Hut hut = stage.add(Factory.forType(Hut.class));
        List<Stay> booked = stage.add(
                3,
                this.booked
                        .with(Stay::getHut, hut)
                        .inTurn(Stay::getNights, 1, 2, 3)
                        .through(stay -> desk.book(stay.getHut().getId(), stay.getGuest(), stay.getNights())));
        assertEquals(List.of(1, 2, 3), booked.stream().map(Stay::getNights).toList());
        assertEquals(1, stage.add(this.booked.through(stays::save)).getVersion() + 1);
        ZabbetException refused = assertThrows(
                ZabbetException.class,
                () -> stage.add(
                        2,
                        this.booked
                                .with(Stay::getHut, hut)
                                .with(Stay::getGuest, "Ida")
                                .through(stay -> {
                                    throw new IllegalStateException("the hut is full");
                                })));
        assertEquals(
                "The application's code did not store object 1 of 2, Stay {hutId=" + hut.getId()
                        + ", guest=Ida, nights=2, status=BOOKED}.\nIt threw java.lang.IllegalStateException: the hut is full",
                refused.getMessage());
    }

    /** The same is asked of the provider itself, in a test with a database below. */
    @Test
    void queriesAreUnderstood() {
        Queries.check(stage, stays);
    }

    interface Unreadable extends JpaRepository<Stay, Long> {
        @Query("select h from Stay s join s.hut h where treat(h as Hut).beds > 3 and s.guest is not null")
        List<Hut> othersToo();
    }

    @Test
    void otherQueriesAreRefused() {
        assertEquals(
                "A fake of Unreadable cannot be made: 1 method is not understood.\n"
                        + "  othersToo(): it runs the query of @Query 'select h from Stay s join s.hut h where treat(h as Hut).beds"
                        + "… (28 more characters)', and it cannot be parsed\n"
                        + "Define it before: stage.define(Unreadable::othersToo, (tables, given) -> …). docs/swapping.md lists"
                        + " the names that are understood.",
                assertThrows(ZabbetException.class, () -> stage.fake(Unreadable.class))
                        .getMessage());
    }

    interface Workers extends JpaRepository<Mapped.Worker, Long> {
        List<Mapped.Worker> findByNameStartingWithOrderByName(String name);
    }

    interface Cooks extends JpaRepository<Mapped.Cook, Long> {}

    /** The table has the columns of all of them, and one that tells them apart. */
    @Test
    void subclassesShareATable() {
        Stage memory =
                Memory.stage(Schema.of(Mapped.Worker.class, Mapped.Warden.class, Mapped.Cook.class, Mapped.Hut.class));
        Workers workers = memory.fake(Workers.class);
        Mapped.Warden warden = memory.build(Factory.forType(Mapped.Warden.class).with("name", "Ida Holm"));
        workers.save(warden);
        Mapped.Cook cook = memory.add(Factory.forType(Mapped.Cook.class).with("name", "Ida Fink"));
        assertEquals(
                List.of(Mapped.Cook.class, Mapped.Warden.class),
                workers.findByNameStartingWithOrderByName("Ida").stream()
                        .map(Object::getClass)
                        .toList());
        assertEquals(1, memory.fake(Cooks.class).count());
        memory.expect(memory.schema().tableNames().get(0)) // a provider that another test had may have named it
                .holdsOnly(
                        row("kind", "W").with("since", warden.since).with("speciality", null),
                        row("kind", "C").with("since", null).with("speciality", cook.speciality));
    }

    /** Left to the database, null is greater than all else, as on PostgreSQL. */
    @Test
    void nullsComeWhereTheSortSays() {
        Stage memory =
                Memory.stage(Schema.of(Mapped.Cook.class)); // whose class does not say that it needs a speciality
        assertTrue(memory.build(Factory.forType(Mapped.Cook.class)).speciality != null, "filled all the same");
        Cooks cooks = memory.fake(Cooks.class);
        memory.add(3, Factory.forType(Mapped.Cook.class).inTurn("speciality", "soup", null, "bread"));
        Sort.Order rising = Sort.Order.asc("speciality");
        assertEquals(
                List.of(
                        "bread, soup, null",
                        "null, bread, soup",
                        "bread, soup, null",
                        "null, soup, bread",
                        "soup, bread, null"),
                List.of(
                                rising,
                                rising.nullsFirst(),
                                rising.nullsLast(),
                                Sort.Order.desc("speciality"),
                                Sort.Order.desc("speciality").nullsLast())
                        .stream()
                        .map(by -> cooks.findAll(Sort.by(by)).stream()
                                .map(cook -> String.valueOf(cook.speciality))
                                .collect(Collectors.joining(", ")))
                        .toList());
    }

    @Entity
    @SQLRestriction("beds > (select avg(beds) from hut)")
    static class Large {
        @Id
        Long id;

        int beds;
    }

    interface Larges extends JpaRepository<Large, Long> {}

    @Test
    void otherRestrictionsAreRefused() {
        Stage memory = Memory.stage(Schema.of(Large.class));
        assertEquals(
                "The restriction of Large, \"beds > (select avg(beds) from hut)\", is more than fakes understand. Have this test"
                        + " run on a database, where the provider does it.",
                assertThrows(ZabbetException.class, () -> memory.fake(Larges.class))
                        .getMessage());
    }

    /** In at most 2 ms each on the machine that this was written on; a count that does not depend on it is not at hand. */
    @Test
    void aThousandServiceTests() {
        long begun = System.nanoTime();
        for (int test = 0; test < 1_000; test++) {
            Stage own = Memory.stage(stage.schema());
            FrontDesk service = new FrontDesk(own.fake(Huts.class), own.fake(Stays.class), null);
            Hut hut = own.add(Factory.forType(Hut.class));
            service.book(hut.getId(), "Ida Holm", 2);
            own.expect(Stay.class).holdsOnly(row("nights", 2));
        }
        System.out.println("1,000 service tests: " + (System.nanoTime() - begun) / 1_000_000 + " ms");
    }
}
