package dev.zabbet.factory;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.type.Mapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.Canon;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Kind;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.IntFunction;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Works out which rows a factory needs: one node for the rows asked for, one for each kind of parent and child. The plan
 * is the same for one row and for a million, because every row of a node gets its values in the same way.
 *
 * <p>Rules for a reference, in this order: what the factory says; what its columns hold already because another
 * reference shares them; a row of a plan before; empty, if a column may be null and no check says otherwise; of a table
 * that has room for few rows, one for all; the nearest row up the chain that this one was made for, if it is of the table
 * referred to; a row that came along for the same row asked for; a new parent for each row.
 */
final class Planner {
    private final Schema schema;
    private final long variation;
    private final Before before;
    private final List<Node> nodes = new ArrayList<>();
    private final List<ParentPick> picks = new ArrayList<>();
    private final Lookups lookups;
    private final OptionalParents optional;

    /**
     * @param before plans whose rows are there to be referred to
     * @param ground where the rows will be stored
     * @param optional which optional references are not treated as usual
     */
    Planner(Schema schema, long variation, Before before, Ground ground, OptionalParents optional) {
        this.schema = schema;
        this.variation = variation;
        this.before = before;
        this.lookups = new Lookups(schema, before, ground);
        this.optional = optional;
    }

    List<ParentPick> picks() {
        return picks;
    }

    /** Returns the nodes in the order in which they were thought of; the first is the one of the rows asked for. */
    List<Node> plan(Factory<?> factory) {
        node(tableOf(factory), factory, 1, null, null, false, Map.of());
        nodes.forEach(node -> new Uniqueness(node, nodes).settle());
        Map<Table, Integer> perRoot = new LinkedHashMap<>();
        Map<Table, Integer> once = new LinkedHashMap<>();
        for (Node node : nodes) {
            node.offset = (node.once ? once : perRoot).merge(node.table, node.perRoot, Integer::sum) - node.perRoot;
        }
        return nodes;
    }

    private Table tableOf(Factory<?> factory) {
        return schema.require(factory.table());
    }

    private Node node(
            Table table,
            Factory<?> factory,
            int perRoot,
            @Nullable Node origin,
            @Nullable Reference madeFor,
            boolean once,
            Map<Integer, Cell> pinned) {
        Node node = new Node(table, factory, perRoot, origin, 1, once);
        node.madeFor = madeFor;
        fill(node, pinned);
        return node;
    }

    private void fill(Node node, Map<Integer, Cell> pinned) {
        nodes.add(node);
        pinned.forEach((at, cell) -> node.cells[at] = cell);
        applySettings(node, pinned);
        requireColumnsForProperties(node);
        List<Reference> references = new ArrayList<>(node.table.references());
        references.addAll(node.uncheckedReferences(schema));
        references.sort(Comparator.comparingInt((Reference r) -> -r.columns().size()));
        references.forEach(reference -> settle(node, reference));
        finish(node);
        node.isDone = true;
        for (Factory.Children children : node.factory.children()) {
            addChildren(node, children);
        }
    }

    private void applySettings(Node node, Map<Integer, Cell> pinned) {
        Map<Integer, String> seen = new LinkedHashMap<>();
        node.settings().forEach((name, setting) -> {
            int at = position(node, name);
            if (node.isTree && pinned.containsKey(at)) {
                return;
            }
            String twin = seen.put(at, name);
            if (twin != null) {
                throw new ZabbetException("The factory of " + node.table.name() + " sets column "
                        + node.table.columns().get(at).name() + " twice: as '" + twin + "' and as '" + name + "'.");
            }
            if (node.table.columns().get(at).isComputed()) {
                throw new ZabbetException(
                        node.table.name() + "." + name + " is computed by the database and cannot be set.");
            }
            if (setting instanceof Setting.Parent parent) {
                applyParent(node, at, parent.factory(), node.once);
            } else if (setting instanceof Setting.SharedParent shared) {
                applyParent(node, at, shared.factory(), true);
            } else if (setting instanceof Setting.StoredParents stored) {
                applyStored(node, at, stored);
            } else if (setting instanceof Setting.Parents parents) {
                applyParents(node, at, parents);
            } else if (setting instanceof Setting.MadeAnyway) {
                node.cells[at] = new Cell.Made(node.maker(at), Variety.NONE);
            } else if (pinned.containsKey(at)) {
                throw contradiction(node, at);
            } else {
                node.cells[at] = new Cell.Set(setting);
            }
        });
    }

