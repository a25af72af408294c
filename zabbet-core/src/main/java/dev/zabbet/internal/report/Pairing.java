package dev.zabbet.internal.report;

import dev.zabbet.internal.document.RowPart;
import dev.zabbet.row.Row;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.IntStream;

/**
 * Pairs expected rows with stored ones: first as many exact matches as possible (augmenting paths, since a row with
 * matchers may fit several), then those whose key is given, then the others so that the fewest columns differ in all.
 */
public final class Pairing {
    /** An expected row and the stored row that was most likely meant. */
    public record Pair(ExpectedRow expected, Row stored, List<RowPart> differences) {}

    private static final long MOST_COMPARED = 250_000;
    private static final int MOST_SHOWN = 50;

    private final List<ExpectedRow> expected;
    private final List<Row> stored;
    private final List<List<Integer>> fits = new ArrayList<>();
    private final int[] takenBy;
    private final int[] partner;

    /** Whether the rows that differ were paired in the best way, or one after another because there are many. */
    public boolean isOptimal = true;

    public final List<Pair> different = new ArrayList<>();
    public final List<ExpectedRow> unpaired = new ArrayList<>();
    public final List<Row> left = new ArrayList<>();

    public Pairing(List<ExpectedRow> expected, List<Row> stored) {
        this.expected = expected;
        this.stored = stored;
        this.takenBy = new int[stored.size()];
        this.partner = new int[expected.size()];
        Arrays.fill(takenBy, -1);
        Arrays.fill(partner, -1);
        pairExact();
        pairByKey();
        pairNearest();
        collect();
    }

    public boolean isExact() {
        return different.isEmpty() && unpaired.isEmpty();
    }

    /** Returns the stored row that an expected one, by its position, was paired with. */
    Optional<Row> partner(int expectedRow) {
        return partner[expectedRow] < 0 ? Optional.empty() : Optional.of(stored.get(partner[expectedRow]));
    }

    /** Returns where the stored rows stand that were paired exactly; rows that are alike are told apart by that. */
    public List<Integer> exact() {
        return IntStream.range(0, partner.length)
                .filter(e -> partner[e] >= 0 && expected.get(e).matches(stored.get(partner[e])))
                .mapToObj(e -> partner[e])
                .toList();
    }

    private void pairExact() {
        pairAlike();
        boolean[] open = new boolean[expected.size()];
        for (int e = 0; e < expected.size(); e++) {
            List<Integer> fitting = new ArrayList<>();
            open[e] = partner[e] < 0;
            for (int s = 0; open[e] && s < stored.size(); s++) {
                if (takenBy[s] < 0 && expected.get(e).matches(stored.get(s))) {
                    fitting.add(s);
                }
            }
            fits.add(fitting);
        }
        for (int e = 0; e < expected.size(); e++) {
            if (open[e]) {
                augment(e, new boolean[stored.size()]);
            }
        }
    }

    /** Without matchers, rows that are just as expected are found by what they hold. */
    private void pairAlike() {
        if (expected.isEmpty()
                || expected.stream().anyMatch(row -> row.hasMatchers() || row.isStrict() || !row.isFlat())
                || expected.stream()
                        .anyMatch(row -> !row.parts().equals(expected.get(0).parts()))) {
            return;
        }
        List<String> columns =
                expected.get(0).parts().stream().map(RowPart::name).toList();
        Map<Row, Deque<Integer>> alike = new HashMap<>();
        for (int s = 0; s < stored.size(); s++) {
            Row row = stored.get(s);
            Row projected = Row.of(columns, columns.stream().map(row::get).toArray());
            alike.computeIfAbsent(projected, r -> new ArrayDeque<>()).add(s);
        }
        for (int e = 0; e < expected.size(); e++) {
            Deque<Integer> found = alike.get(expected.get(e).plain());
            if (found != null && !found.isEmpty()) {
                take(e, found.poll());
            }
        }
    }

    private boolean augment(int e, boolean[] tried) {
        for (int s : fits.get(e)) {
            if (!tried[s]) {
                tried[s] = true;
                if (takenBy[s] < 0 || augment(takenBy[s], tried)) {
                    takenBy[s] = e;
                    partner[e] = s;
                    return true;
                }
            }
        }
        return false;
    }

