package dev.zabbet.internal.plan;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.StoringOrder;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/** Puts a plan's rows into an order in which they can be stored. */
final class PlanLoad {
    private final Plan plan;
    private final @Nullable Share only;
    private final StoringOrder order;
    private final List<RowSource> inserts = new ArrayList<>();
    private final List<Load.Fill> fills = new ArrayList<>();

    /**
     * Some of the rows of a plan.
     *
     * @param roots the rows asked for that count, and what belongs to each of them
     * @param once whether the rows that there are once for all of them count
     */
    record Share(BitSet roots, boolean once) {
        private boolean holds(Node node, int row) {
            return node.once ? once : roots.get(row / node.perRoot);
        }
    }

    private PlanLoad(Plan plan, @Nullable Share only) {
        this.plan = plan;
        this.only = only;
        this.order = plan.schema().storingOrder();
    }

    /**
     * @param without a node whose rows are left out
     * @param only what of the plan counts; null for all
     */
    static Load of(Plan plan, Set<Node> without, @Nullable Share only) {
        PlanLoad load = new PlanLoad(plan, only);
        for (Table table : load.order.tables()) {
            List<Node> nodes = plan.nodes().stream()
                    .filter(n -> n.table.equals(table) && !without.contains(n))
                    .toList();
            load.parentsFirst(nodes).forEach(load::add);
        }
        return new Load(load.inserts, load.fills);
    }

    /** Nodes of one table that refer to each other: the one referred to comes first. */
    private List<Node> parentsFirst(List<Node> nodes) {
        List<Node> ordered = new ArrayList<>();
        nodes.forEach(node -> visit(node, nodes, ordered, new HashSet<>()));
        return ordered;
    }

    private static void visit(Node node, List<Node> all, List<Node> ordered, Set<Node> path) {
        if (ordered.contains(node) || !path.add(node)) {
            return;
        }
        for (Cell cell : node.cells) {
            if (cell instanceof Cell.Link link && all.contains(link.node())) {
                visit(link.node(), all, ordered, path);
            }
        }
        ordered.add(node);
    }

    private void add(Node node) {
        Set<Integer> later = filledLater(node);
        List<Integer> first = new ArrayList<>();
        for (int at = 0; at < node.cells.length; at++) {
            // a default would fill in what comes later
            boolean empty = node.table.columns().get(at).defaultText().isPresent();
            if (!node.isLeftOut(at) && (!later.contains(at) || empty)) {
                first.add(at);
            }
        }
        inserts.add(new NodeRows(plan, node, first, later, only));
        if (!later.isEmpty()) {
            List<Integer> columns = new ArrayList<>();
            node.table.keyColumns().forEach(key -> columns.add(node.table.position(key)));
            int keys = columns.size();
            columns.addAll(later);
            fills.add(new Load.Fill(new NodeRows(plan, node, columns, Set.of(), only), keys));
        }
    }

    /** Columns of references that run against the storing order and point to rows of this very plan. */
    private Set<Integer> filledLater(Node node) {
        Set<Integer> later = new HashSet<>();
        for (Reference reference : node.table.references()) {
            if (!order.runsAgainst(node.table, reference) || reference.target().equals(node.table.name())) {
                continue;
            }
            for (String column : reference.columns()) {
                int at = node.table.position(column);
                if (node.cells[at] instanceof Cell.Link
                        && node.table.columns().get(at).nullable()) {
                    later.add(at);
                }
            }
        }
        return later;
    }

    static @Nullable Node nodeOf(RowSource source) {
        return source instanceof NodeRows rows ? rows.node : null;
    }

    /** Some columns of a node's rows. */
    private static final class NodeRows implements RowSource {
        private final Node node;
        private final int @Nullable [] rows;
        private final int size;
        private final Source[] sources;
        private final List<Column> columns;

        NodeRows(Plan plan, Node node, List<Integer> positions, Set<Integer> empty, @Nullable Share only) {
            this.node = node;
            this.sources = positions.stream()
                    .map(at -> empty.contains(at) ? new Source.None() : node.storedSource(at))
                    .toArray(Source[]::new);
            this.rows = node.isRanged() || only != null
                    ? IntStream.range(0, plan.size(node))
                            .filter(row -> only == null || only.holds(node, row))
                            .filter(node::exists)
                            .toArray()
                    : null;
            this.size = rows == null ? plan.size(node) : rows.length;
            this.columns =
                    positions.stream().map(i -> node.table.columns().get(i)).toList();
        }

        @Override
        public Table table() {
            return node.table;
        }

        @Override
        public List<Column> columns() {
            return columns;
        }

        @Override
        public int size() {
            return size;
        }

        @Override
        public @Nullable Object value(int row, int column) {
            return sources[column].at(rows == null ? row : rows[row]);
        }
    }
}
