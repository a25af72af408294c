package dev.zabbet.internal.plan;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.DocumentSchemas;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.plan.value.ValuesByType;
import dev.zabbet.internal.plan.value.Variety;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.MixedVariation;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Decides which rows a factory needs: one {@link Node} for the rows asked for, and one for each kind of parent and child.
 *
 * <h2>The idea</h2>
 *
 * A plan describes kinds of rows, not rows. Every row of a node gets its values in the same way, so the plan of a million rows is
 * as small as the plan of one, and any row can be made without the rows before it. A node holds a {@link Cell} for each column,
 * which says where its values come from; {@link Plan} turns cells into {@link Source}s once the ranges of ordinals are reserved.
 *
 * <h2>References</h2>
 *
 * The first rule that applies decides, and {@link ReferencePlanning} holds them: what the factory says; what the columns hold
 * already because another reference shares them; a row of an earlier plan; empty, if a column may be null and no check says
 * otherwise; one row for all, if the table has room for few ({@link Lookups}); the nearest row up the chain that this node was made
 * for; a row that was planned for the same row asked for; a new parent for each row. References with more columns are settled first,
 * because a narrow reference can follow a wide one that shares its columns, but not the other way round.
 *
 * <h2>Invariants</h2>
 *
 * <ul>
 *   <li>The nodes stand in the order in which they were found, and the first one is the node of the rows asked for. Storing order is
 *       another matter: {@link PlanLoad} sorts by references and splits off columns that close a circle.
 *   <li>A cell that is set is never replaced by a later rule; a factory that contradicts itself is refused.
 *   <li>A key differs from row to row by construction: {@link Uniqueness} chooses which made columns vary, and how fast.
 *   <li>Nothing here reads the store, but for what {@link Lookups} asks about tables with few possible rows.
 * </ul>
 *
 * <h2>Why not otherwise</h2>
 *
 * Planning row by row would need the rows before it, so that no part of a load could be made alone, and a search for a parent each
 * time. One new parent for each reference, without sharing, would break keys that two references have in common.
 */
final class Planner {
    private final ReferencePlanning above = new ReferencePlanning(this);
    private final ChildPlanning below = new ChildPlanning(this);
    final Schema schema;
    final long variation;
    final EarlierPlans before;
    final List<Node> nodes = new ArrayList<>();
    final List<ParentPick> picks = new ArrayList<>();
    final Lookups lookups;
    final OptionalParents optional;
    private final StoreView ground;

    /**
     * @param before plans whose rows are there to be referred to
     * @param ground where the rows will be stored
     * @param optional which optional references are not treated as usual
     */
    Planner(Schema schema, long variation, EarlierPlans before, StoreView ground, OptionalParents optional) {
        this.schema = schema;
        this.variation = variation;
        this.before = before;
        this.lookups = new Lookups(schema, before, ground);
        this.optional = optional;
        this.ground = ground;
    }

    List<ParentPick> picks() {
        return picks;
    }

    /** Returns the nodes in the order in which they were thought of; the first is the one of the rows asked for. */
    List<Node> plan(Recipe<?> factory) {
        node(tableOf(factory), factory, 1, null, null, false, Map.of());
        nodes.forEach(node -> new Uniqueness(node, nodes).settle());
        Map<Table, Integer> perRoot = new LinkedHashMap<>();
        Map<Table, Integer> once = new LinkedHashMap<>();
        for (Node node : nodes) {
            node.offset = (node.once ? once : perRoot).merge(node.table, node.perRoot, Integer::sum) - node.perRoot;
        }
        return nodes;
    }

    Table tableOf(Recipe<?> factory) {
        return schema.require(factory.table());
    }