    private static int position(Node node, String name) {
        int at = node.position(name);
        if (at < 0) {
            throw new UnknownNameException("column of table " + node.table.name(), name, node.table.columnNames());
        }
        return at;
    }

    private void applyParent(Node node, int at, Factory<?> factory, boolean once) {
        Reference reference = referenceFor(node, at);
        Table target = schema.require(reference.target());
        Table made = tableOf(factory);
        if (!made.equals(target)) {
            throw new ZabbetException(node.table.name() + "." + reference.describe() + " got a factory of "
                    + made.name() + "; it needs one of " + target.name() + ".");
        }
        Node parent = node(target, factory, once ? 1 : node.perRoot, node, reference, once, pins(node, reference));
        parent.shared = once && !node.once;
        linkTo(node, reference, parent, parent.shared ? Integer.MAX_VALUE : 1);
    }

    private void applyStored(Node node, int at, Setting.StoredParents stored) {
        Reference reference = referenceFor(node, at);
        Table target = schema.require(reference.target());
        String draw = reference.columns().get(0);
        fillReference(node, reference, aim -> new Cell.OfStored(target, aim, draw, stored.skewed()));
    }

    private void fillReference(Node node, Reference reference, IntFunction<Cell> cell) {
        Table target = schema.require(reference.target());
        for (int i = 0; i < reference.columns().size(); i++) {
            int own = node.table.requirePosition(reference.columns().get(i));
            if (node.isSet(own)) {
                throw contradiction(node, own);
            }
            node.cells[own] =
                    cell.apply(target.requirePosition(reference.targetColumns().get(i)));
        }
    }

    private void applyParents(Node node, int at, Setting.Parents parents) {
        if (node.table.referencesOf(node.table.columns().get(at).name()).isEmpty()
                || !(parents.rows().get(0) instanceof Row)
                        && isKey(parents.rows().get(0))) {
            if (node.isSet(at)) {
                throw contradiction(node, at);
            }
            node.cells[at] = new Cell.Set(new Setting.InTurn(new ArrayList<>(parents.rows())));
            return;
        }
        Reference reference = referenceFor(node, at);
        Table target = schema.require(reference.target());
        fillReference(node, reference, aim -> new Cell.OfParents(parents, target, aim));
    }

    private static boolean isKey(Object value) {
        return JavaValue.kindOf(value.getClass()) != Kind.OTHER;
    }

    /** Picks the reference that a column stands for: the one with the fewest columns. */
    private static Reference referenceFor(Node node, int at) {
        String column = node.table.columns().get(at).name();
        return node.table.referencesOf(column).stream()
                .min(Comparator.comparingInt(r -> r.columns().size()))
                .orElseThrow(() -> new ZabbetException(node.table.name() + "." + column
                        + " is no reference. The references of " + node.table.name() + " are: "
                        + node.table.references().stream()
                                .map(Reference::describe)
                                .collect(Collectors.joining(", "))
                        + "."));
    }

    /** Gives a reference that nothing was said about its values, if it needs any. */
    private void settle(Node node, Reference reference) {
        int[] own = positions(node.table, reference.columns());
        if (isSettled(node, reference, own)) {
            return;
        }
        Table target = schema.require(reference.target());
        if (node.isJoined(reference, target)) {
            linkOwn(node, reference, target); // no other object has its key
            return;
        }
        Plan planned = before.of(target)
                .filter(plan -> freeOf(node, own) && !mayBeTaken(node, reference, plan))
                .orElse(null);
        if (mayBeEmpty(node, own)) {
            boolean usual = planned != null
                    || IntStream.of(own).allMatch(at -> node.isSet(at) || isFilled(node, reference, at));
            boolean filled =
                    optional.isFilled(node.table, reference).orElse(usual && node.hasWholeParents(reference, target));
            node.optional.put(reference, filled);
            if (!filled) {
                leaveEmpty(node, reference);
                return;
            }
        }
        if (planned != null) {
            ParentPick pick =
                    new ParentPick(planned, variation, node, reference.columns().get(0));
            List<Object> keys = lookups.keys(node.table, reference);
            if (keys.isEmpty() || pick.isAmong(keys, reference.targetColumns().get(0))) {
                picks.add(pick);
                fillReference(node, reference, aim -> new Cell.OfPlanned(pick, aim));
                return;
            }
        }
        if (freeOf(node, own) && !isAlone(node, reference) && isLookup(node, reference, target)) {
            return;
        }
        Node above = nearestAbove(node, target);
        if (above != null && freeOf(node, own) && !isTaken(node, reference, above)) {
            linkTo(node, reference, above, divisorTo(node, above));
            return;
        }
        Node other = freeOf(node, own) ? shareable(node, reference, target) : null;
        if (other != null) {
            other.shared = true;
            linkTo(
                    node,
                    reference,
                    other,
                    other.once ? (node.once ? 1 : Integer.MAX_VALUE) : node.perRoot / other.perRoot);
            return;
        }
        linkOwn(node, reference, target);
    }

