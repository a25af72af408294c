package dev.zabbet.internal.plan;

import dev.zabbet.internal.check.Allowed;
import dev.zabbet.internal.check.DocumentSchemas;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.jsonschema.JsonSchema;
import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.plan.value.MakerChoice;
import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.SplitMix;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;

/**
 * Rows of one table that stand at one place of the plan: the rows asked for, one kind of their parents, or one kind of
 * their children. For each row asked for there are {@code perRoot} of them.
 */
final class Node {
    final NodeRecipe said = new NodeRecipe(this);
    final Table table;
    final Recipe<?> factory;
    final int perRoot;
    final @Nullable Cell[] cells;

    /** The node that this one was made for, and how many rows of this one stand for one row of that. */
    final @Nullable Node origin;

    final int perOrigin;

    /** The reference of {@link #origin} that it was made for; null if it was made for another reason. */
    @Nullable
    Reference madeFor;

    /** Where this node's rows begin among the rows of its table for one row asked for. */
    int offset;

    /** Whether there is one row, or one set of rows, for the whole call. */
    final boolean once;

    /** The fewest rows for a row of {@link #origin}; {@code perOrigin} if always as many. */
    int least;

    /** Whether all that the node refers to has been worked out. */
    boolean isDone;

    /** Whether its rows stand below others of the same table. */
    boolean isTree;

    /** Whether its rows were asked for below others. */
    boolean isChild;

    /** Whether several rows of the plan refer to one row of this node. */
    boolean shared;

    /** References of which nothing was said and that may be empty, and whether they are filled. */
    final Map<Reference, Boolean> optional = new LinkedHashMap<>();

    private final List<Turn> turns = new ArrayList<>();
    private long room = Long.MAX_VALUE;
    private @Nullable UniqueKey tightest;
    private final @Nullable Source[] sources;
    private @Nullable Source @Nullable [] stored;
    private long variation;
    private long firstOrdinal;
    private int tablePerRoot;

    /** A key whose values are combinations of parents, and how many combinations there are. */
    record Turn(UniqueKey key, List<ParentPick> picks, long rows) {}

    Node(Table table, Recipe<?> factory, int perRoot, @Nullable Node origin, int perOrigin, boolean once) {
        this.table = table;
        this.factory = factory;
        this.perRoot = perRoot;
        this.origin = origin;
        this.perOrigin = perOrigin;
        this.least = perOrigin;
        this.once = once;
        this.cells = new @Nullable Cell[table.columns().size()];
        this.sources = new @Nullable Source[cells.length];
    }

    boolean isSet(int position) {
        return cells[position] != null;
    }

    /**
     * Says which ordinals the node's rows have.
     *
     * @param variation the plan's variation
     * @param first the first ordinal of the table in this plan
     * @param each how many rows of the table there are for one row asked for
     */
    void number(long variation, long first, int each) {
        this.variation = variation;
        firstOrdinal = first;
        tablePerRoot = each;
        for (Source source : sources) {
            if (source instanceof Source.Remembered remembered) {
                remembered.forget();
            }
        }
    }

    /** Notes that a key has room for so many different rows. */
    void limit(long rows, UniqueKey key) {
        if (rows < room) {
            room = rows;
            tightest = key;
        }
    }

    /** Notes that a key's values are combinations of parents, of which there are so many. */
    void takeInTurn(UniqueKey key, java.util.Set<ParentPick> picks, long rows) {
        turns.add(new Turn(key, List.copyOf(picks), rows));
    }

    List<Turn> turns() {
        return turns;
    }

    long room() {
        return room;
    }

    @Nullable
    UniqueKey tightest() {
        return tightest;
    }

    long firstOfTable() {
        return firstOrdinal;
    }

    long ordinal(int row) {
        if (once) {
            return firstOrdinal + offset + row;
        }
        return perRoot == 1
                ? firstOrdinal + (long) row * tablePerRoot + offset
                : firstOrdinal + (long) (row / perRoot) * tablePerRoot + offset + row % perRoot;
    }

    /** Tells whether a row exists: where the number of children is a range, some places stay empty. */
    boolean exists(int row) {
        Node above = origin;
        if (above == null || once) {
            return true;
        }
        int aboveRow = row / perOrigin;
        if (!above.exists(aboveRow)) {
            return false;
        }
        if (least == perOrigin) {
            return true;
        }
        long draw = SplitMix.of(variation, SplitMix.name(table.name(), "how many"), above.ordinal(aboveRow));
        return row % perOrigin < least + Math.floorMod(draw, perOrigin - least + 1);
    }

    boolean isRanged() {
        return !once && (least < perOrigin || (origin != null && origin.isRanged()));
    }

    /** Returns how objects of the factory's type lie in the table; empty for a factory of rows. */
    Optional<? extends TypeShape<?>> shape() {
        return factory.shape().map(shape -> ColumnMapping.laidOut(shape, table, factory.columns()));
    }

    /** Returns the property that is kept whole, as JSON or an array, in a column. */
    Optional<Prop> wholeAt(int position) {
        return shape().flatMap(shape ->
                propertyAt(position, prop -> shape.wholeAround(prop.name()).isPresent()));
    }

    /** Returns the property that a column keeps in another form. */
    Optional<Prop> convertedAt(int position) {
        return shape().flatMap(shape -> propertyAt(position, shape::isConverted));
    }

