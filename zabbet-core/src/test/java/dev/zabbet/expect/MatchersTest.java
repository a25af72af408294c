package dev.zabbet.expect;

import static dev.zabbet.expect.Expected.above;
import static dev.zabbet.expect.Expected.any;
import static dev.zabbet.expect.Expected.below;
import static dev.zabbet.expect.Expected.between;
import static dev.zabbet.expect.Expected.equalToColumn;
import static dev.zabbet.expect.Expected.from;
import static dev.zabbet.expect.Expected.jsonPart;
import static dev.zabbet.expect.Expected.like;
import static dev.zabbet.expect.Expected.near;
import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.oneOf;
import static dev.zabbet.expect.Expected.otherThan;
import static dev.zabbet.expect.Expected.pattern;
import static dev.zabbet.expect.Expected.row;
import static dev.zabbet.expect.Expected.satisfying;
import static dev.zabbet.expect.Expected.seconds;
import static dev.zabbet.expect.Expected.upTo;
import static org.junit.jupiter.api.Assertions.assertDoesNotThrow;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ExpectationFailure;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;

/** Each matcher at its edges: what it fits, what it does not, and what a failure calls it. */
class MatchersTest {
    record Thing(
            long id,
            Optional<Long> n,
            Optional<BigDecimal> price,
            Optional<String> text,
            Optional<LocalDate> day,
            Optional<LocalDateTime> at,
            Optional<LocalTime> clock,
            Optional<Long> other,
            Optional<Map<String, Object>> doc) {}

    private final Stage stage = Memory.stage(Schema.of(Thing.class));

    static Stream<Arguments> edges() {
        return Stream.of(
                // column, stored, matcher, whether it fits
                edge("n", 5, below(5), false),
                edge("n", 4, below(5), true),
                edge("n", 5, upTo(5), true),
                edge("n", 6, upTo(5), false),
                edge("n", 5, above(5), false),
                edge("n", 6, above(5), true),
                edge("n", 5, from(5), true),
                edge("n", 4, from(5), false),
                edge("n", 11, between("9", "14"), true), // numbers, though they are given as text
                edge("n", 4, between(4, 6), true),
                edge("n", 6, between(4, 6), true),
                edge("n", 3, between(4, 6), false),
                edge("n", 7, between(4, 6), false),
                edge("n", 5, otherThan(5), false),
                edge("n", 5, otherThan(6), true),
                edge("n", null, otherThan(6), false),
                edge("n", null, any(), true),
                edge("n", 0, any(), true),
                edge("n", null, notNull(), false),
                edge("n", 0, notNull(), true),
                edge("n", null, below(5), false),
                edge("n", 5, oneOf(1, 5), true),
                edge("n", 5, oneOf("5", 7), true),
                edge("n", 5, oneOf(1, 6), false),
                edge("n", null, oneOf(1, null), true),
                edge("n", null, oneOf(1, 2), false),
                edge("price", "9.50", near(9.4, 0.1), true),
                edge("price", "9.50", near(9.6, 0.1), true),
                edge("price", "9.50", near(9.39, 0.1), false),
                edge("price", "9.50", near(9.61, 0.1), false),
                edge("price", "9.50", between("9.5", 9.5), true),
                edge("price", "9.50", otherThan("9.5"), false),
                edge("text", "Edelgrat", pattern("[A-Z][a-z]+"), true),
                edge("text", "Edelgrat", pattern("[A-Z]"), false),
                edge("text", "Edelgrat", like("Edel%"), true),
                edge("text", "Edelgrat", like("edel%"), false),
                edge("text", "Edelgrat", like("%gra_"), true),
                edge("text", "Edelgrat", like("%gra"), false),
                edge("text", "b", below("c"), true),
                edge("text", "c", below("c"), false),
                edge("text", null, like("%"), false),
                edge(
                        "text",
                        "x",
                        satisfying("one letter", v -> String.valueOf(v).length() == 1),
                        true),
                edge(
                        "text",
                        "xy",
                        satisfying("one letter", v -> String.valueOf(v).length() == 1),
                        false),
                edge("day", "2031-07-04", above(LocalDate.of(2031, 7, 3)), true),
                edge("day", "2031-07-03", above("2031-07-03"), false),
                edge("day", "2031-07-03", between("2031-07-03", "2031-07-03"), true),
                edge("at", "2031-07-01T08:00:00", near("2031-07-01T08:00:02", seconds(2)), true),
                edge("at", "2031-07-01T08:00:00", near("2031-07-01T07:59:58", seconds(2)), true),
                edge("at", "2031-07-01T08:00:00", near("2031-07-01T08:00:03", seconds(2)), false),
                edge("at", "2031-07-01T08:00:00", near("2031-07-01T07:59:57", seconds(2)), false),
                edge("clock", "08:00:00", from(LocalTime.of(8, 0)), true),
                edge("clock", "07:59:59", from(LocalTime.of(8, 0)), false),
                edge("doc", Map.of("stars", 2, "rooms", java.util.List.of("a", "b")), jsonPart("{\"stars\": 2}"), true),
                edge("doc", Map.of("stars", 2), jsonPart("{\"stars\": 2.0}"), true),
                edge("doc", Map.of("stars", 2), jsonPart("{\"stars\": 3}"), false),
                edge("doc", Map.of("stars", 2), jsonPart("{\"view\": true}"), false));
    }

