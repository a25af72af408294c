package dev.zabbet;

import static dev.zabbet.expect.Expected.otherThan;
import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertSame;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.seed.Seed;
import dev.zabbet.store.Condition;
import dev.zabbet.store.RewindPoint;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.opentest4j.TestAbortedException;

/** Promises of one sentence each, that a change elsewhere could break without anybody noticing. */
class SmallPromisesTest {
    record Hut(long id, String name, int beds, @Nullable String grade) {}

    record Valley(long id, String name) {}

    record Room(long id, long hutId, long valleyId, int number) {}

    record Warden(long id, long hutId, long valleyId, String name) {}

    interface Huts {
        Hut save(Hut hut);
    }

    private final Stage stage = Memory.stage(Schema.of(Hut.class, Valley.class, Room.class, Warden.class));
    private final Factory<Hut> huts = Factory.forType(Hut.class);

    @Test
    void aRewindSetsTheClockBackAndForgetsFootprints() {
        RewindPoint start = stage.mark();
        stage.advance(Duration.ofDays(3));
        stage.act(() -> stage.fake(Huts.class).save(new Hut(0, "Edelgrat", 4, null)));
        assertEquals(1, stage.footprints().size());
        stage.rewind(start);
        assertEquals(Stage.START, stage.now());
        assertEquals(List.of(), stage.footprints());
        assertEquals(1, stage.add(huts).id(), "keys begin again too");
    }

    @Test
    void anObjectThatWasNotStoredItselfIsExpectedByAllButItsKey() {
        Hut edelgrat = new Hut(0, "Edelgrat", 4, null);
        var footprint = stage.act(() -> stage.fake(Huts.class).save(edelgrat));
        footprint.expect().added("hut", edelgrat).nothingElse();
        assertThrows(
                AssertionError.class,
                () -> footprint.expect().added("hut", new Hut(0, "Edelgrat", 5, null)),
                "all else counts");
        assertThrows(AssertionError.class, () -> footprint.expect().added("hut", new Hut(2, "Edelgrat", 4, null)));
        assertThrows(
                AssertionError.class,
                () -> footprint.expect().added("hut", row("id", 0).with("name", "Edelgrat")),
                "a row means what it says");
    }

    record Guest(long id, String fullName, String firstName, String lastName, String email) {}

    record Product(long id, String title) {}

    /** No state, though the word begins like one. */
    record Statement(long id, String title) {}

    @Test
    void whatIsInventedOfAPersonAgreesAndAThingIsCalledLikeAThing() {
        Stage other = Memory.stage(Schema.of(Guest.class, Product.class)).inVariation(31);
        for (Guest guest : other.add(40, Factory.forType(Guest.class))) {
            assertEquals(guest.firstName() + " " + guest.lastName(), guest.fullName());
            assertEquals(
                    (guest.firstName() + "." + guest.lastName()).toLowerCase(java.util.Locale.ROOT) + guest.id()
                            + "@example.org",
                    guest.email());
        }
        Guest given = other.add(Factory.forType(Guest.class).with(Guest::lastName, "Amrain"));
        assertEquals("Amrain", given.lastName());
        List<Product> products = other.add(200, Factory.forType(Product.class));
        assertTrue(products.stream().map(Product::title).distinct().count() > 100, "a shop of many things");
        Stage places = Memory.stage(Schema.of(Statement.class, Valley.class)).inVariation(31);
        places.add(20, Factory.forType(Statement.class))
                .forEach(one -> assertTrue(one.title().contains(" "), one::title));
        places.add(20, Factory.forType(Valley.class))
                .forEach(one -> assertFalse(one.name().contains(" "), one::name));
        Stage again = Memory.stage(Schema.of(Guest.class, Product.class)).inVariation(31);
        assertEquals(products, again.add(200, Factory.forType(Product.class)), "whatever was made before");
    }

