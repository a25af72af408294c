package dev.zabbet.factory;

import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.time.Clock;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.ToLongBiFunction;
import org.jspecify.annotations.Nullable;

/**
 * The rows that a call of {@code add} stores, with all their values: pure functions of the variation, the table, the
 * ordinal and the column. Not thread-safe.
 */
public final class Plan {
    private final Schema schema;
    private final int roots;
    private final List<Node> nodes;

    private Plan(Schema schema, int roots, List<Node> nodes) {
        this.schema = schema;
        this.roots = roots;
        this.nodes = nodes;
    }

    /**
     * Plans rows.
     *
     * @param count how many rows of the factory, at least 1
     * @param reserve reserves ordinals of a table: how many, answered by the first
     * @throws dev.zabbet.error.ZabbetException if what the factory says cannot be
     */
    public static Plan of(
            Schema schema,
            long variation,
            Clock clock,
            int count,
            Factory<?> factory,
            ToLongBiFunction<Table, Integer> reserve) {
        if (count < 1) {
            throw new IllegalArgumentException("add(" + count + ", …): the count must be at least 1.");
        }
        List<Node> nodes = new Planner(schema).plan(factory);
        Map<Table, Integer> perRoot = new LinkedHashMap<>();
        nodes.forEach(node -> perRoot.merge(node.table, node.perRoot, Integer::sum));
        perRoot.forEach((table, each) -> {
            long first = reserve.applyAsLong(table, Math.multiplyExact(each, count));
            nodes.stream().filter(n -> n.table.equals(table)).forEach(n -> n.number(first, each));
        });
        Plan plan = new Plan(schema, count, nodes);
        nodes.forEach(node -> new Sources(variation, clock, node, plan.size(node)).prepare());
        nodes.forEach(node -> new Validity(node, plan.size(node)).require());
        return plan;
    }

    List<Node> nodes() {
        return nodes;
    }

    Schema schema() {
        return schema;
    }

    int size(Node node) {
        return node.perRoot * roots;
    }

    /** Returns the value of a column in its form in memory; null for one that is left to the store. */
    @Nullable
    Object value(Node node, int row, int position) {
        return node.source(position).at(row);
    }
}
