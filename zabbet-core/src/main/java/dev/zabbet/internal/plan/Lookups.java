package dev.zabbet.internal.plan;

import dev.zabbet.internal.check.Allowed;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.store.Condition;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * Tables that cannot have a row for each row that refers to them: their keys have room for few, or a check on the
 * referring column names the keys there may be. Such rows serve again and again: those that are stored, or else one that
 * the plan brings along. Not thread-safe.
 */
final class Lookups {
    /** A table with room for fewer rows than this is taken for a list of things to choose from. */
    private static final long FEW = 1_000;

    private final EarlierPlans before;
    private final StoreView ground;
    private final Map<Table, Set<String>> targeted = new HashMap<>();
    private final Map<Table, Long> rooms = new HashMap<>();
    private final Map<Node, Map<Table, Integer>> turns = new HashMap<>();
    private final Map<String, List<Node>> made = new LinkedHashMap<>();

    Lookups(Schema schema, EarlierPlans before, StoreView ground) {
        this.before = before;
        this.ground = ground;
        for (Table table : schema.tables()) {
            for (Reference reference : table.references()) {
                schema.table(reference.target())
                        .ifPresent(target -> targeted.computeIfAbsent(target, t -> new HashSet<>())
                                .addAll(reference.targetColumns()));
            }
        }
    }

    /** Tells whether references lead to the column: what is null there could not be referred to. */
    boolean isTargeted(Table table, Column column) {
        return targeted.getOrDefault(table, Set.of()).contains(column.name());
    }

    /** Returns the only keys of the table referred to that checks on the referring column allow; empty if any. */
    List<Object> keys(Table table, Reference reference) {
        if (reference.columns().size() != 1 || table.checks().isEmpty()) {
            return List.of();
        }
        return Allowed.of(table, table.requireColumn(reference.columns().get(0)))
                .choices();
    }

    /** Tells whether a table has room for few rows. */
    boolean hasLittleRoom(Table table) {
        return room(table) < FEW;
    }

    private long room(Table table) {
        Long known = rooms.get(table);
        if (known == null) {
            known = Stream.concat(table.primaryKey().stream(), table.uniques().stream())
                    .mapToLong(key -> room(table, key))
                    .min()
                    .orElse(FEW);
            rooms.put(table, known);
        }
        return known;
    }

    private long room(Table table, UniqueKey key) {
        long rows = 1;
        for (String name : key.columns()) {
            Column column = table.requireColumn(name);
            boolean empty = column.nullable() && key.nullsDistinct() && !isTargeted(table, column);
            if (empty
                    || column.isComputed()
                    || !table.referencesOf(column.name()).isEmpty()) {
                return FEW;
            }
            rows = Math.min(FEW, rows * Math.min(FEW, Maker.of(table, column).size()));
        }
        return key.columns().isEmpty()
                        || !key.expressions().isEmpty()
                        || key.condition().isPresent()
                ? FEW
                : rows;
    }

    /**
     * Finds a row to refer to that is stored, or comes along with a plan before. Two references of one row get two rows,
     * as long as there are.
     */
    Optional<Row> found(Node node, Table target, Reference reference, List<Object> keys) {
        List<String> key = reference.targetColumns();
        Condition condition = keys.isEmpty() ? Condition.all() : new Condition.OneOf(key.get(0), new ArrayList<>(keys));
        Map<Table, Integer> taken = turns.computeIfAbsent(node, n -> new HashMap<>());
        int turn = taken.merge(target, 1, Integer::sum) - 1;
        List<Row> others = before.lookups(target).stream()
                .filter(row -> keys.isEmpty() || keys.contains(row.get(key.get(0))))
                .toList();
        return others.isEmpty()
                ? ground.serving(target, condition, key, turn)
                : Optional.of(others.get(turn % others.size()));
    }

    /**
     * Finds a row that the plan brings along already. Two references of one row get two rows, as long as there is room.
     */
    Optional<Node> made(Node node, Table target, List<Object> keys) {
        List<Node> all = made.getOrDefault(name(target, keys), List.of());
        Optional<Node> other = all.stream().filter(n -> !isLinked(node, n)).findFirst();
        long room = Math.min(room(target), keys.isEmpty() ? FEW : keys.size());
        return other.isPresent() || all.size() < room
                ? other
                : Optional.of(all.get(0)).filter(n -> room > 0);
    }

    /** Notes a row that the plan brings along; returns how many there were before. */
    int add(Node node, List<Object> keys) {
        List<Node> all = made.computeIfAbsent(name(node.table, keys), t -> new ArrayList<>());
        all.add(node);
        return all.size() - 1;
    }

    private static String name(Table target, List<Object> keys) {
        return target.name() + keys;
    }

    private static boolean isLinked(Node from, Node to) {
        return Stream.of(from.cells).anyMatch(cell -> cell instanceof Cell.Link link && link.node() == to);
    }
}
