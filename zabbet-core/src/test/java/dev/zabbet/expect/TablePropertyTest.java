package dev.zabbet.expect;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ExpectationFailure;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.function.Predicate;
import org.junit.jupiter.api.Test;

/** Expectations on random tables hold exactly where plain Java says that they do. */
class TablePropertyTest {
    record Thing(long id, int n, Optional<Integer> m, String t) {}

    private final long variation = Long.getLong("zabbet.variation", System.nanoTime());
    private final Random random = new Random(variation);
    private final List<Boolean> outcomes = new ArrayList<>();

    @Test
    void anExpectationHoldsWhereItsRowsAreThere() {
        System.out.println("TablePropertyTest: variation " + variation);
        for (int run = 0; run < 150; run++) {
            Stage stage = Memory.stage(Schema.of(Thing.class));
            List<Row> stored = new ArrayList<>();
            for (int i = random.nextInt(12); i > 0; i--) {
                stored.add(stage.add(Factory.forTable("thing")
                        .with("n", random.nextInt(3))
                        .with("m", random.nextInt(3) == 0 ? null : random.nextInt(3))
                        .with("t", List.of("a", "b", "c").get(random.nextInt(3)))));
            }
            for (int i = 0; i < 8; i++) {
                oneOf(stage, stored);
            }
        }
        long held = outcomes.stream().filter(o -> o).count();
        assertTrue(held > 200 && outcomes.size() - held > 200, held + " of " + outcomes.size() + " held");
    }

    private void oneOf(Stage stage, List<Row> stored) {
        TableExpectation things = stage.expect("thing");
        Predicate<Row> meant = row -> true;
        StringBuilder text = new StringBuilder("thing");
        for (int i = random.nextInt(3); i > 0; i--) {
            int n = random.nextInt(3);
            Object m = random.nextInt(4) == 0 ? null : Integer.valueOf(random.nextInt(3));
            switch (random.nextInt(5)) {
                case 0 -> {
                    things = things.where("n", n);
                    meant = meant.and(row -> number(row, "n") == n);
                }
                case 1 -> {
                    things = things.where("m", m);
                    meant = meant.and(row -> m == null ? !row.has("m") || row.get("m") == null : same(row.get("m"), m));
                }
                case 2 -> {
                    things = things.where("n", Expected.between(0, n));
                    meant = meant.and(row -> number(row, "n") <= n);
                }
                case 3 -> {
                    things = things.where("t", Expected.oneOf("a", "c"));
                    meant = meant.and(row -> !"b".equals(row.get("t")));
                }
                default -> {
                    things = things.where("m", Expected.notNull());
                    meant = meant.and(row -> row.get("m") != null);
                }
            }
            text.append(" where ").append(n).append('/').append(m);
        }
        List<Row> rows = stored.stream().filter(meant).toList();
        check(things, rows, text.toString());
    }

    private void check(TableExpectation things, List<Row> rows, String text) {
        int count = random.nextInt(6);
        check(text + " count " + count, () -> things.count(count), rows.size() == count);
        check(text + " empty", things::empty, rows.isEmpty());

        List<Row> expected = new ArrayList<>();
        List<Row> pool = new ArrayList<>(rows);
        Collections.shuffle(pool, random);
        for (Row row : pool) {
            if (random.nextInt(4) > 0) {
                expected.add(row("n", row.get("n")).with("t", row.get("t")));
            }
        }
        if (random.nextInt(3) == 0) {
            expected.add(
                    row("n", random.nextInt(3)).with("t", List.of("a", "b", "c").get(random.nextInt(3))));
        }
        if (expected.isEmpty()) {
            return;
        }
        boolean contained = contained(expected, rows);
        check(text + " holds " + expected, () -> things.holds(expected.toArray()), contained);
        check(
                text + " holdsOnly " + expected,
                () -> things.holdsOnly(expected.toArray()),
                contained && expected.size() == rows.size());
        boolean none = expected.stream().noneMatch(e -> rows.stream().anyMatch(r -> fits(e, r)));
        check(text + " holdsNoneOf " + expected, () -> things.holdsNoneOf(expected.toArray()), none);

        Set<List<Object>> seen = new HashSet<>();
        boolean unique = rows.stream()
                .filter(r -> r.get("m") != null)
                .allMatch(r -> seen.add(List.of(r.get("n"), Objects.requireNonNull(r.get("m")))));
        check(text + " unique n, m", () -> things.unique("n", "m"), unique);

        List<Row> ordered = rows.stream()
                .sorted(Comparator.comparing((Row r) -> -number(r, "n"))
                        .thenComparing(r -> (String) r.get("t"))
                        .thenComparing(r -> number(r, "id")))
                .toList();
        if (!ordered.isEmpty()) {
            int first = 1 + random.nextInt(ordered.size());
            List<Row> wanted = new ArrayList<>(ordered.subList(0, first));
            if (random.nextBoolean()) {
                Collections.swap(wanted, 0, random.nextInt(first));
            }
            check(
                    text + " in order " + wanted,
                    () -> things.orderedBy("-n", "t", "id").first(first).holdsInOrder(wanted.toArray()),
                    wanted.equals(ordered.subList(0, first)));
        }
    }

    private void check(String what, Runnable expectation, boolean holds) {
        boolean held = true;
        try {
            expectation.run();
        } catch (ExpectationFailure failure) {
            held = false;
        }
        outcomes.add(held);
        assertEquals(holds, held, what + ", variation " + variation);
    }

    /** Whether each expected row has a stored one of its own: each kind is there often enough. */
    private static boolean contained(List<Row> expected, List<Row> rows) {
        return expected.stream()
                .allMatch(e -> rows.stream().filter(r -> fits(e, r)).count()
                        >= expected.stream().filter(other -> fits(other, e)).count());
    }

    private static boolean fits(Row expected, Row stored) {
        return same(expected.get("n"), stored.get("n")) && Objects.equals(expected.get("t"), stored.get("t"));
    }

    private static boolean same(Object one, Object other) {
        return one instanceof Number a && other instanceof Number b && a.longValue() == b.longValue();
    }

    private static long number(Row row, String column) {
        return ((Number) Objects.requireNonNull(row.get(column))).longValue();
    }
}
