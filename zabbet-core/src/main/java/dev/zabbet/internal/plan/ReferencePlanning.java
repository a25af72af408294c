package dev.zabbet.internal.plan;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.IntFunction;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Decides which row each reference leads to: one planned already, one of its own, one that is stored, or none. */
final class ReferencePlanning {
    private final Planner planner;

    ReferencePlanning(Planner planner) {
        this.planner = planner;
    }

    void fillReference(Node node, Reference reference, IntFunction<Cell> cell) {
        Table target = planner.schema.require(reference.target());
        for (int i = 0; i < reference.columns().size(); i++) {
            int own = node.table.requirePosition(reference.columns().get(i));
            if (node.isSet(own)) {
                throw Planner.contradiction(node, own);
            }
            node.cells[own] =
                    cell.apply(target.requirePosition(reference.targetColumns().get(i)));
        }
    }

    /** Gives a reference that nothing was said about its values, if it needs any. */
    void settle(Node node, Reference reference) {
        int[] own = Planner.positions(node.table, reference.columns());
        if (isSettled(node, reference, own)) {
            return;
        }
        Table target = planner.schema.require(reference.target());
        if (node.isJoined(reference, target)) {
            linkOwn(node, reference, target); // no other object has its key
            return;
        }
        Plan planned = planner.before
                .of(target)
                .filter(plan -> freeOf(node, own) && !mayBeTaken(node, reference, plan))
                .orElse(null);
        if (mayBeEmpty(node, own)) {
            boolean usual = planned != null
                    || IntStream.of(own)
                            .allMatch(at -> node.isSet(at) || Planner.isFilled(planner.variation, node, reference, at));
            boolean filled = planner.optional
                    .isFilled(node.table, reference)
                    .orElse(usual && node.said.hasWholeParents(reference, target));
            node.optional.put(reference, filled);
            if (!filled) {
                leaveEmpty(node, reference);
                return;
            }
        }
        if (planned != null) {
            ParentPick pick = new ParentPick(
                    planned, planner.variation, node, reference.columns().get(0), false);
            List<Object> keys = planner.lookups.keys(node.table, reference);
            if (keys.isEmpty() || pick.isAmong(keys, reference.targetColumns().get(0))) {
                planner.picks.add(pick);
                fillReference(node, reference, aim -> new Cell.OfPlanned(pick, aim));
                return;
            }
        }
        if (freeOf(node, own) && !isAlone(node, reference) && isLookup(node, reference, target)) {
            return;
        }
        Node above = nearestAbove(node, target);
        if (above != null && freeOf(node, own) && !isTaken(node, reference, above)) {
            ChildPlanning.linkTo(node, reference, above, divisorTo(node, above));
            return;
        }
        Node other = freeOf(node, own) ? shareable(node, reference, target) : null;
        if (other != null) {
            other.shared = true;
            int each;
            if (other.once) {
                each = node.once ? 1 : Integer.MAX_VALUE;
            } else {
                each = node.perRoot / other.perRoot;
            }
            ChildPlanning.linkTo(node, reference, other, each);
            return;
        }
        linkOwn(node, reference, target);
    }

    private void linkOwn(Node node, Reference reference, Table target) {
        Recipe<?> factory = node.said.parents(reference, target, planner.schema);
        link(
                node,
                reference,
                planner.node(
                        target,
                        node.factory.isFilled() ? factory.filled() : factory,
                        node.perRoot,
                        node,
                        reference,
                        node.once,
                        pins(node, reference)));
    }

    /**
     * A parent that was brought along for the same row asked for serves here too: an order's customer and its invoice's
     * are of one tenant. But two references of one row to one table lead to two rows, and so do those of which the
     * schema says that each row has one of its own.
     */
    private @Nullable Node shareable(Node node, Reference reference, Table target) {
        for (Cell cell : node.cells) {
            if (cell instanceof Cell.Link link && link.node().table.equals(target)) {
                return null;
            }
        }
        boolean alone = isAlone(node, reference);
        for (Node other : planner.nodes) {
            if (other.table.equals(target)
                    && other != node
                    && other.isDone
                    && !other.isChild
                    && !other.isRanged()
                    && (other.once || (!node.once && node.perRoot % other.perRoot == 0))
                    && !(alone && (other.shared || node.perRoot != other.perRoot || isReferredToBy(node.table, other)))
                    && !wouldRepeat(node, reference, other)) {
                return other;
            }
        }
        return null;
    }

