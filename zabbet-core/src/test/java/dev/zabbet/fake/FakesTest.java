package dev.zabbet.fake;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertArrayEquals;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.ConstraintException;
import java.math.BigDecimal;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDate;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** What fakes understand, method by method, and what they say of the rest. */
class FakesTest {
    enum Status {
        REQUESTED,
        CONFIRMED,
        DONE
    }

    record Hut(long id, String name, boolean open) {}

    record Stay(
            long id,
            long hutId,
            int nights,
            Status status,
            BigDecimal price,
            LocalDate arrives,
            @Nullable String note) {}

    record Nights(long id, int nights) {}

    record Part(int page, int size, @Nullable Sorting sort) {}

    record Sorting(String property, boolean descending) {}

    record Found<T>(List<T> items, long total, int page, boolean hasMore) {}

    interface Basics<T, K> {
        T save(T one);

        List<T> saveAll(Iterable<? extends T> many);

        Optional<T> findById(K id);

        List<T> findAllById(Iterable<K> ids);

        boolean existsById(K id);

        long count();

        void deleteById(K id);

        void deleteAll(Iterable<? extends T> many);

        default T require(K id) {
            return findById(id).orElseThrow();
        }
    }

    interface Stays extends Basics<Stay, Long> {
        List<Stay> findByStatusAndNightsGreaterThanEqual(Status status, int nights);

        List<Stay> findByStatusOrNightsLessThanOrderByNightsDescIdAsc(Status status, int nights);

        Stream<Stay> streamByStatusIn(Collection<Status> statuses);

        Set<Stay> findByStatusNotIn(Set<Status> statuses);

        Stay[] findByNoteIsNull();

        Iterable<Stay> findByNoteContainingIgnoreCase(String part);

        List<Stay> findByNoteStartingWith(String start);

        List<Stay> findByNoteLike(String pattern);

        List<Stay> findByArrivesBetween(LocalDate from, LocalDate to);

        Optional<Stay> findFirstByOrderByPriceDesc();

        List<Stay> findTop2ByStatusOrderByNights(Status status);

        List<Integer> findDistinctNightsByStatus(Status status);

        Optional<BigDecimal> findPriceById(long id);

        List<Nights> findByHutId(long hutId);

        CompletableFuture<List<Stay>> findByPriceAbove(BigDecimal price);

        Found<Stay> findByStatus(Status status, Part part);

        List<Stay> findByStatusOrderByNightsDesc(Status status, int limit, int offset);

        List<Stay> findByHutIdOrderByNights(long hutId, int page, int size);

        List<Stay> findByNights(int nights, String sort);

        Found<Stay> findAll(Part part);

        Map<Long, Stay> findByNightsNot(int nights);

        int countByStatus(Status status);

        int deleteByStatus(Status status);

        boolean updateStatus(long id, Status status);

        int updateNightsAndNoteByStatus(int nights, @Nullable String note, Status status);

        long insert(Stay stay) throws SQLException;
    }

    interface Huts {
        List<Hut> findByOpenTrue();

        @Nullable
        Hut get(long id);

        void remove(Hut hut);
    }

    private final Stage stage = Memory.stage(Schema.of(Hut.class, Stay.class));
    private final Stays repository = stage.fake(Stays.class);
    private final Hut hut = stage.add(Factory.forType(Hut.class).with(Hut::open, true));
    private final List<Stay> stays = stage.add(
            5,
            Factory.forType(Stay.class)
                    .ref(Stay::hutId, hut)
                    .inTurn(Stay::nights, 1, 2, 3, 4, 5)
                    .inTurn(Stay::status, Status.REQUESTED, Status.CONFIRMED)
                    .inTurn(Stay::note, "Quiet room", null, "late_arrival", "LATE arrival", null)
                    .invent(Stay::price, values -> new BigDecimal(10 * values.ordinal()))
                    .invent(Stay::arrives, values -> values.today().plusDays(values.ordinal())));

    private static List<Integer> nights(Iterable<Stay> found) {
        java.util.ArrayList<Integer> nights = new java.util.ArrayList<>();
        found.forEach(stay -> nights.add(stay.nights()));
        return nights;
    }

