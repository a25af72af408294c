package dev.zabbet.internal.plan;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The plans whose rows are stored before those of another plan, and may be referred to. Not thread-safe. */
final class EarlierPlans {
    private final Map<Table, Plan> plans = new LinkedHashMap<>();
    private final Map<String, Long> taken = new HashMap<>();
    private final Map<Table, List<Row>> lookups = new HashMap<>();

    /** Adds a plan; of several plans for one table, the first is referred to. */
    void add(Plan plan) {
        plans.putIfAbsent(plan.nodes().get(0).table, plan);
        for (Node node : plan.nodes()) {
            plan.lookup(node).ifPresent(row -> lookups.computeIfAbsent(node.table, t -> new ArrayList<>())
                    .add(row));
        }
    }

    /** Returns the rows of a table that came along once for all rows of a plan. */
    List<Row> lookups(Table table) {
        return lookups.getOrDefault(table, List.of());
    }

    /** Finds the plan for rows of a table. */
    Optional<Plan> of(Table table) {
        return Optional.ofNullable(plans.get(table));
    }

    /** Takes combinations of parents for the rows of a node, which no rows of the same table have taken. */
    void take(Node node, int rows) {
        for (Node.Turn turn : node.turns()) {
            String key = node.table.name() + turn.key().columns() + turn.key().expressions();
            long from = taken.merge(key, (long) rows, Long::sum) - rows;
            turn.picks().forEach(pick -> pick.after(from));
            Uniqueness.requireRoom(node, turn.key(), turn.rows(), from + rows);
        }
    }
}
