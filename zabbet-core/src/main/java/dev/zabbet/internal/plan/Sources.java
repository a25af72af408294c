package dev.zabbet.internal.plan;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.DocumentPlaces;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.plan.value.Draws;
import dev.zabbet.internal.plan.value.EdgeValues;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.plan.value.TextMaker;
import dev.zabbet.internal.plan.value.Variety;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.Proxies;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.MixedVariation;
import dev.zabbet.internal.value.SplitMix;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import dev.zabbet.value.Values;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.temporal.ChronoUnit;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Prepares the sources of a node's columns: what can be worked out once is worked out now, and refused now. */
final class Sources {
    /** More parents to choose from than that are not read. */
    private static final int MOST_PARENTS = 10_000;

    private final long variation;
    private final Clock clock;
    private final Node node;
    private final int size;
    private final StoreView ground;

    Sources(long variation, Clock clock, Node node, int size, StoreView ground) {
        this.ground = ground;
        this.variation = variation;
        this.clock = clock;
        this.node = node;
        this.size = size;
    }

    void prepare() {
        for (int at = 0; at < node.cells.length; at++) {
            node.source(at, source(at, Objects.requireNonNull(node.cells[at])));
        }
    }

    private Source source(int position, Cell cell) {
        if (cell instanceof Cell.Link link) {
            return new Source.Linked(link.node(), link.position(), link.divisor());
        }
        if (cell instanceof Cell.Reserved) {
            return new Source.Numbered(node);
        }
        if (cell instanceof Cell.Made made) {
            return made(position, made);
        }
        if (cell instanceof Cell.OfParents of) {
            return new Source.Repeated(of.parents().rows().stream()
                    .map(parent -> ofParent(position, parent, of.target(), of.targetPosition()))
                    .toArray());
        }
        if (cell instanceof Cell.OfStored of) {
            return ofStored(position, of);
        }
        if (cell instanceof Cell.OfPlanned of) {
            Plan parents = of.pick().parents;
            Node root = parents.nodes().get(0);
            return new Source.Chosen(row -> parents.value(root, of.pick().of(row), of.targetPosition()));
        }
        if (cell instanceof Cell.Inside inside) {
            return new DocumentSource(position, inside).source();
        }
        if (cell instanceof Cell.Set set) {
            return ofSetting(position, set.setting());
        }
        if (cell instanceof Cell.LeftOut || cell instanceof Cell.Solved) {
            return new Source.None(); // what is solved gets its source when the puzzle is prepared
        }
        throw new IllegalStateException("No source of values for " + cell);
    }

    private Source ofStored(int position, Cell.OfStored of) {
        List<Row> stored = ground.rows(of.target(), MOST_PARENTS);
        if (stored.isEmpty()) {
            throw new ZabbetException(node.table.name() + "."
                    + node.table.columns().get(position).name() + " must refer to a stored row of "
                    + of.target().name() + ", but " + of.target().name() + " is empty. Store some first.");
        }
        String column = of.target().columns().get(of.targetPosition()).name();
        long name = SplitMix.name(node.table.name(), of.draw());
        return new Source.Chosen(row -> {
            long ordinal = node.ordinal(row);
            long drawn = MixedVariation.of(variation, node.table.name(), of.draw(), ordinal);
            int place = place(SplitMix.of(drawn, name, ordinal), stored.size(), of.skewed());
            return canonical(position, stored.get(place).get(column));
        });
    }

    /** Returns which of some parents a drawn number means; skewed, the first tenth of them gets half of the rows (0.5 = 0.1^(1/3.3)). */
    static int place(long drawn, int size, boolean skewed) {
        double draw = (drawn >>> 11) * 0x1.0p-53;
        return (int) ((skewed ? Math.pow(draw, 3.3) : draw) * size);
    }

    /** Prepares what is stored where that is another value than the one handed back. */
    void prepareStoring() {
        node.factory.storing().forEach((name, work) -> {
            int at = node.position(name);
            if (at < 0) {
                throw new UnknownNameException("column of table " + node.table.name(), name, node.table.columnNames());
            }
            Source plain = node.source(at);
            node.storing(
                    at,
                    new Source.Remembered(
                            size, node.table.name() + "." + name, row -> canonical(at, work.apply(plain.at(row)))));
        });
    }