    @Test
    void conditionsAreReadFromNames() {
        assertEquals(List.of(3, 5), nights(repository.findByStatusAndNightsGreaterThanEqual(Status.REQUESTED, 3)));
        assertEquals(
                List.of(4, 2, 1),
                nights(repository.findByStatusOrNightsLessThanOrderByNightsDescIdAsc(Status.CONFIRMED, 2)));
        assertEquals(
                2,
                repository
                        .streamByStatusIn(List.of(Status.CONFIRMED, Status.DONE))
                        .count());
        assertEquals(List.of(2, 4), nights(repository.findByStatusNotIn(Set.of(Status.REQUESTED))));
        assertArrayEquals(new Stay[] {stays.get(1), stays.get(4)}, repository.findByNoteIsNull());
        assertEquals(List.of(3, 4), nights(repository.findByNoteContainingIgnoreCase("late")));
        assertEquals(List.of(), nights(repository.findByNoteContainingIgnoreCase("%")), "a sign, no wildcard");
        assertEquals(List.of(3), nights(repository.findByNoteStartingWith("late_")));
        assertEquals(List.of(1), nights(repository.findByNoteLike("Q%m")));
        LocalDate first = stays.get(0).arrives();
        assertEquals(List.of(1, 2, 3), nights(repository.findByArrivesBetween(first, first.plusDays(2))));
        assertEquals(2, repository.countByStatus(Status.CONFIRMED));
        assertEquals(Set.of(1L, 2L, 3L, 5L), repository.findByNightsNot(4).keySet());
    }

    @Test
    void resultsTakeTheFormThatTheSignatureSays() {
        assertEquals(5, repository.findFirstByOrderByPriceDesc().orElseThrow().nights());
        assertEquals(List.of(1, 3), nights(repository.findTop2ByStatusOrderByNights(Status.REQUESTED)));
        repository.save(again(stays.get(0), 3));
        assertEquals(List.of(3, 5), repository.findDistinctNightsByStatus(Status.REQUESTED));
        assertEquals(
                Optional.of(stays.get(2).price()),
                repository.findPriceById(stays.get(2).id()));
        assertEquals(Optional.empty(), repository.findPriceById(99));
        assertEquals(new Nights(2, 2), repository.findByHutId(hut.id()).get(1));
        assertEquals(
                List.of(4, 5),
                nights(repository.findByPriceAbove(new BigDecimal("30")).join()));
        assertEquals(
                new Found<>(List.of(stays.get(0)), 3, 1, false).total(),
                repository.findByStatus(Status.REQUESTED, new Part(1, 2, null)).total());
        assertEquals(List.of(3, 3), nights(repository.findByStatusOrderByNightsDesc(Status.REQUESTED, 2, 1)));
        assertEquals(List.of(), repository.findByStatusOrderByNightsDesc(Status.REQUESTED, 2, 9));
        assertEquals(List.of(3, 4), nights(repository.findByHutIdOrderByNights(hut.id(), 1, 2)));
        assertEquals(2, repository.findByNights(3, "price").size());
        assertEquals(
                "findByStatusOrderByNightsDesc(Status, int, int): offset is -1; it must be at least 0.",
                assertThrows(
                                ZabbetException.class,
                                () -> repository.findByStatusOrderByNightsDesc(Status.REQUESTED, 2, -1))
                        .getMessage());
        Found<Stay> page = repository.findAll(new Part(1, 2, new Sorting("price", true)));
        assertEquals(
                List.of(3, 2),
                nights(page.items()).stream().map(n -> n == 3 ? n : 2).toList());
        assertTrue(page.hasMore());
        assertEquals(5, page.total());
        assertEquals(
                "There is no property of Stay to order by named 'prise'. Did you mean 'price'? Known: id, hutId,"
                        + " nights, status, price, arrives, note.",
                assertThrows(
                                ZabbetException.class,
                                () -> repository.findAll(new Part(0, 2, new Sorting("prise", false))))
                        .getMessage());
    }

    private static Stay again(Stay stay, int nights) {
        return new Stay(stay.id(), stay.hutId(), nights, stay.status(), stay.price(), stay.arrives(), stay.note());
    }

    private static Stay fresh(Stay stay) {
        return new Stay(0, stay.hutId(), stay.nights(), stay.status(), stay.price(), stay.arrives(), stay.note());
    }

