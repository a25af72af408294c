package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.MixedVariation;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.time.Clock;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * The rows that a call of {@code add} stores, with all their values: pure functions of the variation, the table, the
 * ordinal and the column. Not thread-safe.
 */
public final class Plan {
    /** So many rows show whether checks can be kept, whatever the number of rows asked for. */
    private static final int A_FEW = 4;

    private final Schema schema;
    private final long variation;
    private final int roots;
    private final List<Node> nodes;
    private final List<ParentPick> picks;

    private Plan(Schema schema, long variation, int roots, List<Node> nodes, List<ParentPick> picks) {
        this.picks = picks;
        this.variation = variation;
        this.schema = schema;
        this.roots = roots;
        this.nodes = nodes;
    }

    /**
     * Plans rows.
     *
     * @param count how many rows of the factory, at least 1
     * @param ground where the rows will be stored
     * @throws dev.zabbet.error.ZabbetException if the factory contradicts itself or the schema
     */
    public static Plan of(Schema schema, long variation, Clock clock, int count, Recipe<?> factory, StoreView ground) {
        return of(schema, variation, clock, count, factory, ground, new EarlierPlans());
    }

    /**
     * Plans rows some of whose columns are given, in their form in memory; the others are filled as a factory fills them.
     *
     * @param given the rows; asked for again and again, mostly in their order
     * @throws dev.zabbet.error.ZabbetException if the other columns cannot be filled
     */
    public static Plan filling(Schema schema, long variation, Clock clock, RowSource given, StoreView ground) {
        Recipe<?> factory = Recipe.ofTable(given.table().name());
        for (int i = 0; i < given.columns().size(); i++) {
            factory = factory.with(given.columns().get(i).name(), new Setting.Given(given, i));
        }
        return of(schema, variation, clock, given.size(), factory, ground);
    }

    /**
     * Plans rows that refer to those of other plans.
     *
     * @param before plans whose rows are stored before
     */
    static Plan of(
            Schema schema,
            long variation,
            Clock clock,
            int count,
            Recipe<?> factory,
            StoreView ground,
            EarlierPlans before) {
        if (count < 1) {
            throw new IllegalArgumentException("add(" + count + ", …): the count must be at least 1.");
        }
        Planner planner = new Planner(schema, variation, before, ground, OptionalParents.USUAL);
        List<Node> nodes = planner.plan(factory);
        if (OptionalParents.matter(nodes)) {
            OptionalParents optional = OptionalParents.of(
                    trial -> new Planner(schema, variation, before, ground, trial).plan(factory),
                    (all, node) -> new Plan(schema, variation, A_FEW, all, List.of()).keepsChecks(node, clock, ground));
            planner = new Planner(schema, variation, before, ground, optional);
            nodes = planner.plan(factory);
        }
        Plan plan = new Plan(schema, variation, count, nodes, planner.picks());
        for (Node node : nodes) {
            Uniqueness.requireRoom(node, plan.size(node));
            before.take(node, plan.size(node));
        }
        plan.numberAll(ground);
        List<Sources> sources = nodes.stream()
                .map(node -> new Sources(variation, clock, node, plan.size(node), ground))
                .toList();
        sources.forEach(Sources::prepare);
        for (int i = 0; i < nodes.size(); i++) {
            Node node = nodes.get(i);
            new Puzzles(node, plan.size(node), sources.get(i), new AskedChecks(node.table, ground)).solve();
        }
        new UntakenKeys(plan, ground, before).settle();
        nodes.forEach(node -> new Validity(node, plan.size(node)).require());
        sources.forEach(Sources::prepareStoring);
        MixedVariation.find(variation).ifPresent(plan::keepMade);
        return plan;
    }

    /** Keeps the values that are others in other variations. */
    private void keepMade(MixedVariation mixed) {
        for (Node node : nodes) {
            for (int at = 0; at < node.cells.length; at++) {
                Cell cell = Objects.requireNonNull(node.cells[at]);
                Column column = node.table.columns().get(at);
                boolean invented = cell instanceof Cell.Set set && set.isInvented();
                if (column.nullable() && !invented) {
                    boolean filled = !(cell instanceof Cell.LeftOut);
                    mixed.keep(
                            new MixedVariation.Place(node.table.name(), column.name(), 0), filled ? "filled" : "empty");
                }
                for (int row = 0; cell.varies() && row < size(node); row++) {
                    mixed.keep(
                            new MixedVariation.Place(node.table.name(), column.name(), node.ordinal(row)),
                            value(node, row, at));
                }
            }
        }
    }