    private static Arguments edge(String column, @Nullable Object stored, Matcher matcher, boolean fits) {
        return Arguments.of(column, stored, matcher, fits);
    }

    @ParameterizedTest
    @MethodSource("edges")
    void aMatcherFitsUpToItsEdges(String column, @Nullable Object stored, Matcher matcher, boolean fits) {
        Row thing = stage.add(Factory.forTable("thing").with(column, stored));
        Row expected = row("id", thing.get("id")).with(column, matcher);
        if (fits) {
            stage.expect("thing").holdsOnly(expected);
            assertThrows(ExpectationFailure.class, () -> stage.expect("thing").holdsNoneOf(expected));
        } else {
            ExpectationFailure failure = assertThrows(
                    ExpectationFailure.class, () -> stage.expect("thing").holdsOnly(expected));
            assertTrue(failure.getMessage().contains(matcher.describe()), failure::getMessage);
            stage.expect("thing").holdsNoneOf(expected);
        }
        boolean asked = Stream.of("within", "text like /", "JSON", "one letter", "anything")
                .noneMatch(word -> matcher.describe().startsWith(word));
        if (asked) { // those that the store itself looks for find the same row
            stage.expect("thing").where(column, matcher).count(fits ? 1 : 0);
        }
    }

    @Test
    void columnsOfOneRowAndOfAnotherAreCompared() {
        Row first = stage.add(Factory.forTable("thing").with("n", 5).with("other", 5));
        Row second = stage.add(Factory.forTable("thing").with("n", 5).with("other", 6));
        stage.expect("thing").holds(row("id", first.get("id")).with("n", equalToColumn("other")));
        stage.expect("thing").holdsNoneOf(row("id", second.get("id")).with("n", equalToColumn("other")));
        stage.expect("thing")
                .holds(row("id", second.get("id")).with("n", equalToColumn("thing", first.get("id"), "other")));
        stage.expect("thing")
                .holdsNoneOf(row("id", second.get("id")).with("other", equalToColumn("thing", first.get("id"), "n")));
    }

    @Test
    void whatNoValueCouldFitIsAnErrorOfTheTest() {
        stage.add("thing");
        for (Object never : new Object[] {"many", LocalDate.of(2031, 7, 1), "5.5"}) {
            assertThrows(
                    ZabbetException.class,
                    () -> stage.expect("thing").where("n", never).count(0),
                    never::toString);
        }
        assertEquals(
                "between(6, 4): the first is the greater one.",
                assertThrows(RuntimeException.class, () -> stage.expect("thing")
                                .where("n", between(6, 4))
                                .count(0))
                        .getMessage());
        assertDoesNotThrow(() -> stage.expect("thing").where("n", between(4, 4)).count(0));
    }
}
