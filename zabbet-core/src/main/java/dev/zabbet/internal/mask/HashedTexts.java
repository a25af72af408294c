package dev.zabbet.internal.mask;

import dev.zabbet.internal.value.SplitMix;

/** A set of numbers that stand for texts: eight bytes each, for millions of them. Zero is not kept. Not thread-safe. */
final class HashedTexts {
    private long[] table = new long[64];
    private int size;

    /** Returns the number that stands for a text. Two texts may share one, as seldom as 64 bits allow. */
    static long of(String text) {
        return SplitMix.name(text, "") | 1;
    }

    void add(long number) {
        if (number == 0 || holds(number)) {
            return;
        }
        if (++size * 2 > table.length) {
            long[] old = table;
            table = new long[old.length * 2];
            for (long one : old) {
                if (one != 0) {
                    table[free(one)] = one;
                }
            }
        }
        table[free(number)] = number;
    }

    boolean holds(long number) {
        int at = place(number);
        while (table[at] != 0) {
            if (table[at] == number) {
                return true;
            }
            at = (at + 1) & (table.length - 1);
        }
        return false;
    }

    /** How many of these are in another set, too. */
    int inCommon(HashedTexts other) {
        int common = 0;
        for (long one : table) {
            common += one != 0 && other.holds(one) ? 1 : 0;
        }
        return common;
    }

    private int free(long number) {
        int at = place(number);
        while (table[at] != 0) {
            at = (at + 1) & (table.length - 1);
        }
        return at;
    }

    private int place(long number) {
        return (int) (number ^ number >>> 32) & (table.length - 1);
    }
}
