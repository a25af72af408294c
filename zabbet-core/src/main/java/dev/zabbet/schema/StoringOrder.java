package dev.zabbet.schema;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * The order in which rows can be stored: tables referred to before those that refer to them.
 *
 * @param tables all tables, parents first; where cycles leave a choice, the order of the schema
 * @param cycles the groups of tables that refer to each other in a circle, or to themselves
 */
public record StoringOrder(List<Table> tables, List<Cycle> cycles) {

    /**
     * Tables that refer to each other in a circle.
     *
     * @param tables the tables, in storing order
     * @param references those references inside the circle that run against the storing order (or to the table itself)
     * @param breaking the way to store rows in spite of the circle
     */
    public record Cycle(List<Table> tables, List<Reference> references, Breaking breaking) {
        /**
         * Copies the lists.
         *
         * @param tables the tables
         * @param references the references of the cycle
         * @param breaking how rows of the cycle can be stored
         */
        public Cycle {
            tables = List.copyOf(tables);
            references = List.copyOf(references);
        }
    }

    /** How a circle of references is broken. */
    public enum Breaking {
        /** The reference's columns are stored empty and filled afterwards. */
        EMPTY_THEN_UPDATE,
        /** The check of the reference waits until the transaction commits. */
        DEFERRED,
        /** No column may be empty and no check waits: only rows that refer to themselves can be stored. */
        ROW_BY_ROW
    }

    /**
     * Copies the lists.
     *
     * @param tables the tables
     * @param cycles tables that refer to each other in a circle
     */
    public StoringOrder {
        tables = List.copyOf(tables);
        cycles = List.copyOf(cycles);
    }

    /**
     * {@return whether {@code reference} of {@code table} runs against this order, so that it needs breaking}
     *
     * @param table the table
     * @param reference the reference
     */
    public boolean runsAgainst(Table table, Reference reference) {
        return cycles.stream()
                .anyMatch(c -> c.tables().contains(table) && c.references().contains(reference));
    }

    static StoringOrder of(Collection<Table> all) {
        Map<String, Table> byName = new LinkedHashMap<>();
        all.forEach(t -> byName.put(t.name(), t));
        List<List<Table>> groups = new Circles(byName).find();
        List<Table> order = new ArrayList<>();
        List<Cycle> cycles = new ArrayList<>();
        for (List<Table> group : groups) {
            List<Table> inside = breakUp(group);
            order.addAll(inside);
            List<Reference> against = against(inside);
            if (!against.isEmpty()) {
                cycles.add(new Cycle(inside, against, breaking(inside, against)));
            }
        }
        return new StoringOrder(order, cycles);
    }

    /** Orders the tables of a circle: again and again the one that waits least, counting only what cannot be empty. */
    private static List<Table> breakUp(List<Table> group) {
        List<Table> left = new ArrayList<>(group);
        List<Table> order = new ArrayList<>();
        while (!left.isEmpty()) {
            Table next = left.get(0);
            long fewest = Long.MAX_VALUE;
            for (Table candidate : left) {
                long waits = 0;
                for (Reference r : candidate.references()) {
                    boolean inside = !r.target().equals(candidate.name())
                            && left.stream().anyMatch(t -> t.name().equals(r.target()));
                    if (inside) {
                        waits += canBeEmpty(candidate, r) ? 1 : 1000;
                    }
                }
                if (waits < fewest) {
                    fewest = waits;
                    next = candidate;
                }
            }
            left.remove(next);
            order.add(next);
        }
        return order;
    }

    private static List<Reference> against(List<Table> order) {
        List<Reference> against = new ArrayList<>();
        Set<String> later = new LinkedHashSet<>();
        for (int i = order.size() - 1; i >= 0; i--) {
            later.add(order.get(i).name());
            for (Reference r : order.get(i).references()) {
                if (later.contains(r.target())) {
                    against.add(r);
                }
            }
        }
        return against;
    }

    private static Breaking breaking(List<Table> tables, List<Reference> against) {
        boolean empty = true;
        boolean deferred = true;
        for (Table table : tables) {
            for (Reference r : table.references()) {
                if (against.contains(r)) {
                    empty &= canBeEmpty(table, r);
                    deferred &= r.isDeferrable();
                }
            }
        }
        if (empty) {
            return Breaking.EMPTY_THEN_UPDATE;
        }
        if (deferred) {
            return Breaking.DEFERRED;
        }
        return Breaking.ROW_BY_ROW;
    }

    private static boolean canBeEmpty(Table table, Reference reference) {
        return reference.columns().stream().anyMatch(c -> table.requireColumn(c).nullable());
    }

    /** Groups of tables that can reach each other, those referred to first (Tarjan's strongly connected components). */
    private static final class Circles {
        private final Map<String, Table> tables;
        private final Map<String, Integer> index = new HashMap<>();
        private final Map<String, Integer> low = new HashMap<>();
        private final Deque<String> path = new ArrayDeque<>();
        private final Set<String> onPath = new LinkedHashSet<>();
        private final List<List<Table>> groups = new ArrayList<>();

        Circles(Map<String, Table> tables) {
            this.tables = tables;
        }

        List<List<Table>> find() {
            tables.values().forEach(table -> {
                if (!index.containsKey(table.name())) {
                    visit(table);
                }
            });
            return groups;
        }

        private void visit(Table table) {
            String name = table.name();
            int number = index.size();
            index.put(name, number);
            int lowest = number;
            path.push(name);
            onPath.add(name);
            for (Reference r : table.references()) {
                Table target = tables.get(r.target());
                if (target == null) {
                    continue;
                }
                Integer seen = index.get(target.name());
                if (seen == null) {
                    visit(target);
                    lowest = Math.min(lowest, low.getOrDefault(target.name(), lowest));
                } else if (onPath.contains(target.name())) {
                    lowest = Math.min(lowest, seen);
                }
            }
            low.put(name, lowest);
            if (lowest == number) {
                Set<String> members = new LinkedHashSet<>();
                String member;
                do {
                    member = path.pop();
                    onPath.remove(member);
                    members.add(member);
                } while (!member.equals(name));
                groups.add(tables.values().stream()
                        .filter(t -> members.contains(t.name()))
                        .toList());
            }
        }
    }
}
