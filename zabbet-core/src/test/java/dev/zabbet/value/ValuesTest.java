package dev.zabbet.value;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Function;
import org.junit.jupiter.api.Test;

/** Invented values: within their bounds, both reached; the same for the same variation, and others for another. */
class ValuesTest {
    record Thing(long id, String text, int other) {}

    /** What a function gives for rows of one column, in a variation. */
    private static <V> List<V> drawn(long variation, int rows, Function<Values, V> how) {
        List<V> drawn = new ArrayList<>();
        Stage stage = Memory.stage(Schema.of(Thing.class)).inVariation(variation);
        stage.add(rows, Factory.forTable("thing").invent("text", values -> {
            drawn.add(how.apply(values));
            return "x";
        }));
        return drawn.subList(0, rows); // a value may be asked for again, and is the same
    }

    private static <V> List<V> drawn(Function<Values, V> how) {
        return drawn(3, 600, how);
    }

    @Test
    void boundsAreIncludedAndReached() {
        assertEquals(Set.of(-1, 0, 1, 2), new HashSet<>(drawn(v -> v.between(-1, 2))));
        assertEquals(Set.of(7), new HashSet<>(drawn(v -> v.between(7, 7))));
        Set<Long> wide = new HashSet<>(drawn(v -> v.between(Long.MIN_VALUE, Long.MAX_VALUE)));
        assertTrue(wide.stream().anyMatch(n -> n < 0) && wide.stream().anyMatch(n -> n > 0));
        List<BigDecimal> money = drawn(v -> v.money(1, 3));
        money.forEach(amount -> {
            assertEquals(2, amount.scale());
            assertTrue(amount.compareTo(BigDecimal.ONE) >= 0 && amount.compareTo(new BigDecimal("3.00")) <= 0);
        });
        assertTrue(new HashSet<>(money).size() > 100, "cents too");
        LocalDate first = LocalDate.of(2028, 2, 28);
        assertEquals(
                Set.of(first, first.plusDays(1), first.plusDays(2)),
                new HashSet<>(drawn(v -> v.date(first, first.plusDays(2)))));
        drawn(v -> v.time(LocalTime.of(8, 0), LocalTime.of(8, 5)))
                .forEach(t ->
                        assertTrue(!t.isBefore(LocalTime.of(8, 0)) && !t.isAfter(LocalTime.of(8, 5)), t::toString));
        Instant begin = Instant.parse("2031-07-01T08:00:00Z");
        drawn(v -> v.instant(begin, begin.plusSeconds(9)))
                .forEach(t -> assertTrue(!t.isBefore(begin) && !t.isAfter(begin.plusSeconds(9)), t::toString));
        assertEquals(
                "between(3, 2): the first is the greater one.",
                assertThrows(IllegalArgumentException.class, () -> drawn(v -> v.between(3, 2)))
                        .getMessage());
        assertThrows(IllegalArgumentException.class, () -> drawn(v -> v.date(first, first.minusDays(1))));
    }

    @Test
    void choicesAreMadeAsOftenAsTheyAreMeant() {
        assertEquals(Set.of("a", "b", "c"), new HashSet<>(drawn(v -> v.pick("a", "b", "c"))));
        assertEquals(Set.of(1, 2), new HashSet<>(drawn(v -> v.pick(List.of(1, 2)))));
        assertThrows(IllegalArgumentException.class, () -> drawn(v -> v.pick(List.of())));
        long rare = drawn(v -> v.oneIn(10)).stream().filter(one -> one).count();
        assertTrue(rare > 30 && rare < 100, rare + " of 600");
        assertEquals(600, drawn(v -> v.oneIn(1)).stream().filter(one -> one).count());
        Map<String, Integer> counted = new TreeMap<>();
        drawn(v -> v.weighted(Map.of("often", 8, "seldom", 2, "never", 0)))
                .forEach(k -> counted.merge(k, 1, Integer::sum));
        assertEquals(Set.of("often", "seldom"), counted.keySet());
        assertTrue(counted.get("often") > 3 * counted.get("seldom"), counted::toString);
        assertThrows(IllegalArgumentException.class, () -> drawn(v -> v.weighted(Map.of("never", 0))));
    }

    @Test
    void aValueFollowsFromVariationTableRowAndColumn() {
        Function<Values, List<Object>> all = v -> List.of(
                v.between(0, 1_000_000),
                v.personName(),
                v.email(),
                v.phone(),
                v.place(),
                v.street(),
                v.company(),
                v.word(),
                v.sentence(),
                v.paragraph(),
                v.uuid(),
                new BigDecimal(new java.math.BigInteger(v.bytes(8))));
        assertEquals(drawn(3, 50, all), drawn(3, 50, all));
        assertEquals(drawn(3, 50, all).subList(0, 20), drawn(3, 20, all), "however many rows are made");
        List<List<Object>> others = drawn(4, 50, all);
        assertNotEquals(drawn(3, 50, all), others);
        assertEquals(50, new HashSet<>(others).size(), "each row has its own");
        for (List<Object> values : others) {
            assertTrue(
                    String.valueOf(values.get(2)).matches("[a-z0-9.]+@[a-z0-9.-]+\\.(example|org|net|com)"),
                    values.get(2)::toString);
            assertEquals(4, ((UUID) values.get(10)).version());
            assertTrue(String.valueOf(values.get(8)).endsWith("."), values.get(8)::toString);
        }
    }

    @Test
    void aValueMayFollowFromAnotherColumn() {
        Stage stage = Memory.stage(Schema.of(Thing.class));
        List<Row> rows = stage.add(
                30,
                Factory.forTable("thing")
                        .invent("other", v -> v.between(1, 9))
                        .invent("text", v -> "nr " + v.get("other") + " of " + v.ordinal()));
        for (int i = 0; i < rows.size(); i++) {
            assertEquals(
                    "nr " + rows.get(i).get("other") + " of " + (i + 1),
                    rows.get(i).get("text"));
        }
        assertTrue(rows.stream().map(row -> row.get("other")).distinct().count() > 4);
    }

    @Test
    void timesComeFromTheStagesClock() {
        Stage stage = Memory.stage(Schema.of(Thing.class));
        stage.advance(Duration.ofDays(1));
        Row row = stage.add(Factory.forTable("thing").invent("text", v -> v.now() + " " + v.today()));
        assertEquals("2031-07-02T08:00:00Z 2031-07-02", row.get("text"));
    }
}