    /**
     * Two kinds of rows of a link table must not share all that they link: of two stays of one swap, each of its own guest,
     * the hut may be the same, but not the guest too.
     */
    private boolean wouldRepeat(Node node, Reference reference, Node parent) {
        Table target = parent.table;
        Map<Integer, End> ends = new LinkedHashMap<>();
        for (int i = 0; i < reference.columns().size(); i++) {
            ends.put(
                    node.table.requirePosition(reference.columns().get(i)),
                    end(parent, target.requirePosition(reference.targetColumns().get(i))));
        }
        return Stream.concat(node.table.primaryKey().stream(), node.table.uniques().stream())
                .filter(key -> key.expressions().isEmpty())
                .filter(key -> key.columns().stream().anyMatch(reference.columns()::contains))
                .anyMatch(key -> planner.nodes.stream()
                        .filter(other -> other != node && other.table.equals(node.table))
                        .anyMatch(other -> key.columns().stream()
                                .map(node.table::requirePosition)
                                .allMatch(at -> other.cells[at] instanceof Cell.Link
                                        && end(other, at).equals(ends.getOrDefault(at, end(node, at))))));
    }

    /** Where a column's value comes from in the end. */
    private record End(Node node, int position) {}

    private static End end(Node node, int position) {
        return node.cells[position] instanceof Cell.Link link
                ? end(link.node(), link.position())
                : new End(node, position);
    }

    /** Two kinds of rows cannot both refer to one row where the schema says that each row has one of its own. */
    private boolean isTaken(Node node, Reference reference, Node above) {
        return isAlone(node, reference)
                && planner.nodes.stream()
                        .filter(n -> n != node && n.table.equals(node.table))
                        .anyMatch(n -> isMadeFor(above, n, reference)
                                || (n.cells[
                                                        n.table.requirePosition(reference
                                                                .columns()
                                                                .get(0))]
                                                instanceof Cell.Link link
                                        && link.node() == above));
    }

    /** Also while it is still being worked out, when the one it is made for does not refer to it yet. */
    private static boolean isMadeFor(Node parent, Node child, Reference reference) {
        return parent.origin == child && reference.equals(parent.madeFor);
    }

    private static boolean isAlone(Node node, Reference reference) {
        return Stream.concat(node.table.primaryKey().stream(), node.table.uniques().stream())
                .anyMatch(key ->
                        key.expressions().isEmpty() && reference.columns().containsAll(key.columns()));
    }

    private boolean isReferredToBy(Table table, Node parent) {
        return planner.nodes.stream()
                .filter(n -> n.table.equals(table))
                .flatMap(n -> Stream.of(n.cells))
                .anyMatch(cell -> cell instanceof Cell.Link link && link.node() == parent);
    }

    private static boolean mayBeEmpty(Node node, int[] own) {
        return IntStream.of(own).anyMatch(at -> node.table.columns().get(at).nullable() && !node.isSet(at));
    }

    /** Refers to a row of a table that cannot have one for each row, if it is such a table. */
    private boolean isLookup(Node node, Reference reference, Table target) {
        List<Object> keys = planner.lookups.keys(node.table, reference);
        if (keys.isEmpty() && !planner.lookups.hasLittleRoom(target)) {
            return false;
        }
        Optional<Row> stored = planner.lookups.found(node, target, reference, keys);
        if (stored.isPresent()) {
            fillReference(
                    node,
                    reference,
                    aim -> new Cell.Set(new Setting.Fixed(
                            stored.get().get(target.columns().get(aim).name()))));
            return true;
        }
        Node parent = planner.lookups.made(node, target, keys).orElseGet(() -> lookup(node, reference, target, keys));
        ChildPlanning.linkTo(node, reference, parent, Integer.MAX_VALUE);
        return true;
    }

