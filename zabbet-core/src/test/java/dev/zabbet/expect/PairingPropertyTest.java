package dev.zabbet.expect;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.internal.report.ExpectedRow;
import dev.zabbet.internal.report.Pairing;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

/** Of all ways to pair expected rows with stored ones the one is taken in which the fewest columns differ. */
class PairingPropertyTest {
    record Note(int a, int b, int c) {}

    private static final Table NOTE = Schema.of(Note.class).require("note");

    @RepeatedTest(200)
    void noOtherPairingDiffersLess(RepetitionInfo repetition) {
        Random random = new Random(repetition.getCurrentRepetition());
        List<Row> stored = rows(random, 1 + random.nextInt(5));
        List<ExpectedRow> expected =
                ExpectedRow.of(NOTE, rows(random, 1 + random.nextInt(5)).toArray());

        Pairing pairing = new Pairing(expected, stored);

        int exact = pairing.exact().size();
        int differing =
                pairing.different.stream().mapToInt(p -> p.differences().size()).sum();
        int cost = differing + 3 * pairing.unpaired.size();
        String told = "variation " + repetition.getCurrentRepetition() + ": " + stored;
        // As many exact ones as there can be come first; then the rest costs the least.
        assertEquals(most(expected, stored, 0, new boolean[stored.size()]), exact, told);
        assertEquals(expected.size(), exact + pairing.different.size() + pairing.unpaired.size(), told);
        assertEquals(stored.size(), exact + pairing.different.size() + pairing.left.size(), told);
        assertTrue(cost <= least(pairing, 0, new ArrayList<>()), told);
    }

    /** Thousands of rows that are just as expected take no time, whatever their order. */
    @Test
    void manyRowsArePaired() {
        List<Row> stored = new ArrayList<>();
        for (int i = 0; i < 30_000; i++) {
            stored.add(Row.row("a", i).with("b", i % 7).with("c", 1));
        }
        List<Row> turned = new ArrayList<>(stored);
        java.util.Collections.reverse(turned);
        turned.set(500, Row.row("a", -1).with("b", -1).with("c", 1));
        Pairing pairing = new Pairing(ExpectedRow.of(NOTE, turned), stored);
        assertEquals(1, pairing.different.size());
        assertEquals(29_999, pairing.exact().size());
        assertTrue(pairing.isOptimal);
    }

    private static List<Row> rows(Random random, int count) {
        List<Row> rows = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            rows.add(
                    Row.row("a", random.nextInt(3)).with("b", random.nextInt(3)).with("c", random.nextInt(2)));
        }
        return rows;
    }

    private static int most(List<ExpectedRow> expected, List<Row> stored, int at, boolean[] taken) {
        if (at == expected.size()) {
            return 0;
        }
        int best = most(expected, stored, at + 1, taken);
        for (int s = 0; s < stored.size(); s++) {
            if (!taken[s] && expected.get(at).matches(stored.get(s))) {
                taken[s] = true;
                best = Math.max(best, 1 + most(expected, stored, at + 1, taken));
                taken[s] = false;
            }
        }
        return best;
    }

    /** The least cost of pairing what was not paired exactly, by trying all ways; what has nothing alike stays alone. */
    private static int least(Pairing pairing, int at, List<Row> taken) {
        List<ExpectedRow> open = new ArrayList<>(pairing.unpaired);
        pairing.different.forEach(p -> open.add(p.expected()));
        List<Row> free = new ArrayList<>(pairing.left);
        pairing.different.forEach(p -> free.add(p.stored()));
        if (at == open.size()) {
            return 0;
        }
        int best = 3 + least(pairing, at + 1, taken);
        for (Row row : free) {
            int differences = open.get(at).differences(row).size();
            boolean used = taken.stream().anyMatch(t -> t == row);
            if (!used && differences < 3) {
                List<Row> more = new ArrayList<>(taken);
                more.add(row);
                best = Math.min(best, differences + least(pairing, at + 1, more));
            }
        }
        return best;
    }
}