    /** A plan is carried out by one thread, so that one source of values serves all rows. */
    private Source made(int position, Cell.Made made) {
        Column column = node.table.columns().get(position);
        Object blank = ground.blank(node.table, column).orElse(null);
        if (blank != null) {
            return new Source.Repeated(new @Nullable Object[] {canonical(position, blank)});
        }
        long name = SplitMix.name(node.table.name(), drawnBy(column));
        Maker maker = made.maker();
        Variety variety = made.variety();
        Draws values = new Draws(clock, node.factory.type(), this::other);
        boolean temporal = isTemporal(column.type());
        return new Source.Pure(row -> {
            long ordinal = node.ordinal(row);
            long drawn = MixedVariation.of(variation, node.table.name(), column.name(), ordinal);
            long state = SplitMix.of(drawn, name, ordinal);
            long different = variety.different(ordinal);
            if (different == Maker.ANY && MixedVariation.isEdge(variation, drawn, state >>> 7)) {
                Optional<Object> edge = EdgeValues.of(node.table, column, state >>> 13);
                if (edge.isPresent()) {
                    return edge.get();
                }
            }
            Object value = maker.make(values.begin(state, ordinal, row), different);
            return temporal ? Objects.requireNonNull(kept(column, value)) : value;
        });
    }

    private String drawnBy(Column column) {
        boolean text = column.type().kind() == Kind.TEXT;
        return text ? TextMaker.drawnBy(node.table.name(), column.name()) : column.name();
    }

    /** Returns the source of values for a column of a row; other values for each attempt. */
    Values values(int position, int row, int attempt) {
        Column column = node.table.columns().get(position);
        long name = SplitMix.name(node.table.name(), drawnBy(column));
        return values(column, attempt == 0 ? name : SplitMix.mix(name + attempt), row);
    }

    private Source ofSetting(int position, Setting setting) {
        if (setting instanceof Setting.Fixed fixed) {
            return new Source.Repeated(new @Nullable Object[] {canonical(position, fixed.value())});
        }
        if (setting instanceof Setting.Given given) {
            return new Source.Chosen(row -> given.rows().value(row, given.column()));
        }
        if (setting instanceof Setting.InTurn turn) {
            return inTurn(turn.values().stream()
                    .<@Nullable Object>map(value -> canonical(position, value))
                    .toArray());
        }
        Column column = node.table.columns().get(position);
        long name = SplitMix.name(node.table.name(), column.name());
        Setting.Invented invented = (Setting.Invented) setting;
        return new Source.Remembered(
                size,
                node.table.name() + "." + column.name(),
                row -> canonical(position, invented.how().apply(values(column, name, row))));
    }

    /** A document that is made or given, and then changed where something is said of a place. */
    private final class DocumentSource {
        private final int position;
        private final Column column;
        private final Source base;
        private final Map<DocumentPath, Source> parts = new LinkedHashMap<>();

        DocumentSource(int position, Cell.Inside inside) {
            this.position = position;
            this.column = node.table.columns().get(position);
            this.base = Sources.this.source(position, inside.base());
            inside.parts().forEach(part -> parts.put(part.path(), part(part.path(), part.cell())));
        }

        Source source() {
            return new Source.Remembered(size, node.table.name() + "." + column.name(), this::document);
        }

        private @Nullable Object document(int row) {
            Object document = PlainDocument.read(base.at(row));
            for (Map.Entry<DocumentPath, Source> part : parts.entrySet()) {
                Object value = PlainDocument.of(part.getValue().at(row));
                try {
                    for (DocumentPath path : DocumentPlaces.meant(document, part.getKey())) {
                        document = DocumentPlaces.with(document, path, value);
                    }
                } catch (IllegalArgumentException e) {
                    throw new ZabbetException("Nothing can be put at " + node.table.name() + "." + column.name()
                            + part.getKey() + ": " + e.getMessage() + ".");
                }
            }
            return canonical(position, document);
        }

        private Source part(DocumentPath path, Cell cell) {
            if (cell instanceof Cell.Link link) {
                return new Source.Linked(link.node(), link.position(), link.divisor());
            }
            Setting setting = ((Cell.Set) cell).setting();
            if (setting instanceof Setting.Fixed fixed) {
                return new Source.Repeated(new @Nullable Object[] {fixed.value()});
            }
            if (setting instanceof Setting.InTurn turn) {
                return inTurn(turn.values().toArray());
            }
            if (setting instanceof Setting.Invented invented) {
                String name = column.name() + path;
                long drawn = SplitMix.name(node.table.name(), name);
                return new Source.Remembered(size, node.table.name() + "." + name, row -> invented.how()
                        .apply(values(column, drawn, row)));
            }
            throw new ZabbetException(
                    node.table.name() + "." + column.name() + path + " is a place in a document and cannot be set so.");
        }
    }

