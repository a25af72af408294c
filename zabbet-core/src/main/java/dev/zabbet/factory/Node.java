package dev.zabbet.factory;

import dev.zabbet.schema.Table;
import org.jspecify.annotations.Nullable;

/**
 * Rows of one table that stand at one place of the plan: the rows asked for, one kind of their parents, or one kind of
 * their children. For each row asked for there are {@code perRoot} of them.
 */
final class Node {
    final Table table;
    final Factory<?> factory;
    final int perRoot;
    final @Nullable Cell[] cells;

    /** The node that this one was made for, and how many rows of this one stand for one row of that. */
    final @Nullable Node origin;

    final int perOrigin;

    /** Where this node's rows begin among the rows of its table for one row asked for. */
    int offset;

    Node(Table table, Factory<?> factory, int perRoot, @Nullable Node origin, int perOrigin) {
        this.table = table;
        this.factory = factory;
        this.perRoot = perRoot;
        this.origin = origin;
        this.perOrigin = perOrigin;
        this.cells = new @Nullable Cell[table.columns().size()];
    }

    boolean isSet(int position) {
        return cells[position] != null;
    }
}