    Node node(
            Table table,
            Recipe<?> factory,
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

    void fill(Node node, Map<Integer, Cell> pinned) {
        nodes.add(node);
        pinned.forEach((at, cell) -> node.cells[at] = cell);
        applySettings(node, pinned);
        requireColumnsForProperties(node);
        List<Reference> references = new ArrayList<>(node.table.references());
        references.addAll(node.said.uncheckedReferences(schema));
        references.sort(Comparator.comparingInt((Reference r) -> -r.columns().size()));
        references.forEach(reference -> above.settle(node, reference));
        finish(node);
        node.isDone = true;
        for (Recipe.Children children : node.factory.children()) {
            below.addChildren(node, children);
        }
    }

    private void applySettings(Node node, Map<Integer, Cell> pinned) {
        Map<Integer, String> seen = new LinkedHashMap<>();
        node.said.settings().forEach((name, setting) -> {
            Optional<RowPart> place = DocumentCells.place(node, name);
            if (place.isPresent()) {
                inside(node, place.get(), setting);
                return;
            }
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
                applyParent(node, at, parent.recipe(), node.once);
            } else if (setting instanceof Setting.SharedParent shared) {
                applyParent(node, at, shared.recipe(), true);
            } else if (setting instanceof Setting.StoredParents stored) {
                applyStored(node, at, stored);
            } else if (setting instanceof Setting.Parents parents) {
                applyParents(node, at, parents);
            } else if (setting instanceof Setting.MadeAnyway) {
                node.cells[at] = new Cell.Made(node.maker(at), Variety.NONE);
            } else if (pinned.containsKey(at)) {
                throw contradiction(node, at);
            } else {
                node.cells[at] = DocumentCells.said(node.table.columns().get(at), setting)
                        .map(documents -> documents(node, at, documents))
                        .orElseGet(() -> new Cell.Set(setting));
            }
        });
    }

    private void inside(Node node, RowPart place, Setting setting) {
        int at = node.table.requirePosition(place.column().name());
        node.cells[at] = DocumentCells.with(
                place,
                setting,
                node.cells[at],
                (recipe, once) -> besides(node, recipe, once),
                () -> document(node, at));
    }

    /** Documents of which something is said, with a row of its own for each place that refers to one. */
    private Cell documents(Node node, int at, DocumentRecipe documents) {
        Column column = node.table.columns().get(at);
        Cell cell = new Cell.Inside(new Cell.Made(node.documents(documents, column), Variety.NONE), List.of());
        for (DocumentRecipe.Reference reference : documents.references()) {
            cell = DocumentCells.with(
                    new RowPart(column, reference.path()),
                    new Setting.Parent(Recipe.ofTable(reference.table())),
                    cell,
                    (recipe, once) -> besides(node, recipe, once),
                    () -> made(node, at));
        }
        return cell;
    }

    private static int position(Node node, String name) {
        int at = node.position(name);
        if (at < 0) {
            throw new UnknownNameException("column of table " + node.table.name(), name, node.table.columnNames());
        }
        return at;
    }

    private void applyParent(Node node, int at, Recipe<?> factory, boolean once) {
        Reference reference = referenceFor(node, at);
        Table target = schema.require(reference.target());
        Table made = tableOf(factory);
        if (!made.equals(target)) {
            throw new ZabbetException(node.table.name() + "." + reference.describe() + " got a factory of "
                    + made.name() + "; it needs one of " + target.name() + ".");
        }
        Node parent =
                node(target, factory, once ? 1 : node.perRoot, node, reference, once, above.pins(node, reference));
        parent.shared = once && !node.once;
        ChildPlanning.linkTo(node, reference, parent, parent.shared ? Integer.MAX_VALUE : 1);
    }

    /** Plans rows that documents refer to, of which the schema does not know. */
    private Node besides(Node node, Recipe<?> recipe, boolean once) {
        Node parent = node(tableOf(recipe), recipe, once ? 1 : node.perRoot, node, null, once, Map.of());
        parent.shared = once && !node.once;
        return parent;
    }

    private void applyStored(Node node, int at, Setting.StoredParents stored) {
        Reference reference = referenceFor(node, at);
        Table target = schema.require(reference.target());
        String draw = reference.columns().get(0);
        Plan planned = before.of(target).orElse(null);
        if (planned != null) {
            ParentPick pick = new ParentPick(planned, variation, node, draw, stored.skewed());
            picks.add(pick);
            above.fillReference(node, reference, aim -> new Cell.OfPlanned(pick, aim));
            return;
        }
        above.fillReference(node, reference, aim -> new Cell.OfStored(target, aim, draw, stored.skewed()));
    }

