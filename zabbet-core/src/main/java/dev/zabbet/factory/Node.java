package dev.zabbet.factory;

import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import java.util.Objects;
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

    /** Whether all that the node refers to has been worked out. */
    boolean isDone;

    /** Whether its rows were asked for below others. */
    boolean isChild;

    /** Whether several rows of the plan refer to one row of this node. */
    boolean shared;

    private long room = Long.MAX_VALUE;
    private @Nullable UniqueKey tightest;
    private final @Nullable Source[] sources;
    private long firstOrdinal;
    private int tablePerRoot;

    Node(Table table, Factory<?> factory, int perRoot, @Nullable Node origin, int perOrigin) {
        this.table = table;
        this.factory = factory;
        this.perRoot = perRoot;
        this.origin = origin;
        this.perOrigin = perOrigin;
        this.cells = new @Nullable Cell[table.columns().size()];
        this.sources = new @Nullable Source[cells.length];
    }

    boolean isSet(int position) {
        return cells[position] != null;
    }

    /**
     * Says which ordinals the node's rows have.
     *
     * @param first the first ordinal of the table in this plan
     * @param each how many rows of the table there are for one row asked for
     */
    void number(long first, int each) {
        firstOrdinal = first;
        tablePerRoot = each;
        for (Source source : sources) {
            if (source instanceof Source.Remembered remembered) {
                remembered.forget();
            }
        }
    }

    /** Notes that a key has room for so many different rows. */
    void limit(long rows, UniqueKey key) {
        if (rows < room) {
            room = rows;
            tightest = key;
        }
    }

    long room() {
        return room;
    }

    @Nullable
    UniqueKey tightest() {
        return tightest;
    }

    long ordinal(int row) {
        return perRoot == 1
                ? firstOrdinal + (long) row * tablePerRoot + offset
                : firstOrdinal + (long) (row / perRoot) * tablePerRoot + offset + row % perRoot;
    }

    void source(int position, Source source) {
        sources[position] = source;
    }

    Source source(int position) {
        return Objects.requireNonNull(sources[position]);
    }

    boolean isLeftOut(int position) {
        return cells[position] instanceof Cell.LeftOut;
    }
}
