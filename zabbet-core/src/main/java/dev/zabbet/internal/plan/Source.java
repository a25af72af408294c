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

    /**
     * Made once for each row by a function of the user's, which need not give the same again. Room is taken for the rows that are asked
     * for, not for all there are: a part of very many rows may be read alone.
     */
    final class Remembered implements Source {
        private static final int BITS = 10;
        private static final int BLOCK = 1 << BITS;

        private final IntFunction<@Nullable Object> how;
        private final String column;
        private final @Nullable Block[] blocks;

        /** The values of some rows; a state of 1 is one that is being made, 2 one that is there. */
        private static final class Block {
            final @Nullable Object[] values = new @Nullable Object[BLOCK];
            final byte[] states = new byte[BLOCK];
        }

        Remembered(int rows, String column, IntFunction<@Nullable Object> how) {
            this.how = how;
            this.column = column;
            this.blocks = new @Nullable Block[(int) (((long) rows + BLOCK - 1) >>> BITS)];
        }

        /** The rows have other ordinals now. */
        void forget() {
            Arrays.fill(blocks, null);
        }

        @Override
        public @Nullable Object at(int row) {
            Block known = blocks[row >>> BITS];
            Block block = known == null ? new Block() : known;
            blocks[row >>> BITS] = block;
            int at = row & (BLOCK - 1);
            if (block.states[at] == 1) {
                throw new ZabbetException("The value invented for " + column
                        + " asks for a column whose value depends on it. Let only one of the two ask for the other.");
            }
            if (block.states[at] == 0) {
                block.states[at] = 1;
                block.values[at] = how.apply(row);
                block.states[at] = 2;
            }
            return block.values[at];
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