    private Node lookup(Node node, Reference reference, Table target, List<Object> keys) {
        Recipe<?> factory = node.said.parents(reference, target, planner.schema);
        Node parent = new Node(target, node.factory.isFilled() ? factory.filled() : factory, 1, node, 1, true);
        parent.shared = true;
        int next = planner.lookups.add(parent, keys);
        Map<Integer, Cell> pinned = new LinkedHashMap<>();
        if (!keys.isEmpty()) {
            pinned.put(
                    target.requirePosition(reference.targetColumns().get(0)),
                    new Cell.Set(new Setting.Fixed(keys.get(next % keys.size()))));
        }
        planner.fill(parent, pinned);
        return parent;
    }

    /** A default would refer to a row that need not be there. */
    private static void leaveEmpty(Node node, Reference reference) {
        for (String name : reference.columns()) {
            int at = node.table.requirePosition(name);
            Column column = node.table.columns().get(at);
            if (column.nullable() && !node.isSet(at) && column.defaultText().isPresent() && !column.isComputed()) {
                node.cells[at] = new Cell.Set(new Setting.Fixed(null));
            }
        }
    }

    /** A reference is settled if all columns come from the user, or all from one row of the table referred to. */
    private boolean isSettled(Node node, Reference reference, int[] own) {
        Node common = null;
        boolean given = false;
        for (int i = 0; i < own.length; i++) {
            if (!node.isSet(own[i])) {
                return false;
            }
            Node source = node;
            int at = own[i];
            int target = planner.schema
                    .require(reference.target())
                    .requirePosition(reference.targetColumns().get(i));
            boolean reached = false;
            while (source.cells[at] instanceof Cell.Link link) {
                source = link.node();
                at = link.position();
                if (source.table.name().equals(reference.target()) && at == target) {
                    reached = true;
                    break;
                }
            }
            if (reached && (common == null || common == source)) {
                common = source;
            } else if (!reached
                    && (source.cells[at] instanceof Cell.Set
                            || source.cells[at] instanceof Cell.OfParents
                            || source.cells[at] instanceof Cell.OfPlanned
                            || source.cells[at] instanceof Cell.OfStored
                            || isPromised(source, at, reference, i))) {
                given = true;
            } else {
                return false;
            }
        }
        return common == null || !given;
    }

    /** Rows that the other plan brought along for its own may have taken what a key allows once. */
    private static boolean mayBeTaken(Node node, Reference reference, Plan planned) {
        return planned.tables().contains(node.table)
                && Stream.concat(node.table.primaryKey().stream(), node.table.uniques().stream())
                        .anyMatch(key -> reference.columns().stream().anyMatch(key.columns()::contains));
    }

    /** A column that is not worked out yet will refer to the same table: its own row's reference sees to that. */
    private static boolean isPromised(Node source, int at, Reference reference, int part) {
        String column = source.table.columns().get(at).name();
        return !source.isSet(at)
                && reference.columns().size() == 1
                && source.table.references().stream()
                        .anyMatch(r -> r.target().equals(reference.target())
                                && r.columns().equals(List.of(column))
                                && r.targetColumns()
                                        .equals(List.of(
                                                reference.targetColumns().get(part))));
    }

    private static boolean freeOf(Node node, int[] own) {
        for (int at : own) {
            if (node.isSet(at)) {
                return false;
            }
        }
        return true;
    }

    private static @Nullable Node nearestAbove(Node node, Table target) {
        for (Node above = node; above != null; above = above.origin) {
            if (above.table.equals(target)) {
                return above;
            }
        }
        return null;
    }

    private static int divisorTo(Node node, Node above) {
        int divisor = 1;
        for (Node at = node; at != above && at != null; at = at.origin) {
            divisor *= at.perOrigin;
        }
        return divisor;
    }

    /** Columns of the new parent that must agree with what the child's columns hold already. */
    Map<Integer, Cell> pins(Node child, Reference reference) {
        Table target = planner.schema.require(reference.target());
        Map<Integer, Cell> pins = new LinkedHashMap<>();
        for (int i = 0; i < reference.columns().size(); i++) {
            int own = child.table.requirePosition(reference.columns().get(i));
            if (child.isSet(own)) {
                pins.put(target.requirePosition(reference.targetColumns().get(i)), new Cell.Link(child, own, 1));
            }
        }
        return pins;
    }

    private void link(Node child, Reference reference, Node parent) {
        ChildPlanning.linkTo(child, reference, parent, 1);
    }
}
