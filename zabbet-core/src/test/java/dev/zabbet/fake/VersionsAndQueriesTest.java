package dev.zabbet.fake;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNull;
import static org.junit.jupiter.api.Assertions.assertSame;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.ConstraintException;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.OptimisticLockException;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.sql.SQLException;
import java.sql.SQLTransactionRollbackException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** Versions of objects, methods that say their query themselves, and parameters that a method's name does not speak of. */
class VersionsAndQueriesTest {
    @Retention(RetentionPolicy.RUNTIME)
    @interface Version {}

    @Retention(RetentionPolicy.RUNTIME)
    @interface AsksFor {
        String[] lines();
    }

    @Retention(RetentionPolicy.RUNTIME)
    @interface NamedQuery {
        String name() default "";
    }

    @Retention(RetentionPolicy.RUNTIME)
    @interface Described {
        String text() default "";
    }

    @Entity
    static class Hut {
        @Id
        @Nullable
        Long id;

        String name = "";

        @jakarta.persistence.Version
        int version = 7;
    }

    interface Huts {
        Hut save(Hut hut);

        Optional<Hut> findById(long id);

        void delete(Hut hut);
    }

    record Room(long id, String name, @Version long stamp) {}

    interface Rooms {
        Room save(Room room) throws SQLException;

        int updateName(long id, String name);
    }

    record Stay(
            long id,
            String guest,
            int nights,
            @Version Instant changed,
            @Nullable LocalDateTime deletedAt) {}

    interface Stays {
        Stay save(Stay stay);
    }

    @Test
    void aVersionIsCountedAndAStaleObjectRefused() {
        Stage stage = Memory.stage(Schema.of(Hut.class));
        Huts huts = stage.fake(Huts.class);
        Hut hut = new Hut();
        hut.name = "Edelgrat";
        assertSame(hut, huts.save(hut));
        assertEquals(0, hut.version, "a new object begins at 0, whatever it held");
        Hut stale = huts.findById(requireId(hut)).orElseThrow();
        hut.name = "Edelgrat, new";
        huts.save(hut);
        assertEquals(1, hut.version);
        stage.expect("hut").holdsOnly(row("name", "Edelgrat, new").with("version", 1));
        stale.name = "lost";
        OptimisticLockException refused = assertThrows(OptimisticLockException.class, () -> huts.save(stale));
        assertEquals(
                "save(Hut): the hut was changed by another meanwhile. Its version is 1 now, and the object was read with"
                        + " 0.\nThe object: (id=1, name=lost, version=0)",
                refused.getMessage());
        assertThrows(OptimisticLockException.class, () -> huts.delete(stale));
        stage.expect("hut").holdsOnly(row("name", "Edelgrat, new").with("version", 1));
        Hut arranged = stage.add(Factory.forType(Hut.class));
        huts.delete(arranged);
        huts.delete(hut);
        stage.expect("hut").empty();
    }

    private static long requireId(Hut hut) {
        return java.util.Objects.requireNonNull(hut.id);
    }

    @Test
    void whatIsThrownForAStaleObjectIsWhatTheDataAccessThrows() throws SQLException {
        Stage stage = Memory.stage(Schema.of(Room.class, Stay.class));
        Rooms rooms = stage.fake(Rooms.class);
        Room first = rooms.save(new Room(0, "Attic", 3));
        assertEquals(new Room(1, "Attic", 0), first);
        assertEquals(new Room(1, "Attic", 1), rooms.save(first));
        rooms.updateName(1, "Cellar"); // a statement of its own looks at no version
        SQLTransactionRollbackException declared =
                assertThrows(SQLTransactionRollbackException.class, () -> rooms.save(first));
        assertEquals(ConstraintException.STALE, declared.getSQLState());
        Stays stays = stage.fake(
                Stays.class,
                refusal -> new IllegalStateException(
                        refusal.sqlState() + " " + refusal.constraint().orElse("")));
        Stay stay = stays.save(new Stay(0, "Mara Quill", 2, Instant.EPOCH, null));
        assertEquals(stage.now(), stay.changed());
        stage.advance(java.time.Duration.ofMinutes(1));
        assertEquals(stage.now(), stays.save(stay).changed());
        assertEquals(
                "40001 changed",
                assertThrows(IllegalStateException.class, () -> stays.save(stay))
                        .getMessage());
        stage.expect("stay").count(1);
    }