    Optional<Prop> propertyAt(int position, Predicate<Prop> such) {
        String name = table.columns().get(position).name();
        return shape().flatMap(shape -> shape.properties().stream()
                .filter(such)
                .filter(prop -> ColumnMapping.column(table, prop, factory.columns())
                        .filter(column -> column.name().equals(name))
                        .isPresent())
                .findFirst());
    }

    /** Tells whether a column says when an entity was deleted: one that was is not found by its provider. */
    boolean isDeletion(Column column) {
        return shape().filter(TypeShape::isEntity).isPresent()
                && table.deletionColumns().contains(column);
    }

    /** Tells whether a column refers to a large object, which PostgreSQL keeps elsewhere: one that nobody made cannot be read. */
    boolean isLargeObject(Column column) {
        return propertyAt(table.requirePosition(column.name()), prop -> ColumnMapping.isReferring(column, prop))
                .isPresent();
    }

    /** Tells whether a column belongs to other classes that share the table: the provider leaves it empty in the rows of this one. */
    boolean isOfAnotherClass(int position) {
        Column column = table.columns().get(position);
        boolean below = column.nullable()
                && factory.shape()
                        .filter(shape -> shape.isEntity()
                                && !shape.fixed().isEmpty()
                                && !shape.fixed().containsKey(column.name())
                                && EntityMapping.isEntity(shape.type().getSuperclass()))
                        .isPresent();
        return below && propertyAt(position, prop -> true).isEmpty();
    }

    /** Tells whether the property of a column can never be null, whatever the column allows. */
    boolean isPrimitive(int position) {
        return propertyAt(position, prop -> prop.type().isPrimitive()).isPresent();
    }

    /** Picks the maker of a column: by what the property can hold where that is little, otherwise by the column. */
    Maker maker(int position) {
        Column column = table.columns().get(position);
        if (column.type().kind() == Kind.INTEGER && isVersion(position)) {
            return new Maker((v, n) -> 0L, 1); // a row that nobody has changed
        }
        JsonSchema documents = column.type().kind() == Kind.JSON
                ? DocumentSchemas.of(table, column).orElse(null)
                : null;
        if (documents != null) {
            return documents(DocumentRecipe.ofSchema(documents), column);
        }
        List<Object> some = new ArrayList<>();
        shape().ifPresent(
                        shape -> propertyAt(position, prop -> !shape.some(prop).isEmpty())
                                .ifPresent(prop -> some.addAll(shape.some(prop))));
        if (some.isEmpty()) {
            return Maker.of(table, column);
        }
        List<Object> allowed = Allowed.of(table, column).choices();
        List<Object> fitting = new ArrayList<>();
        for (Object value : some) {
            try {
                Object stored = CanonicalForm.of(column.type(), value);
                if (stored != null
                        && MakerChoice.fits(column.type(), stored)
                        && (allowed.isEmpty() || allowed.contains(stored))) {
                    fitting.add(stored);
                }
            } catch (InexactValueException e) {
                // a constant that is longer than the column, for example
            }
        }
        boolean first = MakerChoice.beginsWithFirst(column);
        return fitting.isEmpty()
                ? Maker.of(table, column)
                : new Maker(
                        (v, n) -> {
                            if (n >= 0) {
                                return fitting.get((int) n);
                            }
                            if (first) {
                                return fitting.get(0);
                            }
                            return v.pick(fitting);
                        },
                        fitting.size());
    }

    /** Returns a maker of documents, which the column holds as text. */
    Maker documents(DocumentRecipe documents, Column column) {
        DocumentRecipe wanted = factory.isFilled() ? documents.withOptional() : documents;
        return new Maker(
                (v, n) -> PlainDocument.write(wanted.make(v, table.name() + "." + column.name())), Maker.ENDLESS);
    }

    /** Tells whether a reference leads to the row that an object has in the table of its superclass. */
    boolean isJoined(Reference reference, Table target) {
        return reference.columns().equals(table.keyColumns())
                && shape().filter(shape -> shape.above(target.name()).isPresent())
                        .isPresent();
    }

    /** Tells whether a column says how often an entity was changed, without which its provider takes it to be a new one. */
    boolean isVersion(int position) {
        return shape().filter(TypeShape::isEntity)
                .flatMap(shape -> propertyAt(
                        position, prop -> shape.version().filter(prop::equals).isPresent()))
                .isPresent();
    }

    /** Returns the position of the column that a property or column of this name means; -1 if there is none. */
    int position(String name) {
        int at = table.position(name);
        if (at >= 0 && !factory.columns().containsKey(name)) {
            return at;
        }
        return shape().flatMap(shape -> shape.find(name))
                .flatMap(prop -> ColumnMapping.column(table, prop, factory.columns()))
                .or(() -> table.columnForProperty(name))
                .map(column -> table.position(column.name()))
                .orElse(at);
    }

    void source(int position, Source source) {
        sources[position] = source;
    }

    Source source(int position) {
        return Objects.requireNonNull(sources[position]);
    }

    /** Says that another value is stored than the one handed back. */
    void storing(int position, Source source) {
        if (stored == null) {
            stored = new @Nullable Source[cells.length];
        }
        stored[position] = source;
    }

    /** Returns what is stored. */
    Source storedSource(int position) {
        Source other = stored == null ? null : stored[position];
        return other == null ? source(position) : other;
    }

    boolean isStoredOtherwise(int position) {
        return stored != null && stored[position] != null;
    }

    boolean isLeftOut(int position) {
        return cells[position] instanceof Cell.LeftOut;
    }
}
