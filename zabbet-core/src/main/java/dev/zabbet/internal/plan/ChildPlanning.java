package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;

/** Plans the rows that belong to each row: children, linked rows, and trees of rows of one table. */
final class ChildPlanning {
    private final Planner planner;

    ChildPlanning(Planner planner) {
        this.planner = planner;
    }

    static void linkTo(Node child, Reference reference, Node parent, int divisor) {
        for (int i = 0; i < reference.columns().size(); i++) {
            int own = child.table.requirePosition(reference.columns().get(i));
            if (!child.isSet(own)) {
                int target =
                        parent.table.requirePosition(reference.targetColumns().get(i));
                child.cells[own] = new Cell.Link(parent, target, divisor);
            }
        }
    }

    void addChildren(Node owner, Recipe.Children children) {
        Recipe<?> factory = children.way() == Recipe.Children.Way.LINKED ? linkTo(owner, children) : children.recipe();
        Table table = planner.tableOf(factory);
        List<Reference> up = table.references().stream()
                .filter(r -> r.target().equals(owner.table.name()))
                .filter(r -> children.way() == Recipe.Children.Way.TREE
                        || factory.settings().keySet().stream()
                                .noneMatch(name -> r.columns().contains(name)))
                .toList();
        if (up.isEmpty()) {
            throw new ZabbetException(children.describe() + ": no reference of " + table.name()
                    + " is free to point to " + owner.table.name() + ".");
        }
        Reference reference = up.get(0);
        if (up.size() > 1) {
            throw new ZabbetException(children.describe() + ": " + up.size() + " references of " + table.name()
                    + " point to " + owner.table.name() + ": "
                    + up.stream().map(Reference::describe).collect(Collectors.joining(", "))
                    + ". Say what the others hold, so that one is left.");
        }
        int most = children.most();
        Map<Integer, Cell> pinned = new LinkedHashMap<>();
        for (int i = 0; i < reference.columns().size(); i++) {
            pinned.put(
                    table.requirePosition(reference.columns().get(i)),
                    new Cell.Link(
                            owner,
                            owner.table.requirePosition(
                                    reference.targetColumns().get(i)),
                            most));
        }
        Node below = new Node(table, factory, owner.perRoot * most, owner, most, owner.once);
        below.least = children.least();
        below.isChild = true;
        below.isTree = children.way() == Recipe.Children.Way.TREE;
        planner.fill(below, pinned);
    }

    /** Finds the table that links the two, and makes its rows with a row of the other each. */
    Recipe<Row> linkTo(Node owner, Recipe.Children children) {
        Table target = planner.tableOf(children.recipe());
        List<Table> links = planner.schema.tables().stream()
                .filter(t -> !t.equals(owner.table) && !t.equals(target))
                .filter(t -> refersTo(t, owner.table) && refersTo(t, target))
                .toList();
        List<Table> byKey = links.stream()
                .filter(t ->
                        t.keyColumns().stream().allMatch(c -> !t.referencesOf(c).isEmpty())
                                && !t.keyColumns().isEmpty())
                .toList();
        List<Table> found = links.size() > 1 && !byKey.isEmpty() ? byKey : links;
        if (found.size() != 1) {
            throw new ZabbetException(children.describe() + ": "
                    + (found.isEmpty()
                            ? "no table refers to both " + owner.table.name() + " and " + target.name()
                            : found.size() + " tables link " + owner.table.name() + " with " + target.name() + ": "
                                    + found.stream().map(Table::name).collect(Collectors.joining(", ")))
                    + ". Make the rows of the link table by children(…), with a ref to the other.");
        }
        Table link = found.get(0);
        Reference other = link.references().stream()
                .filter(r -> r.target().equals(target.name()))
                .findFirst()
                .orElseThrow();
        return Recipe.ofTable(link.name()).withParent(other.columns().get(0), children.recipe());
    }

    private static boolean refersTo(Table from, Table to) {
        return from.references().stream().anyMatch(r -> r.target().equals(to.name()));
    }
}