    @Test
    void ofVeryManyNamesTheNearestFewAreListed() {
        List<String> tables = Stream.iterate(1, n -> n + 1)
                .limit(163)
                .map(n -> "archive_" + n)
                .toList();
        var known = Stream.concat(tables.stream(), Stream.of("guest_list")).toList();
        String message = new UnknownNameException("table", "guests_lst", known).getMessage();
        assertTrue(
                message.startsWith("There is no table named 'guests_lst'. Did you mean 'guest_list'? There are 164; the"
                        + " nearest: guest_list, "),
                message);
        assertTrue(message.length() < 300, message);
        assertEquals(
                "There is no table named 'x'. Known: hut, stay.",
                new UnknownNameException("table", "x", List.of("hut", "stay")).getMessage());
    }

    interface FoundHuts {
        java.util.Optional<Hut> find(long id);
    }

    /** One stage serves all tests of a class, in whatever order. */
    @Test
    void aRewindForgetsWhatWasSaidSince() {
        stage.add(huts);
        stage.permits("warden").reads("hut", hut -> true);
        RewindPoint start = stage.mark();
        stage.define(FoundHuts::find, (tables, given) -> null);
        stage.permits("warden").removes("hut", hut -> true);
        stage.permits("guest").reads("hut", hut -> true);
        assertTrue(stage.fake(FoundHuts.class).find(1).isEmpty());
        assertTrue(stage.asRole("guest").fake(FoundHuts.class).find(1).isEmpty());
        stage.rewind(start);
        assertTrue(stage.fake(FoundHuts.class).find(1).isPresent());
        assertTrue(stage.asRole("warden").fake(FoundHuts.class).find(1).isPresent(), "said before");
        assertThrows(
                ZabbetException.class,
                () -> stage.asRole("guest").fake(FoundHuts.class).find(1));
    }

    @Test
    void nullsComeFirstInAnOrder() {
        stage.add(3, huts.inTurn(Hut::grade, "plain", null, "fine").inTurn(Hut::beds, 1, 2, 3));
        stage.expect("hut")
                .orderedBy("grade")
                .holdsInOrder(row("beds", 2), row("grade", "fine"), row("grade", "plain"));
        stage.expect("hut").orderedBy("-grade").first(1).holdsInOrder(row("grade", "plain"));
        stage.expect("hut").orderedBy("grade").first(9).holdsInOrder(row("beds", 2), row("beds", 3), row("beds", 1));
    }

    /** In SQL {@code grade NOT IN ('plain')} is unknown, and so not true, where the grade is null. */
    @Test
    void whatIsNotAmongOthersIsNotNull() {
        stage.add(3, huts.inTurn(Hut::grade, "plain", null, "fine"));
        var table = stage.schema().require("hut");
        Condition notPlain = new Condition.Not(new Condition.OneOf("grade", List.of("plain")));
        assertEquals(1, stage.store().rows(table, notPlain).size());
        Condition orNull = new Condition.Not(new Condition.OneOf("grade", java.util.Arrays.asList("plain", null)));
        assertEquals(1, stage.store().rows(table, orNull).size());
        stage.expect("hut").where("grade", otherThan("plain")).count(1);
    }

    @Test
    void aSeedLaidOverAnotherBringsItsClock() {
        Instant later = Instant.parse("2032-01-01T00:00:00Z");
        Seed base = Seed.empty().with("hut", row("name", "Edelgrat")).withClock(Stage.START);
        Seed over = Seed.empty().with("hut", row("name", "Windegg"));
        assertEquals(later, base.and(over.withClock(later)).clock().orElseThrow());
        assertEquals(Stage.START, base.and(over).clock().orElseThrow());
    }

    /** Of rows of which there is now one and now none, no other row may count on one. */
    @Test
    void rowsThatNeedNotBeThereAreNoParents() {
        for (long variation = 0; variation < 12; variation++) {
            Stage other = Memory.stage(stage.schema()).inVariation(variation);
            other.add(6, huts.children(0, 2, Factory.forType(Room.class)).children(2, Factory.forType(Warden.class)));
            other.expectReferencesIntact();
            other.expect("warden").count(12);
        }
    }

