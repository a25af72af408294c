package dev.zabbet.internal.plan;

import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiPredicate;
import java.util.function.Function;

/**
 * Which references that may be empty are filled, or left empty, against the usual rule, because a check of their table
 * could not be kept otherwise: "one of the two is there", "exactly one of these four". Immutable.
 */
final class OptionalParents {
    /** As the rule has it. */
    static final OptionalParents USUAL = new OptionalParents(Map.of());

    private static final int MOST_TRIES = 128;

    private final Map<String, Boolean> filled;

    private OptionalParents(Map<String, Boolean> filled) {
        this.filled = filled;
    }

    /** Tells whether a reference is filled, if that is not as usual. */
    Optional<Boolean> isFilled(Table table, Reference reference) {
        return Optional.ofNullable(filled.get(name(table, reference)));
    }

    /**
     * Finds out what has to be otherwise than usual; what cannot be helped stays as it is.
     *
     * @param planner plans with what has been found so far
     * @param keeps tells of the nodes of a plan whether one of them keeps its table's checks
     */
    static OptionalParents of(Function<OptionalParents, List<Node>> planner, BiPredicate<List<Node>, Node> keeps) {
        OptionalParents found = USUAL;
        Set<Table> hopeless = new HashSet<>();
        List<Node> nodes = planner.apply(found);
        for (int at = 0; at < nodes.size(); at++) {
            Node node = nodes.get(at);
            List<Reference> tied = tied(node);
            if (tied.isEmpty() || hopeless.contains(node.table) || keeps.test(nodes, node)) {
                continue;
            }
            Optional<OptionalParents> better = found.better(node, tied, planner, keeps);
            if (better.isPresent()) {
                found = better.get();
                nodes = planner.apply(found);
                at = -1; // other rows may have come along
            }
            hopeless.add(node.table); // settled, one way or the other
        }
        return found;
    }

    /** Tells whether a check of a node's table speaks of a reference that may be empty. */
    static boolean matter(List<Node> nodes) {
        return nodes.stream().anyMatch(node -> !tied(node).isEmpty());
    }

    /** References of a node that may be empty and that a check speaks of. */
    private static List<Reference> tied(Node node) {
        List<Reference> tied = new ArrayList<>();
        for (Check check : node.optional.isEmpty() ? List.<Check>of() : node.table.checks()) {
            Set<String> columns = CheckCondition.of(node.table, check).columns();
            for (Reference reference : node.optional.keySet()) {
                if (!tied.contains(reference) && reference.columns().stream().anyMatch(columns::contains)) {
                    tied.add(reference);
                }
            }
        }
        return tied;
    }

    /** Tries with one of the references otherwise, then with two, and so on. */
    private Optional<OptionalParents> better(
            Node node,
            List<Reference> tied,
            Function<OptionalParents, List<Node>> planner,
            BiPredicate<List<Node>, Node> keeps) {
        int some = Math.min(tied.size(), 12);
        int tries = 0;
        for (int changes = 1; changes <= some; changes++) {
            for (int chosen = 1; chosen < 1 << some && tries < MOST_TRIES; chosen++) {
                if (Integer.bitCount(chosen) != changes) {
                    continue;
                }
                tries++;
                OptionalParents trial = with(node, tied, chosen);
                List<Node> nodes = planner.apply(trial);
                if (nodes.stream().filter(n -> n.table.equals(node.table)).allMatch(n -> keeps.test(nodes, n))) {
                    return Optional.of(trial);
                }
            }
        }
        return Optional.empty();
    }

    private OptionalParents with(Node node, List<Reference> tied, int chosen) {
        Map<String, Boolean> otherwise = new LinkedHashMap<>(filled);
        for (int i = 0; i < tied.size(); i++) {
            boolean other = i < 31 && (chosen >> i & 1) == 1;
            boolean usual = Boolean.TRUE.equals(node.optional.get(tied.get(i)));
            // those as usual too: in another place of the plan the usual is not the same
            otherwise.put(name(node.table, tied.get(i)), usual != other);
        }
        return new OptionalParents(otherwise);
    }

    private static String name(Table table, Reference reference) {
        return table.name() + " " + reference.columns() + " " + reference.target();
    }
}
