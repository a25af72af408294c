package dev.zabbet.internal.report;

import java.util.Arrays;

/**
 * Pairs the rows of a cost matrix with its columns so that the sum of costs is the least: the Hungarian method in the form
 * with potentials (Kuhn 1955; Munkres 1957), in time of the third power of the size.
 */
final class BestPairing {
    private BestPairing() {}

    /**
     * Returns for each row its column, -1 for none.
     *
     * @param costs by row and column; at most as many rows as columns
     */
    static int[] of(int[][] costs) {
        int rows = costs.length;
        int columns = rows == 0 ? 0 : costs[0].length;
        long[] rowPotential = new long[rows + 1];
        long[] columnPotential = new long[columns + 1];
        int[] rowOf = new int[columns + 1];
        int[] way = new int[columns + 1];
        for (int row = 1; row <= rows; row++) {
            rowOf[0] = row;
            int column = 0;
            long[] least = new long[columns + 1];
            Arrays.fill(least, Long.MAX_VALUE);
            boolean[] used = new boolean[columns + 1];
            do {
                used[column] = true;
                int current = rowOf[column];
                long delta = Long.MAX_VALUE;
                int next = 0;
                for (int c = 1; c <= columns; c++) {
                    if (!used[c]) {
                        long reduced = costs[current - 1][c - 1] - rowPotential[current] - columnPotential[c];
                        if (reduced < least[c]) {
                            least[c] = reduced;
                            way[c] = column;
                        }
                        if (least[c] < delta) {
                            delta = least[c];
                            next = c;
                        }
                    }
                }
                for (int c = 0; c <= columns; c++) {
                    if (used[c]) {
                        rowPotential[rowOf[c]] += delta;
                        columnPotential[c] -= delta;
                    } else {
                        least[c] -= delta;
                    }
                }
                column = next;
            } while (rowOf[column] != 0);
            do {
                int previous = way[column];
                rowOf[column] = rowOf[previous];
                column = previous;
            } while (column != 0);
        }
        int[] columnOf = new int[rows];
        Arrays.fill(columnOf, -1);
        for (int c = 1; c <= columns; c++) {
            if (rowOf[c] > 0) {
                columnOf[rowOf[c] - 1] = c - 1;
            }
        }
        return columnOf;
    }
}