    /** Tells whether the first rows of a node would keep their table's checks; leaves no trace in the ground. */
    private boolean keepsChecks(Node node, Clock clock, StoreView ground) {
        StoreView none = (table, count) -> 1;
        tables().forEach(table -> number(table, 0, none));
        try {
            nodes.forEach(any -> new Sources(variation, clock, any, size(any), ground).prepare());
            Sources sources = new Sources(variation, clock, node, size(node), ground);
            new Puzzles(node, size(node), sources, new AskedChecks(node.table, ground)).solve();
            new Validity(node, size(node)).require();
            return true;
        } catch (ZabbetException e) {
            return false;
        }
    }

    /**
     * Takes ordinals for the rows of a table: first those that there are for each row asked for, then those that there
     * are once.
     *
     * @param beyond how many more than that to leave out before them
     */
    void number(Table table, int beyond, StoreView ground) {
        numberFrom(table, ground.reserve(table, Math.addExact(rows(table), beyond)) + beyond);
    }

    private void numberAll(StoreView ground) {
        Map<Table, Integer> rows = new LinkedHashMap<>();
        tables().forEach(table -> rows.put(table, rows(table)));
        ground.reserve(rows).forEach(this::numberFrom);
    }

    private void numberFrom(Table table, long first) {
        int each = rows(table, false);
        for (Node node : nodes) {
            if (node.table.equals(table)) {
                node.number(variation, node.once ? first + (long) each * roots : first, each);
            }
        }
    }

    private int rows(Table table) {
        return Math.addExact(Math.multiplyExact(rows(table, false), roots), rows(table, true));
    }

    private int rows(Table table, boolean once) {
        return nodes.stream()
                .filter(n -> n.table.equals(table) && n.once == once)
                .mapToInt(n -> n.perRoot)
                .sum();
    }

    /** Returns the tables that it has rows of. */
    List<Table> tables() {
        return nodes.stream().map(node -> node.table).distinct().toList();
    }

    /** Returns the first ordinal of its rows of a table. */
    long first(Table table) {
        return nodes.stream()
                .filter(n -> n.table.equals(table))
                .mapToLong(Node::firstOfTable)
                .min()
                .orElseThrow();
    }

    /** Returns how many rows were asked for. */
    int roots() {
        return roots;
    }

    /** Returns which rows of other plans its rows refer to. */
    List<ParentPick> picks() {
        return picks;
    }

    /** Returns all rows, in an order in which they can be stored. */
    public Load load() {
        return PlanLoad.of(this, Set.of(), null);
    }

    /** Tells whether rows of {@link #load} are those that were asked for, and no parents or children of them. */
    public boolean isRoot(RowSource source) {
        return PlanLoad.nodeOf(source) == nodes.get(0);
    }

    /**
     * Returns a value of a row that was asked for; empty if it is null or left to the store.
     *
     * @param row the row, from 0
     */
    public Optional<Object> root(int row, Column column) {
        Node node = nodes.get(0);
        int at = node.table.requirePosition(column.name());
        return node.isLeftOut(at) ? Optional.empty() : Optional.ofNullable(value(node, row, at));
    }

    List<Node> nodes() {
        return nodes;
    }

    /** Returns the row of a node that comes along once for all rows. */
    Optional<Row> lookup(Node node) {
        if (!node.once || node.perRoot != 1) {
            return Optional.empty();
        }
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (int at = 0; at < node.cells.length; at++) {
            values.put(node.table.columns().get(at).name(), value(node, 0, at));
        }
        return Optional.of(Row.of(values));
    }

    Schema schema() {
        return schema;
    }

    int size(Node node) {
        return node.once ? node.perRoot : node.perRoot * roots;
    }

    /** Returns the value of a column in its form in memory; null for one that is left to the store. */
    @Nullable
    Object value(Node node, int row, int position) {
        return node.source(position).at(row);
    }
}
