package dev.zabbet.spring;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import dev.zabbet.spring.huts.Hut;
import dev.zabbet.spring.huts.Stay;
import jakarta.data.Limit;
import jakarta.data.Order;
import jakarta.data.Sort;
import jakarta.data.page.Page;
import jakarta.data.page.PageRequest;
import jakarta.data.repository.By;
import jakarta.data.repository.CrudRepository;
import jakarta.data.repository.Find;
import jakarta.data.repository.OrderBy;
import jakarta.data.repository.Query;
import jakarta.data.repository.Repository;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** Fakes of Jakarta Data's repositories. */
class JakartaDataTest {
    @Repository
    interface Bookings extends CrudRepository<Stay, Long> {
        @Find
        @OrderBy("guest")
        List<Stay> in(@By("hut.name") String hut, Limit most);

        @Find
        Optional<Stay> one(String guest, int nights);

        @Find
        Page<Stay> of(Stay.Status status, PageRequest page, Order<Stay> order);

        @Query("where nights > :least order by nights desc")
        List<Stay> longer(int least);

        @Query("select guest from Stay where hut.name = ?1 and nights in (?2, ?3)")
        List<String> guests(String hut, int one, int other);

        @Query("update Stay set nights = nights + 1 where guest = :guest")
        long extend(String guest);

        @Query("delete from Stay where nights >= :most")
        long end(int most);
    }

    interface Unreadable extends CrudRepository<Stay, Long> {
        @Find
        List<Stay> of(String visitor);
    }

    private final Stage stage = Memory.stage(Schema.of(Hut.class, Stay.class));
    private final Bookings bookings = stage.fake(Bookings.class);

    @Test
    void findsAndQueries() {
        Hut grat = stage.add(Factory.forType(Hut.class).with(Hut::getName, "Steingrat"));
        stage.add(
                4,
                Factory.forType(Stay.class)
                        .with(Stay::getHut, grat)
                        .with(Stay::getStatus, Stay.Status.BOOKED)
                        .inTurn(Stay::getGuest, "Cy", "ada", "Di", "Bo")
                        .inTurn(Stay::getNights, 3, 1, 9, 5));
        assertEquals(List.of("Bo", "Cy"), guests(bookings.in("Steingrat", Limit.of(2))));
        assertEquals(9, bookings.one("Di", 9).orElseThrow().getNights());
        assertTrue(bookings.one("Di", 8).isEmpty());
        Page<Stay> second =
                bookings.of(Stay.Status.BOOKED, PageRequest.ofPage(2, 3, true), Order.by(Sort.ascIgnoreCase("guest")));
        assertEquals(List.of("Di"), guests(second.content()));
        assertEquals(4, second.totalElements());
        assertFalse(second.hasNext());
        assertEquals(List.of("Di", "Bo"), guests(bookings.longer(3)));
        assertEquals(List.of("Cy", "Bo"), bookings.guests("Steingrat", 3, 5));
        assertEquals(1, bookings.extend("Bo"));
        assertEquals(2, bookings.end(6));
        Stay late = bookings.insert(new Stay(grat, "Eli", 2));
        assertEquals(List.of("Cy", "ada", "Eli"), guests(bookings.findAll().toList()));
        bookings.delete(late);
        stage.expect(Stay.class).count(2);
    }

    private static List<String> guests(List<Stay> stays) {
        return stays.stream().map(Stay::getGuest).toList();
    }

    @Test
    void whatIsNotUnderstoodIsRefused() {
        assertEquals(
                "A fake of Unreadable cannot be made: 1 method is not understood.\n"
                        + "  of(String): its parameter 'visitor' is no property of Stay (compile with -parameters, or name it by"
                        + " @By)\n"
                        + "Define it before: stage.define(Unreadable::of, (tables, given) -> …). docs/swapping.md lists the"
                        + " names that are understood.",
                assertThrows(ZabbetException.class, () -> stage.fake(Unreadable.class))
                        .getMessage());
    }
}
