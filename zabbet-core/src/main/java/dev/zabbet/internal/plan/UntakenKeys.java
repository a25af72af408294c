package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.store.Condition;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Keeps rows apart from those that are stored already: where a key that was made is taken, the table's rows get ordinals
 * further on.
 */
final class UntakenKeys {
    private static final int ATTEMPTS = 24;
    private static final int AT_ONCE = 400;

    private final Plan plan;
    private final StoreView ground;

    private final EarlierPlans before;

    UntakenKeys(Plan plan, StoreView ground, EarlierPlans before) {
        this.plan = plan;
        this.ground = ground;
        this.before = before;
    }

    void settle() {
        plan.nodes().stream().map(node -> node.table).distinct().forEach(this::settle);
    }

    private void settle(Table table) {
        List<Node> nodes =
                plan.nodes().stream().filter(n -> n.table.equals(table)).toList();
        List<UniqueKey> keys = Stream.concat(table.primaryKey().stream(), table.uniques().stream())
                .filter(key -> nodes.stream().anyMatch(node -> isMade(node, key)))
                .toList();
        boolean alone = nodes.stream().allMatch(node -> others(node).isEmpty())
                && (ground.refusesTwins() || !ground.isStored(table, Condition.all()));
        if (keys.isEmpty() || alone) {
            return;
        }
        int beyond = 0;
        for (int attempt = 0; isTaken(nodes, keys); attempt++) {
            if (attempt == ATTEMPTS) {
                throw new ZabbetException("The rows of " + table.name()
                        + " that are stored leave no room for others that are different by "
                        + keys.stream()
                                .map(key -> "(" + String.join(", ", key.columns()) + ")")
                                .collect(Collectors.joining(", "))
                        + ". Give those columns values of your own.");
            }
            plan.number(table, beyond, ground);
            beyond = beyond == 0 ? 1 : beyond * 2;
        }
    }

    /** Tells whether it is our own values that make rows different by the key. */
    private static boolean isMade(Node node, UniqueKey key) {
        Set<Integer> columns = Uniqueness.columns(node.table, key);
        return key.expressions().isEmpty()
                && columns.stream().noneMatch(at -> node.cells[at] instanceof Cell.Reserved || node.isLeftOut(at))
                && columns.stream().anyMatch(at -> isDifferent(node.cells[at]));
    }

    private static boolean isDifferent(@Nullable Cell cell) {
        return (cell instanceof Cell.Made made && made.variety().divisor() > 0) || cell instanceof Cell.Solved;
    }

    private boolean isTaken(List<Node> nodes, List<UniqueKey> keys) {
        for (Node node : nodes) {
            for (UniqueKey key : keys) {
                if (others(node).stream().anyMatch(row -> isTaken(node, key, row))) {
                    return true;
                }
                for (int from = 0; from < plan.size(node) && !ground.refusesTwins(); from += AT_ONCE) {
                    Condition any = rows(node, key, from, Math.min(plan.size(node), from + AT_ONCE));
                    if (ground.isStored(node.table, any)) {
                        return true;
                    }
                }
            }
        }
        return false;
    }

    /** Rows that come along once, the key of which may have been given to them. */
    private List<Row> others(Node node) {
        List<Row> others = new ArrayList<>(before.lookups(node.table));
        for (Node other : plan.nodes()) {
            if (other != node && other.table.equals(node.table)) {
                plan.lookup(other).ifPresent(others::add);
            }
        }
        return others;
    }

    private boolean isTaken(Node node, UniqueKey key, Row other) {
        for (int row = 0; row < plan.size(node); row++) {
            boolean same = true;
            for (String column : key.columns()) {
                Object value = plan.value(node, row, node.table.requirePosition(column));
                same = same && value != null && value.equals(other.get(column));
            }
            if (same) {
                return true;
            }
        }
        return false;
    }

    private Condition rows(Node node, UniqueKey key, int from, int to) {
        List<String> columns = key.columns();
        if (columns.size() == 1) {
            int at = node.table.requirePosition(columns.get(0));
            List<@Nullable Object> values = new ArrayList<>();
            for (int row = from; row < to; row++) {
                values.add(plan.value(node, row, at));
            }
            values.removeIf(Objects::isNull);
            return new Condition.OneOf(columns.get(0), values);
        }
        List<Condition> rows = new ArrayList<>();
        for (int row = from; row < to; row++) {
            List<Condition> parts = new ArrayList<>();
            for (String column : columns) {
                Object value = plan.value(node, row, node.table.requirePosition(column));
                if (value != null) {
                    parts.add(new Condition.Equal(column, value));
                }
            }
            if (parts.size() == columns.size()) {
                rows.add(new Condition.And(parts));
            }
        }
        return new Condition.Or(rows);
    }
}