    interface Asking {
        @AsksFor(lines = {"", "select s.* from stay s", "where s.nights > :nights"})
        List<Stay> findByNights(int nights);

        @NamedQuery(name = "Stay.busy")
        List<Stay> findByGuest(String guest);

        @Described(text = "every stay, in no order")
        List<Stay> findAll();
    }

    @Test
    void aMethodThatSaysItsQueryIsNotRunByItsName() {
        Stage stage = Memory.stage(Schema.of(Stay.class));
        assertEquals(
                """
                A fake of Asking cannot be made: 2 methods are not understood.
                  findByGuest(String): it runs the query of @NamedQuery 'Stay.busy', whatever its name says
                  findByNights(int): it runs the query of @AsksFor 'select s.* from stay s', whatever its name says
                Define them before: stage.define(Asking::findByGuest, (tables, given) -> …). docs/swapping.md lists the \
                names that are understood.""",
                assertThrows(ZabbetException.class, () -> stage.fake(Asking.class))
                        .getMessage());
        stage.define(Asking::findByGuest, (tables, given) -> List.of());
        stage.define(Asking::findByNights, (tables, given) -> tables.all(Stay.class)
                .filter(stay -> stay.nights() > given.get(0, Integer.class))
                .toList());
        Asking asking = stage.fake(Asking.class);
        stage.add(3, Factory.forType(Stay.class).inTurn(Stay::nights, 1, 2, 3));
        assertEquals(2, asking.findByNights(1).size());
        assertEquals(3, asking.findAll().size());
    }

    interface Softly {
        int softDeleteById(long id, LocalDateTime at);

        List<Stay> findByGuest(String guest, int nights);
    }

    interface Vague {
        List<Stay> findByGuest(String guest, String whatever);
    }

    @Test
    void parametersThatTheNameDoesNotSpeakOfMeanWhatTheyAreNamedLike() {
        Stage stage = Memory.stage(Schema.of(Stay.class));
        Softly softly = stage.fake(Softly.class);
        stage.add(2, Factory.forType(Stay.class).with(Stay::guest, "Mara Quill").inTurn(Stay::nights, 2, 3));
        assertEquals(1, softly.findByGuest("Mara Quill", 3).size());
        LocalDateTime at = LocalDateTime.of(2031, 7, 2, 9, 0);
        assertEquals(1, softly.softDeleteById(1, at));
        stage.expect("stay")
                .holds(row("id", 1).with("deleted_at", at), row("id", 2).with("deleted_at", null));
        assertTrue(assertThrows(ZabbetException.class, () -> stage.fake(Vague.class))
                .getMessage()
                .contains(
                        "findByGuest(String, String): its name takes 1 argument and it has 2 parameters: its parameter"
                                + " 'whatever' is no property of Stay"));
    }

    interface Names {
        Room save(Room room);
    }

    @Test
    void rightsAreTestedBeforeConstraintsAndTranslationsServeFakeOrReal() {
        Stage stage = Memory.stage(Schema.of(Room.class));
        stage.permits("guest").reads("room", room -> true).adds("room", room -> "Attic".equals(room.get("name")));
        Names names = stage.asRole("guest")
                .fakeOrReal(
                        Names.class,
                        source -> room -> room,
                        refusal -> refusal.sqlState().equals(ConstraintException.DENIED)
                                ? new SecurityException(refusal.getMessage())
                                : null);
        stage.actDenied(() -> stage.asRole("guest").fake(Names.class).save(new Room(0, "Cellar", 0)));
        assertThrows(SecurityException.class, () -> names.save(new Room(0, "Cellar", 0)));
        Room attic = names.save(new Room(0, "Attic", 0));
        assertNull(assertThrows(SecurityException.class, () -> names.save(new Room(attic.id(), "Cellar", 0)))
                .getCause());
        // a row that breaks a constraint too is denied first
        @SuppressWarnings("NullAway")
        Room unnamed = new Room(0, null, 0);
        assertThrows(SecurityException.class, () -> names.save(unnamed));
    }
}