    /** Below a parent the turn starts over for each parent. */
    private Source inTurn(@Nullable Object[] values) {
        if (node.perOrigin == 1) {
            return new Source.Repeated(values);
        }
        @Nullable Object[] one = new @Nullable Object[node.perOrigin];
        for (int i = 0; i < one.length; i++) {
            one[i] = values[i % values.length];
        }
        return new Source.Repeated(one);
    }

    private Values values(Column column, long name, int row) {
        long ordinal = node.ordinal(row);
        long drawn = MixedVariation.of(variation, node.table.name(), column.name(), ordinal);
        long state = SplitMix.of(drawn, name, ordinal);
        return new Draws(state, ordinal, clock, node.factory.type(), another -> other(another, row));
    }

    private @Nullable Object other(String name, int row) {
        int at = node.position(name);
        if (at < 0) {
            throw new UnknownNameException("column of table " + node.table.name(), name, node.table.columnNames());
        }
        return node.source(at).at(row);
    }

    @SuppressWarnings("unchecked")
    private @Nullable Object ofParent(int position, Object parent, Table target, int targetPosition) {
        Column own = node.table.columns().get(position);
        String targetColumn = target.columns().get(targetPosition).name();
        Object value;
        if (parent instanceof Row row) {
            value = row.get(targetColumn);
        } else if (target.keyColumns().equals(List.of(targetColumn)) && Proxies.isProxy(parent)) {
            value = Proxies.identifierOrSelf(parent);
        } else {
            Object real = Proxies.real(parent);
            TypeShape<Object> shape = TypeShape.of((Class<Object>) real.getClass());
            value = shape.properties().stream()
                    .filter(p -> ColumnMapping.column(target, p, Map.of())
                            .filter(c -> c.name().equals(targetColumn))
                            .isPresent())
                    .findFirst()
                    .map(p -> shape.readStored(real, p))
                    .orElseThrow(() -> new ZabbetException(parent.getClass().getSimpleName()
                            + " has no property for " + target.name() + "." + targetColumn + ", which "
                            + node.table.name() + "." + own.name() + " refers to."));
        }
        if (value == null && !own.nullable()) {
            throw new ZabbetException("The parent given for " + node.table.name() + "." + own.name() + " has no "
                    + targetColumn + ": " + parent + ". Store it first.");
        }
        return canonical(position, value);
    }

    private @Nullable Object canonical(int position, @Nullable Object value) {
        Column column = node.table.columns().get(position);
        try {
            return kept(column, CanonicalForm.of(column.type(), whole(position, value)));
        } catch (InexactValueException e) {
            throw new ZabbetException(node.table.name() + "." + column.name() + " is "
                    + column.type().sqlName() + ", and " + e.clause() + ".");
        }
    }

    /** A record or list that a column keeps whole is written down as the column keeps it. */
    private @Nullable Object whole(int position, @Nullable Object value) {
        Prop converted = value == null ? null : node.convertedAt(position).orElse(null);
        if (converted != null && JavaValue.boxed(converted.type()).isInstance(value)) {
            return node.shape()
                    .<@Nullable Object>map(shape -> shape.stored(converted, value))
                    .orElse(value);
        }
        return value == null || JavaValue.kindOf(value.getClass()) != Kind.OTHER
                ? value
                : node.wholeAt(position)
                        .flatMap(prop -> node.shape().<@Nullable Object>map(shape -> shape.stored(prop, value)))
                        .orElse(value);
    }

    private static boolean isTemporal(DataType type) {
        return List.of(Kind.TIMESTAMP, Kind.INSTANT, Kind.TIME).contains(type.kind());
    }

    /** Times are cut to what the column keeps, so that the object handed back equals the row read back. */
    private static @Nullable Object kept(Column column, @Nullable Object value) {
        if (value == null || !isTemporal(column.type()) || isWithoutEnd(value)) {
            return value;
        }
        int precision = column.type().precision();
        int digits = precision == DataType.UNLIMITED ? 6 : Math.min(precision, 9);
        long unit = (long) Math.pow(10, 9 - digits);
        if (value instanceof LocalDateTime dateTime) {
            return dateTime.truncatedTo(ChronoUnit.SECONDS).plusNanos(dateTime.getNano() / unit * unit);
        }
        if (value instanceof Instant instant) {
            return instant.truncatedTo(ChronoUnit.SECONDS).plusNanos(instant.getNano() / unit * unit);
        }
        return value instanceof LocalTime time
                ? time.truncatedTo(ChronoUnit.SECONDS).plusNanos(time.getNano() / unit * unit)
                : value; // a duration, as text
    }

    /** The last moment there is stands for infinity, and stays it. */
    private static boolean isWithoutEnd(Object value) {
        return value.equals(LocalDateTime.MAX) || value.equals(OffsetDateTime.MAX.toInstant());
    }
}
