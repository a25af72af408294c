package dev.zabbet.expect;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Pairs expected rows with stored ones: first as many exact matches as possible (augmenting paths, since a row with
 * matchers may fit several), then those whose key is given, then whatever differs in the fewest columns.
 */
final class Pairing {
    /** An expected row and the stored row that was most likely meant. */
    record Pair(ExpectedRow expected, Row stored, List<Column> differences) {}

    private final List<ExpectedRow> expected;
    private final List<Row> stored;
    private final List<List<Integer>> fits = new ArrayList<>();
    private final int[] takenBy;
    private final int[] partner;

    final List<Pair> different = new ArrayList<>();
    final List<ExpectedRow> unpaired = new ArrayList<>();
    final List<Row> left = new ArrayList<>();

    Pairing(List<ExpectedRow> expected, List<Row> stored) {
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

    boolean isExact() {
        return different.isEmpty() && unpaired.isEmpty();
    }

    /** Returns the stored rows that were paired exactly. */
    List<Row> exact() {
        List<Row> rows = new ArrayList<>();
        for (int e = 0; e < partner.length; e++) {
            if (partner[e] >= 0 && expected.get(e).matches(stored.get(partner[e]))) {
                rows.add(stored.get(partner[e]));
            }
        }
        return rows;
    }

    private void pairExact() {
        for (ExpectedRow row : expected) {
            List<Integer> fitting = new ArrayList<>();
            for (int s = 0; s < stored.size(); s++) {
                if (row.matches(stored.get(s))) {
                    fitting.add(s);
                }
            }
            fits.add(fitting);
        }
        for (int e = 0; e < expected.size(); e++) {
            augment(e, new boolean[stored.size()]);
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

    private void pairNearest() {
        while (true) {
            int bestE = -1;
            int bestS = -1;
            int fewest = Integer.MAX_VALUE;
            for (int e = 0; e < expected.size(); e++) {
                ExpectedRow row = expected.get(e);
                for (int s = 0; partner[e] < 0 && !row.hasKey() && s < stored.size(); s++) {
                    if (takenBy[s] < 0) {
                        int differences = row.differences(stored.get(s)).size();
                        if (differences < fewest && (differences < row.size() || row.size() == 1)) {
                            fewest = differences;
                            bestE = e;
                            bestS = s;
                        }
                    }
                }
            }
            if (bestE < 0) {
                return;
            }
            take(bestE, bestS);
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
            List<Column> differences = row.differences(found);
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
