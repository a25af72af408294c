package dev.zabbet;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.RewindPoint;
import java.io.IOException;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;

class MemoryStageTest {
    enum Rank {
        PLAIN,
        FINE
    }

    record Hut(long id, String name, Rank rank, Optional<LocalDate> closedOn) {}

    record Stay(Long id, long hutId, int nights, BigDecimal price) {}

    interface StayRepository {
        Stay save(Stay stay) throws IOException;

        Optional<Stay> findById(long id);

        List<Stay> findAll();

        List<Stay> findByHutIdAndNights(long hutId, int nights);

        long countByHutId(long hutId);

        boolean existsById(long id);

        boolean deleteById(long id);

        default Stay first() {
            return findAll().get(0);
        }
    }

    private final Stage stage = Memory.stage(Schema.of(Hut.class, Stay.class));
    private final Factory<Stay> stays = Factory.forType(Stay.class);

    @Test
    void aStayBringsItsHut() {
        Stay stay = stage.add(stays.with(Stay::nights, 3));

        assertEquals(3, stay.nights());
        stage.expect("hut").holdsOnly(row("id", stay.hutId()).with("closed_on", null));
        stage.expect(Stay.class).holdsOnly(stay);
    }

    @Test
    void aFakeWorksOnTheRowsOfItsStage() throws IOException {
        StayRepository repository = stage.fake(StayRepository.class);
        Stay unsaved = stage.build(stays.with(Stay::nights, 2));
        assertEquals(null, unsaved.id());

        Acted<Stay> act = stage.act(() -> repository.save(unsaved));

        Stay saved = act.value();
        act.expect().added("stay", saved).nothingElse();
        assertEquals(Optional.of(saved), repository.findById(saved.id()));
        assertEquals(List.of(saved), repository.findByHutIdAndNights(saved.hutId(), 2));
        assertEquals(List.of(), repository.findByHutIdAndNights(saved.hutId(), 3));
        assertEquals(1, repository.countByHutId(saved.hutId()));
        assertEquals(saved, repository.first());

        Stay longer = repository.save(new Stay(saved.id(), saved.hutId(), 5, saved.price()));
        stage.expect("stay").holdsOnly(longer);
        assertTrue(repository.existsById(saved.id()));
        assertTrue(repository.deleteById(saved.id()));
        stage.expect("stay").empty();
    }

    @Test
    void constraintsHoldInMemoryAndARefusedCallLeavesNothing() {
        Stay stay = stage.add(stays);
        StayRepository repository = stage.fake(StayRepository.class);

        Failed<ConstraintException> failed = stage.actFailing(
                ConstraintException.class, () -> repository.save(new Stay(null, 99, 1, BigDecimal.ONE)));

        failed.expect().unchanged();
        assertEquals("23503", failed.failure().sqlState());
        assertTrue(failed.failure().getMessage().contains("hut_id → hut: there is no hut with id = 99"));
        stage.expect("stay").holdsOnly(stay);
    }

    @Test
    void rewindingBringsBackRowsAndNumbers() {
        Stay first = stage.add(stays);
        RewindPoint point = stage.mark();
        List<Stay> more = stage.add(3, stays);
        stage.rewind(point);

        stage.expect("stay").holdsOnly(first);
        assertEquals(more, stage.add(3, stays));
    }

    @Test
    void aFootprintIsTheNetEffect() {
        StayRepository repository = stage.fake(StayRepository.class);
        Stay stay = stage.add(stays.with(Stay::nights, 2));
        stage.act(() -> {
                    repository.save(new Stay(stay.id(), stay.hutId(), 5, stay.price()));
                    repository.save(stay);
                    repository.deleteById(repository
                            .save(new Stay(null, stay.hutId(), 1, stay.price()))
                            .id());
                })
                .expect()
                .unchanged();
    }

    @Test
    void twoStagesNeverMeet() {
        Stage other = Memory.stage(Schema.of(Hut.class, Stay.class));
        other.add(2, stays);
        stage.expect("stay").empty();
        assertEquals(
                stage.add(2, stays),
                other.rows("stay").stream()
                        .map(r -> new Stay(
                                r.get("id", Long.class),
                                r.get("hut_id", Long.class),
                                r.get("nights", Integer.class),
                                r.get("price", BigDecimal.class)))
                        .toList());
    }

    @Test
    void objectsAreMadeWithoutAnyStage() {
        Hut hut = Factory.forType(Hut.class).with(Hut::rank, Rank.FINE).build();
        assertEquals(Rank.FINE, hut.rank());
        assertNotEquals("", hut.name());
        assertNotEquals(Optional.empty(), hut.closedOn());
    }

    @Test
    void misspeltNamesAreAnsweredWithTheNearest() {
        assertEquals(
                "There is no table named 'sty'. Did you mean 'stay'? Known: hut, stay.",
                assertThrows(UnknownNameException.class, () -> stage.expect("sty"))
                        .getMessage());
        assertEquals(
                "There is no column of table stay named 'nihgts'. Did you mean 'nights'? Known: id, hut_id, nights, price.",
                assertThrows(UnknownNameException.class, () -> stage.add(stays.with("nihgts", 2)))
                        .getMessage());
        assertEquals(
                "There is no column in this row named 'hutid'. Did you mean 'hut_id'? Known: id, hut_id, nights, price.",
                assertThrows(UnknownNameException.class, () -> stage.add("stay").get("hutid"))
                        .getMessage());
    }

    @Test
    void wrongValuesAreRefusedWhereTheyAreGiven() {
        assertMessage("Property nights of Stay is int, and 'two' is text.", () -> stays.with(Stay::nights, "two"));
        assertMessage("Property nights of Stay is int and cannot be null.", () -> stays.with(Stay::nights, null));
        assertMessage(
                "Property nights of Stay is int, and 2.5 is not a whole number.",
                () -> stays.with(Stay::nights, new BigDecimal("2.5")));
        assertMessage(
                "The property given to with(property, value) is a lambda, which has no name. Give a method reference such"
                        + " as Stay::nights, or the name as text: \"nights\".",
                () -> stays.with(stay -> stay.nights(), 2));
        assertMessage(
                "stay.nights is int, and 'two' is not a whole number.", () -> stage.add(stays.with("nights", "two")));
        assertMessage(
                "stay.price does not allow null, and the factory gives it null.",
                () -> stage.add(stays.with(Stay::price, null)));
        assertMessage(
                "stay.hut_id → hut got a factory of stay; it needs one of hut.",
                () -> stage.add(stays.ref(Stay::hutId, stays)));
        assertEquals(
                "'parent' of ref must not be null.",
                assertThrows(NullPointerException.class, () -> stays.ref("hut_id", (Object) null))
                        .getMessage());
        assertEquals(
                "'code' of Stage.act must not be null.",
                assertThrows(NullPointerException.class, () -> stage.act((Action) null))
                        .getMessage());
    }

    private static void assertMessage(String message, org.junit.jupiter.api.function.Executable code) {
        assertEquals(message, assertThrows(ZabbetException.class, code).getMessage());
    }
}