    @Test
    void changesTakeTheFormThatTheSignatureSays() throws SQLException {
        long key = repository.insert(fresh(stays.get(0)));
        assertEquals(6, key);
        assertEquals(6, repository.count());
        assertEquals(
                List.of(7L, 8L),
                repository.saveAll(List.of(fresh(stays.get(1)), fresh(stays.get(2)))).stream()
                        .map(Stay::id)
                        .toList());
        assertTrue(repository.updateStatus(key, Status.DONE));
        assertFalse(repository.updateStatus(99, Status.DONE));
        assertEquals(1, repository.updateNightsAndNoteByStatus(9, "changed", Status.DONE));
        stage.expect("stay")
                .where("status", "DONE")
                .holdsOnly(row("id", key).with("nights", 9).with("note", "changed"));
        repository.deleteById(key);
        assertEquals(4, repository.deleteByStatus(Status.REQUESTED));
        repository.deleteAll(repository.findAllById(List.of(2L, 4L)));
        assertFalse(repository.existsById(2L));
        assertEquals(7, repository.require(7L).id());
        assertEquals(1, repository.count());
    }

    @Test
    void aRefusedRowIsThrownAsTheMethodDeclares() {
        Stay homeless = new Stay(0, 99, 1, Status.DONE, BigDecimal.ONE, LocalDate.of(2031, 7, 1), null);
        assertThrows(ConstraintException.class, () -> repository.save(homeless));
        SQLException declared = assertThrows(SQLException.class, () -> repository.insert(homeless));
        assertEquals("23503", declared.getSQLState());
        Stays translating = stage.fake(Stays.class, refusal -> new IllegalStateException(refusal));
        assertThrows(IllegalStateException.class, () -> translating.save(homeless));
        ZabbetException unknown = assertThrows(
                ZabbetException.class,
                () -> repository.save(
                        again(new Stay(77, 1, 1, Status.DONE, BigDecimal.ONE, LocalDate.of(2031, 7, 1), null), 2)));
        assertTrue(
                unknown.getMessage().startsWith("save(Stay): there is no stay with the key of (id=77"),
                unknown.getMessage());
        assertThrows(IllegalStateException.class, () -> translating.saveAll(List.of(fresh(stays.get(0)), homeless)));
        assertEquals(5, repository.count(), "all of many, or none");
    }

    interface Odd {
        Stay save(Stay stay);

        List<Stay> findByNigths(int nights);

        List<Stay> findByNights(int nights, int more);

        List<Stay> findCancelled();

        List<Stay> findOverbooked(long hutId, LocalDate night);

        void juggle(Stay stay);

        String findByNights(int nights);

        void deleteStays();
    }

    @Test
    void whatIsNotUnderstoodIsSaidAtOnceAndCanBeDefined() {
        assertEquals(
                """
                A fake of Odd cannot be made: 7 methods are not understood.
                  deleteStays(): it deletes without saying what; deleteAll() would delete all rows
                  findByNights(int, int): its name takes 1 argument and it has 2 parameters: its parameter 'more' is no property of Stay; its properties are id, hutId, nights, status, price, arrives, note
                  findByNights(int): it returns String, and its name does not name a property of Stay
                  findByNigths(int): 'Nigths' is no property of Stay; its properties are id, hutId, nights, status, price, arrives, note
                  findCancelled(): 'Cancelled' is neither Stay nor one of its properties (id, hutId, nights, status, price, arrives, note)
                  findOverbooked(long, LocalDate): its parameter 'night' is no property of Stay; its properties are id, hutId, nights, status, price, arrives, note
                  juggle(Stay): no meaning is known for a name that begins with 'juggle'
                Define them before: stage.define(Odd::deleteStays, (tables, given) -> …). docs/swapping.md lists the names that are understood.""",
                lines(assertThrows(ZabbetException.class, () -> stage.fake(Odd.class))
                        .getMessage()));

        Stage other = Memory.stage(Schema.of(Hut.class, Stay.class));
        other.<Mixed, Long, LocalDate>define(Mixed::findOverbooked, (tables, given) -> tables.rows("stay").stream()
                .filter(r -> r.get("hut_id").equals(given.get(0)))
                .toList());
        other.<Mixed, Stay>define(Mixed::juggle, (tables, given) -> {
            tables.update("stay", given.get(0, Stay.class).id(), row("nights", 14));
            return null;
        });
        Mixed mixed = other.fake(Mixed.class);
        Stay stay = other.add(Factory.forType(Stay.class).with(Stay::nights, 2));
        mixed.juggle(stay);
        assertEquals(List.of(14), nights(mixed.findOverbooked(stay.hutId(), stay.arrives())));
    }

