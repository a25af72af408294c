package dev.zabbet.internal.plan;

import dev.zabbet.internal.value.MixedVariation;
import dev.zabbet.internal.value.SplitMix;
import java.util.BitSet;
import java.util.List;

/** Which row of a table that a bulk names before each row of another table refers to. */
final class ParentPick {
    final Plan parents;
    private final long variation;
    private final Node children;
    private final String column;
    private final long name;
    private final boolean skewed;
    private long divisor; // 0: drawn for each row
    private long offset;
    private boolean distinct;
    private int always = -1;

    /** @param skewed whether a few parents are drawn much more often than most */
    ParentPick(Plan parents, long variation, Node children, String column, boolean skewed) {
        this.skewed = skewed;
        this.parents = parents;
        this.variation = variation;
        this.children = children;
        this.column = column;
        this.name = SplitMix.name(children.table.name(), column);
    }

    int size() {
        return parents.roots();
    }

    boolean isDrawn() {
        return divisor == 0 && always < 0;
    }

    /** Takes the first parent with one of some keys for all rows, if there is one. */
    boolean isAmong(List<Object> keys, String column) {
        Node root = parents.nodes().get(0);
        int at = root.table.requirePosition(column);
        for (int row = 0; row < size() && always < 0; row++) {
            Object value = parents.value(root, row, at);
            always = value != null && keys.contains(value) ? row : -1;
        }
        return always >= 0;
    }

    /** Tells whether each row gets a parent that no other has. */
    boolean isDistinct() {
        return distinct;
    }

    /** Takes the parents one after another, each for so many rows. */
    void inTurn(long each) {
        divisor = each;
    }

    /** Takes the parents one after another, each for one row only. */
    void onceEach() {
        divisor = 1;
        distinct = true;
    }

    /** Returns for how many rows the parents that are taken in turn stay the same. */
    long divisor() {
        return divisor;
    }

    /** Says how many rows of the same table, in plans before, have taken parents in turn. */
    void after(long rows) {
        offset = Math.max(offset, rows);
    }

    /** Returns the parent's row, from 0, for a row. */
    int of(int row) {
        if (always >= 0) {
            return always;
        }
        if (divisor > 0) {
            return (int) ((offset + row) / divisor % size());
        }
        long drawn = draw(children.ordinal(row));
        return skewed ? Sources.place(drawn, size(), true) : (int) Math.floorMod(drawn, (long) size());
    }

    private long draw(long ordinal) {
        return SplitMix.of(MixedVariation.of(variation, children.table.name(), column, ordinal), name, ordinal);
    }

    /** Adds the parents of all rows that belong to some rows asked for, or that there are once for all of them. */
    void mark(BitSet roots, BitSet found) {
        for (int row = 0; children.once && row < children.perRoot; row++) {
            found.set(of(row));
        }
        for (int root = roots.nextSetBit(0); root >= 0 && !children.once; root = roots.nextSetBit(root + 1)) {
            for (int row = root * children.perRoot; row < (root + 1) * children.perRoot; row++) {
                found.set(of(row));
            }
        }
    }
}
