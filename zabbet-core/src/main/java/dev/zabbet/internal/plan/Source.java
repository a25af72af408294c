package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import java.util.Arrays;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/** Gives the values of one column of a node, in their form in memory, by row from 0: the same one each time. */
sealed interface Source {
    /** Returns a row's value. */
    @Nullable
    Object at(int row);

    /** The same few values over and over. */
    record Repeated(@Nullable Object[] values) implements Source {
        @Override
        public @Nullable Object at(int row) {
            return values[values.length == 1 ? 0 : row % values.length];
        }
    }

    /** The values of another node's column: row r takes that of row r / divisor. */
    record Linked(Node node, int position, int divisor) implements Source {
        @Override
        public @Nullable Object at(int row) {
            return node.source(position).at(divisor == 1 ? row : row / divisor);
        }
    }

    /** The row's ordinal. */
    record Numbered(Node node) implements Source {
        @Override
        public Object at(int row) {
            return node.ordinal(row);
        }
    }

    /** Made for each row by a pure function. */
    record Pure(IntFunction<Object> how) implements Source {
        @Override
        public Object at(int row) {
            return how.apply(row);
        }
    }

    /** Chosen for each row among what is there. */
    record Chosen(IntFunction<@Nullable Object> how) implements Source {
        @Override
        public @Nullable Object at(int row) {
            return how.apply(row);
        }
    }

    /** Made once for each row by a function of the user's, which need not give the same again. */
    final class Remembered implements Source {
        private final IntFunction<@Nullable Object> how;
        private final String column;
        private final @Nullable Object[] values;
        private final byte[] states;

        Remembered(int rows, String column, IntFunction<@Nullable Object> how) {
            this.how = how;
            this.column = column;
            this.values = new @Nullable Object[rows];
            this.states = new byte[rows];
        }

        /** The rows have other ordinals now. */
        void forget() {
            Arrays.fill(states, (byte) 0);
        }

        @Override
        public @Nullable Object at(int row) {
            if (states[row] == 1) {
                throw new ZabbetException("The value invented for " + column
                        + " asks for a column whose value depends on it. Let only one of the two ask for the other.");
            }
            if (states[row] == 0) {
                states[row] = 1;
                values[row] = how.apply(row);
                states[row] = 2;
            }
            return values[row];
        }
    }

    /** Found together with other columns. */
    record Solved(Puzzle puzzle, int index) implements Source {
        @Override
        public @Nullable Object at(int row) {
            return puzzle.value(index, row);
        }
    }

    /** Left to the store. */
    record None() implements Source {
        @Override
        public @Nullable Object at(int row) {
            return null;
        }
    }
}