    /** The order of overloads is not told by reflection. */
    private static String lines(String text) {
        List<String> lines = new java.util.ArrayList<>(List.of(text.split("\n")));
        int one =
                lines.indexOf("  findByNights(int): it returns String, and its name does not name a property of Stay");
        if (one == 2) {
            java.util.Collections.swap(lines, 2, 3);
        }
        return String.join("\n", lines);
    }

    interface Mixed {
        List<Stay> findOverbooked(long hutId, LocalDate night);

        void juggle(Stay stay);
    }

    abstract static class NoInterface {
        abstract Stay save(Stay stay);
    }

    @Test
    void aClassIsRefusedWithTheReason() {
        assertEquals(
                "A fake can be made of an interface, and dev.zabbet.fake.FakesTest$NoInterface is an abstract class,"
                        + " whose own code would run. Take out an interface of the methods that the application calls.",
                assertThrows(ZabbetException.class, () -> stage.fake(NoInterface.class))
                        .getMessage());
    }

    static class Guest {
        @Nullable
        Long id;

        String name = "";
        int visits;
    }

    interface Work extends AutoCloseable {
        void begin();

        void add(Object object);

        void remove(Object object);

        <T> Optional<T> find(Class<T> type, Object key);

        <T> List<T> all(Class<T> type);

        void flush();

        void commit();

        void rollback();

        @Override
        void close();
    }

    private static Guest guest(String name) {
        Guest guest = new Guest();
        guest.name = name;
        return guest;
    }

    @Test
    void aUnitOfWorkWritesAtItsEnd() throws Exception {
        Stage guests = Memory.stage(Schema.of(Guest.class));
        Work work = guests.fake(Work.class);

        Guest ida = guest("Ida");
        guests.act(() -> {
                    work.begin();
                    work.add(ida);
                    assertEquals(null, ida.id, "the key appears at the flush");
                    work.flush();
                    assertEquals(1L, ida.id);
                    assertEquals(0, guests.fake(GuestRepository.class).countInOtherThread(), "not visible elsewhere");
                    work.commit();
                })
                .expect()
                .added("guest", row("name", "Ida"))
                .nothingElse();

        guests.act(() -> {
                    Guest read = work.find(Guest.class, 1L).orElseThrow();
                    read.visits++;
                    work.add(guest("Bo"));
                    work.commit();
                })
                .expect()
                .changed("guest", 1L, row("visits", 1))
                .added("guest", row("name", "Bo"))
                .nothingElse();

        guests.act(() -> {
                    work.find(Guest.class, 1L).orElseThrow().visits = 40;
                    work.add(guest("Never"));
                    work.remove(ida);
                    work.rollback();
                })
                .expect()
                .unchanged();
        guests.act(() -> {
                    work.remove(ida);
                    work.commit();
                })
                .expect()
                .removed("guest", 1L)
                .nothingElse();
        assertEquals(1, work.all(Guest.class).size());
        work.close();
    }

    record Note(long id, String text, @Nullable Instant deletedAt) {}

    interface Notes {
        List<Note> findByDeletedAtIsNull();

        boolean softDelete(long id);

        int restoreByText(String text);
    }

    @Test
    void aSoftDeletionIsAColumn() {
        Stage notes = Memory.stage(Schema.of(Note.class));
        Notes repository = notes.fake(Notes.class);
        notes.add(2, Factory.forType(Note.class).inTurn(Note::text, "a", "b"));
        assertTrue(repository.softDelete(1));
        assertFalse(repository.softDelete(1), "deleted already");
        assertFalse(repository.softDelete(9));
        notes.expect("note").softDeleted(1);
        assertEquals(1, repository.findByDeletedAtIsNull().size());
        assertEquals(1, repository.restoreByText("a"));
        assertEquals(2, repository.findByDeletedAtIsNull().size());
        notes.expect("note").where("id", 1).holds(row("deleted_at", null));
    }

    interface GuestRepository {
        Guest save(Guest guest);

        long count();

        @Nullable
        Guest findById(long id);

        default long countInOtherThread() {
            return CompletableFuture.supplyAsync(this::count).join();
        }
    }

    @Test
    void aForgottenSaveIsNoticed() {
        Stage guests = Memory.stage(Schema.of(Guest.class));
        GuestRepository repository = guests.fake(GuestRepository.class);
        Guest ida = guest("Ida");
        assertEquals(ida, repository.save(ida));
        assertEquals(1L, ida.id);
        ida.name = "Changed, never saved";
        assertEquals("Ida", java.util.Objects.requireNonNull(repository.findById(1)).name);
    }
}