    private void pairByKey() {
        for (int e = 0; e < expected.size(); e++) {
            for (int s = 0; partner[e] < 0 && expected.get(e).hasKey() && s < stored.size(); s++) {
                if (takenBy[s] < 0 && expected.get(e).sameKey(stored.get(s))) {
                    take(e, s);
                }
            }
        }
    }

    /** The rest is paired so that the fewest columns differ in all; of very many rows one after another. */
    private void pairNearest() {
        List<Integer> open = new ArrayList<>();
        for (int e = 0; e < expected.size(); e++) {
            if (partner[e] < 0 && !expected.get(e).hasKey()) {
                open.add(e);
            }
        }
        List<Integer> free = new ArrayList<>();
        for (int s = 0; s < stored.size(); s++) {
            if (takenBy[s] < 0) {
                free.add(s);
            }
        }
        if (open.isEmpty() || free.isEmpty()) {
            return;
        }
        isOptimal = (long) open.size() * free.size() <= MOST_COMPARED;
        if (!isOptimal) {
            open = open.subList(0, Math.min(open.size(), MOST_SHOWN));
        }
        int[][] costs = costs(open, free);
        if (isOptimal) {
            pairOptimally(open, free, costs);
        } else {
            pairGreedily(open, free, costs);
        }
    }

    private int[][] costs(List<Integer> open, List<Integer> free) {
        int[][] costs = new int[open.size()][free.size()];
        for (int i = 0; i < open.size(); i++) {
            ExpectedRow row = expected.get(open.get(i));
            for (int j = 0; j < free.size(); j++) {
                costs[i][j] = row.differences(stored.get(free.get(j))).size();
            }
        }
        return costs;
    }

    private void pairOptimally(List<Integer> open, List<Integer> free, int[][] costs) {
        boolean wide = open.size() <= free.size();
        int[][] oriented = wide ? costs : transposed(costs);
        int[] partnerOf = BestPairing.of(oriented);
        for (int i = 0; i < partnerOf.length; i++) {
            int row = wide ? i : partnerOf[i];
            int column = wide ? partnerOf[i] : i;
            if (row >= 0 && column >= 0 && isAlike(open.get(row), costs[row][column])) {
                take(open.get(row), free.get(column));
            }
        }
    }

    /** Rows that have nothing in common are no pair; of one column there is nothing else to go by. */
    private boolean isAlike(int e, int differences) {
        int columns = expected.get(e).size();
        return differences < columns || columns == 1;
    }

    private static int[][] transposed(int[][] costs) {
        int[][] turned = new int[costs[0].length][costs.length];
        for (int i = 0; i < costs.length; i++) {
            for (int j = 0; j < costs[0].length; j++) {
                turned[j][i] = costs[i][j];
            }
        }
        return turned;
    }

    private void pairGreedily(List<Integer> open, List<Integer> free, int[][] costs) {
        for (int i = 0; i < open.size(); i++) {
            int best = -1;
            for (int j = 0; j < free.size(); j++) {
                if (takenBy[free.get(j)] < 0
                        && isAlike(open.get(i), costs[i][j])
                        && (best < 0 || costs[i][j] < costs[i][best])) {
                    best = j;
                }
            }
            if (best >= 0) {
                take(open.get(i), free.get(best));
            }
        }
    }

    private void take(int e, int s) {
        partner[e] = s;
        takenBy[s] = e;
    }

    private void collect() {
        for (int e = 0; e < partner.length; e++) {
            ExpectedRow row = expected.get(e);
            if (partner[e] < 0) {
                unpaired.add(row);
                continue;
            }
            Row found = stored.get(partner[e]);
            List<RowPart> differences = row.differences(found);
            if (!differences.isEmpty()) {
                different.add(new Pair(row, found, differences));
            }
        }
        for (int s = 0; s < takenBy.length; s++) {
            if (takenBy[s] < 0) {
                left.add(stored.get(s));
            }
        }
    }
}