    private void linkOwn(Node node, Reference reference, Table target) {
        Factory<?> factory = node.parents(reference, target, schema);
        link(
                node,
                reference,
                node(
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
        for (Node other : nodes) {
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
                .anyMatch(key -> nodes.stream()
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
                && nodes.stream()
                        .filter(n -> n != node && n.table.equals(node.table))
                        .anyMatch(n -> isMadeFor(above, n, reference)
                                || n.cells[
                                                        n.table.requirePosition(reference
                                                                .columns()
                                                                .get(0))]
                                                instanceof Cell.Link link
                                        && link.node() == above);
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
        return nodes.stream()
                .filter(n -> n.table.equals(table))
                .flatMap(n -> Stream.of(n.cells))
                .anyMatch(cell -> cell instanceof Cell.Link link && link.node() == parent);
    }

    /** An optional reference is filled on demand, or where rows differ by it alone, but not to the row's own table, which would have no end. */
    private static boolean isFilled(Node node, Reference reference, int at) {
        Column column = node.table.columns().get(at);
        if (!column.nullable()) {
            return true;
        }
        boolean wanted = column.filled() || node.factory.isFilled() || Uniqueness.isNeeded(node.table, column);
        if (node.isOfAnotherClass(at) || !wanted) {
            return false;
        }
        for (Node above = node; above != null; above = above.origin) {
            if (above.table.name().equals(reference.target())) {
                return false;
            }
        }
        return true;
    }

    private static boolean mayBeEmpty(Node node, int[] own) {
        return IntStream.of(own).anyMatch(at -> node.table.columns().get(at).nullable() && !node.isSet(at));
    }

    /** Refers to a row of a table that cannot have one for each row, if it is such a table. */
    private boolean isLookup(Node node, Reference reference, Table target) {
        List<Object> keys = lookups.keys(node.table, reference);
        if (keys.isEmpty() && !lookups.hasLittleRoom(target)) {
            return false;
        }
        Optional<Row> stored = lookups.found(node, target, reference, keys);
        if (stored.isPresent()) {
            fillReference(
                    node,
                    reference,
                    aim -> new Cell.Set(new Setting.Fixed(
                            stored.get().get(target.columns().get(aim).name()))));
            return true;
        }
        Node parent = lookups.made(node, target, keys).orElseGet(() -> lookup(node, reference, target, keys));
        linkTo(node, reference, parent, Integer.MAX_VALUE);
        return true;
    }

    private Node lookup(Node node, Reference reference, Table target, List<Object> keys) {
        Factory<?> factory = node.parents(reference, target, schema);
        Node parent = new Node(target, node.factory.isFilled() ? factory.filled() : factory, 1, node, 1, true);
        parent.shared = true;
        int next = lookups.add(parent, keys);
        Map<Integer, Cell> pinned = new LinkedHashMap<>();
        if (!keys.isEmpty()) {
            pinned.put(
                    target.requirePosition(reference.targetColumns().get(0)),
                    new Cell.Set(new Setting.Fixed(keys.get(next % keys.size()))));
        }
        fill(parent, pinned);
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
            int target = schema.require(reference.target())
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
    private Map<Integer, Cell> pins(Node child, Reference reference) {
        Table target = schema.require(reference.target());
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
        linkTo(child, reference, parent, 1);
    }

    private static void linkTo(Node child, Reference reference, Node parent, int divisor) {
        for (int i = 0; i < reference.columns().size(); i++) {
            int own = child.table.requirePosition(reference.columns().get(i));
            if (!child.isSet(own)) {
                int target =
                        parent.table.requirePosition(reference.targetColumns().get(i));
                child.cells[own] = new Cell.Link(parent, target, divisor);
            }
        }
    }

    private void addChildren(Node owner, Factory.Children children) {
        Factory<?> factory =
                children.way() == Factory.Children.Way.LINKED ? linkTo(owner, children) : children.factory();
        Table table = tableOf(factory);
        List<Reference> up = table.references().stream()
                .filter(r -> r.target().equals(owner.table.name()))
                .filter(r -> children.way() == Factory.Children.Way.TREE
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
        below.isTree = children.way() == Factory.Children.Way.TREE;
        fill(below, pinned);
    }

    /** Finds the table that links the two, and makes its rows with a row of the other each. */
    private Factory<Row> linkTo(Node owner, Factory.Children children) {
        Table target = tableOf(children.factory());
        List<Table> links = schema.tables().stream()
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
        return Factory.forTable(link.name()).ref(other.columns().get(0), children.factory());
    }

    private static boolean refersTo(Table from, Table to) {
        return from.references().stream().anyMatch(r -> r.target().equals(to.name()));
    }

    /** What is still open: numbers, what the schema needs a value for, and what is left to the store. */
    private void finish(Node node) {
        for (int at = 0; at < node.cells.length; at++) {
            if (node.isSet(at)) {
                continue;
            }
            Column column = node.table.columns().get(at);
            int position = at;
            if (column.isNumbered()) {
                node.cells[at] = new Cell.Number();
            } else if (column.isComputed()) {
                node.cells[at] = new Cell.LeftOut();
            } else if (isWanted(node, column)
                    || (column.defaultText().isEmpty() && (node.isPrimitive(at) || node.isVersion(at)))) {
                node.cells[at] = new Cell.Made(
                        node.wholeAt(at)
                                .map(prop -> ofDocument(node, column, prop))
                                .orElseGet(() -> node.maker(position)),
                        Variety.NONE);
            } else {
                node.cells[at] = new Cell.LeftOut();
            }
        }
    }

    /** A document that is read as a type holds what the type says. */
    private static Maker ofDocument(Node node, Column column, Prop prop) {
        TypeShape<?> shape = node.shape().orElseThrow();
        return new Maker(
                (v, n) -> {
                    Object made = Imagination.document(node.table.name(), prop, n >= 0 ? n + 1 : v.between(1, 1 << 30));
                    try {
                        return Objects.requireNonNull(Canon.of(column.type(), shape.stored(prop, made)));
                    } catch (Inexact e) {
                        throw new ZabbetException("No value can be invented for " + node.table.name() + "."
                                + column.name() + ": " + e.clause() + ".");
                    }
                },
                Maker.ENDLESS);
    }

    private boolean isWanted(Node node, Column column) {
        if (node.isUncheckedReference(node.table.requirePosition(column.name()))) {
            return false; // it has been settled
        }
        return column.isRequired()
                || (column.filled() && !node.isOfAnotherClass(node.table.requirePosition(column.name())))
                || (lookups.isTargeted(node.table, column)
                        && column.defaultText().isEmpty()
                        && node.table.referencesOf(column.name()).isEmpty())
                || node.table.keyColumns().contains(column.name())
                || Uniqueness.isNeeded(node.table, column)
                || (node.factory.isFilled()
                        && !node.isOfAnotherClass(node.table.requirePosition(column.name()))
                        && !node.isDeletion(column)
                        && !node.isLargeObject(column)
                        && column.defaultText().isEmpty()
                        && (!column.nullable() || Maker.isKnown(node.table, column))
                        && node.table.referencesOf(column.name()).isEmpty());
    }

    private static void requireColumnsForProperties(Node node) {
        node.shape().filter(shape -> !shape.isEntity()).ifPresent(shape -> shape.properties()
                .forEach(prop -> {
                    if (Mapping.column(node.table, prop, node.factory.columns()).isEmpty()) {
                        throw new UnknownNameException(
                                "column of table " + node.table.name() + " for property "
                                        + shape.type().getSimpleName() + "::" + prop.name(),
                                prop.name(),
                                node.table.columnNames());
                    }
                }));
    }

    private static ZabbetException contradiction(Node node, int at) {
        String column = node.table.columns().get(at).name();
        return new ZabbetException("The factory of " + node.table.name() + " sets " + column
                + ", which follows already from the row that it belongs to. Leave one of the two out.");
    }

    private static int[] positions(Table table, List<String> columns) {
        return columns.stream().mapToInt(table::requirePosition).toArray();
    }
}