    @Test
    void windowsAndChoicesThatLeaveNothingAreRefused() {
        stage.add(2, huts);
        var expectation = stage.expect("hut");
        for (int rows : new int[] {0, -1}) {
            assertEquals(
                    "first(" + rows
                            + ") of hut: the number of rows must be at least 1. To expect none, call"
                            + " empty().",
                    assertThrows(
                                    IllegalArgumentException.class,
                                    () -> expectation.orderedBy("beds").first(rows))
                            .getMessage());
        }
        assertEquals(
                "select() of hut names no column, so that nothing would count. Its columns are id, name, beds, grade.",
                assertThrows(IllegalArgumentException.class, expectation::select)
                        .getMessage());
        assertEquals(
                "ignoring(id, name, beds, grade) leaves no column of hut that counts. To count rows, call count(n).",
                assertThrows(IllegalArgumentException.class, () -> expectation.ignoring("id", "name", "beds", "grade"))
                        .getMessage());
        assertThrows(IllegalArgumentException.class, expectation::ignoring);
        assertThrows(
                IllegalArgumentException.class,
                () -> stage.act(() -> {}).expect().ignoring());
        for (Object nothing : List.of(Row.of(Map.of()), Map.of())) {
            assertEquals(
                    "An expected row of hut names no column, so that any row would do. Name one that counts, or count the"
                            + " rows: count(n) of a table, counts(…) of a footprint.",
                    assertThrows(ZabbetException.class, () -> expectation.holds(nothing))
                            .getMessage());
        }
    }

    @Test
    void anActThatFailsOtherwiseSaysHowAndWhatItLeft() {
        Huts fake = stage.fake(Huts.class);
        IllegalArgumentException thrown = new IllegalArgumentException("no such bed");
        AssertionError other = assertThrows(
                AssertionError.class,
                () -> stage.actFailing(IllegalStateException.class, () -> {
                    fake.save(new Hut(0, "Edelgrat", 4, null));
                    throw thrown;
                }));
        assertEquals("""
                The act should have thrown IllegalStateException; it threw IllegalArgumentException: no such bed.

                  what the act left
                    hut 1 added: name=Edelgrat, beds=4

                Variation 0.
                """.strip(), String.valueOf(other.getMessage()).strip());
        assertSame(thrown, other.getCause());
        assertTrue(assertThrows(AssertionError.class, () -> stage.actFailing(IllegalStateException.class, () -> {}))
                .getMessage()
                .startsWith(
                        "The act should have thrown IllegalStateException; it threw nothing.\n\nThe act left nothing"
                                + " at all."));
        assertThrows(
                TestAbortedException.class,
                () -> stage.actFailing(IllegalStateException.class, () -> {
                    throw new TestAbortedException("assumption");
                }));
    }

    /** Each of the columns that a footprint's expectation names is accounted for, and no other. */
    @Test
    void rowsWithoutAKeyThatAreAlikeAreToldApart() {
        Huts fake = stage.fake(Huts.class);
        Hut hut = fake.save(new Hut(0, "Edelgrat", 4, "plain"));
        Footprint footprint = stage.act(() -> fake.save(new Hut(hut.id(), "Edelgrat", 5, "fine")));
        Stream.<Runnable>of(
                        () -> footprint
                                .expect()
                                .changed("hut", hut.id(), row("beds", 5))
                                .nothingElse(),
                        () -> footprint.expect().changed("hut", row("beds", 5)).nothingElse(),
                        () -> footprint
                                .expect()
                                .changed("hut", hut.id(), row("beds", 4), row("beds", 5))
                                .nothingElse())
                .forEach(expectation -> assertTrue(assertThrows(AssertionError.class, expectation::run)
                        .getMessage()
                        .contains("hut 1: grade changed as well: plain → fine")));
        footprint
                .expect()
                .changed("hut", hut.id(), row("grade", "plain"), row("beds", 5))
                .nothingElse();
        footprint.expect().counts("hut", 0, 1, 0).nothingElse();
        footprint.expect().changed("hut", row("beds", 5)).ignoring("hut.grade").nothingElse();
    }
}