    private void applyParents(Node node, int at, Setting.Parents parents) {
        if (node.table.referencesOf(node.table.columns().get(at).name()).isEmpty()
                || (!(parents.rows().get(0) instanceof Row)
                        && isKey(parents.rows().get(0)))) {
            if (node.isSet(at)) {
                throw contradiction(node, at);
            }
            node.cells[at] = new Cell.Set(new Setting.InTurn(new ArrayList<>(parents.rows())));
            return;
        }
        Reference reference = referenceFor(node, at);
        Table target = schema.require(reference.target());
        above.fillReference(node, reference, aim -> new Cell.OfParents(parents, target, aim));
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

    /** An optional reference is filled on demand, or where rows differ by it alone, but not to the row's own table, which would have no end. */
    static boolean isFilled(long variation, Node node, Reference reference, int at) {
        Column column = node.table.columns().get(at);
        if (!column.nullable()) {
            return true;
        }
        boolean wanted = column.filled()
                || node.factory.isFilled()
                || Uniqueness.isNeeded(node.table, column)
                || (MixedVariation.isFilled(variation, node.table.name(), column.name())
                        && node.table.uniques().stream()
                                .noneMatch(key -> key.columns().contains(column.name())));
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

    /** What is still open: numbers, what the schema needs a value for, and what is left to the store. */
    private void finish(Node node) {
        for (int at = 0; at < node.cells.length; at++) {
            if (node.isSet(at)) {
                continue;
            }
            Column column = node.table.columns().get(at);
            if (column.isNumbered()) {
                node.cells[at] = new Cell.Reserved();
            } else if (column.isComputed()) {
                node.cells[at] = new Cell.LeftOut();
            } else if (isWanted(node, column)
                    || (column.defaultText().isEmpty() && (node.isPrimitive(at) || node.isVersion(at)))) {
                node.cells[at] = made(node, at);
            } else {
                node.cells[at] = new Cell.LeftOut();
            }
        }
    }

    /** The document that something is said of: empty, if nothing says what it looks like. */
    private Cell document(Node node, int at) {
        Column column = node.table.columns().get(at);
        boolean described = ground.documents(node.table, column).isPresent()
                || DocumentSchemas.of(node.table, column).isPresent()
                || node.wholeAt(at)
                        .filter(prop -> !Map.class.isAssignableFrom(prop.type()) && !Json.isTree(prop.type()))
                        .isPresent();
        return described ? made(node, at) : new Cell.Set(new Setting.Fixed("{}"));
    }

    private Cell made(Node node, int at) {
        Column column = node.table.columns().get(at);
        Optional<DocumentRecipe> documents =
                column.type().kind() == Kind.JSON ? ground.documents(node.table, column) : Optional.empty();
        if (documents.isPresent()) {
            return documents(node, at, documents.get());
        }
        return new Cell.Made(
                node.wholeAt(at).map(prop -> ofDocument(node, column, prop)).orElseGet(() -> node.maker(at)),
                Variety.NONE);
    }

    /** A document that is read as a type holds what the type says. */
    private static Maker ofDocument(Node node, Column column, Prop prop) {
        TypeShape<?> shape = node.shape().orElseThrow();
        return new Maker(
                (v, n) -> {
                    Object made =
                            ValuesByType.document(node.table.name(), prop, n >= 0 ? n + 1 : v.between(1, 1 << 30));
                    try {
                        return Objects.requireNonNull(CanonicalForm.of(column.type(), shape.stored(prop, made)));
                    } catch (InexactValueException e) {
                        throw new ZabbetException("No value can be invented for " + node.table.name() + "."
                                + column.name() + ": " + e.clause() + ".");
                    }
                },
                Maker.ENDLESS);
    }

    private boolean isWanted(Node node, Column column) {
        if (node.said.isUncheckedReference(node.table.requirePosition(column.name()))) {
            return false; // it has been settled
        }
        return column.isRequired()
                || (column.filled() && !node.isOfAnotherClass(node.table.requirePosition(column.name())))
                || (lookups.isTargeted(node.table, column)
                        && column.defaultText().isEmpty()
                        && node.table.referencesOf(column.name()).isEmpty())
                || node.table.keyColumns().contains(column.name())
                || Uniqueness.isNeeded(node.table, column)
                || ((node.factory.isFilled() || MixedVariation.isFilled(variation, node.table.name(), column.name()))
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
                    if (ColumnMapping.column(node.table, prop, node.factory.columns())
                            .isEmpty()) {
                        throw new UnknownNameException(
                                "column of table " + node.table.name() + " for property "
                                        + shape.type().getSimpleName() + "::" + prop.name(),
                                prop.name(),
                                node.table.columnNames());
                    }
                }));
    }

    static ZabbetException contradiction(Node node, int at) {
        String column = node.table.columns().get(at).name();
        return new ZabbetException("The factory of " + node.table.name() + " sets " + column
                + ", which follows already from the row that it belongs to. Leave one of the two out.");
    }

    static int[] positions(Table table, List<String> columns) {
        return columns.stream().mapToInt(table::requirePosition).toArray();
    }
}
