package dev.zabbet.factory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.Canon;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.DataType;
import dev.zabbet.schema.Kind;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.ToLongBiFunction;
import org.jspecify.annotations.Nullable;

/**
 * The rows that a call of {@code add} stores, with all their values: pure functions of the variation, the table, the
 * ordinal and the column. Not thread-safe.
 */
public final class Plan {
    private final Schema schema;
    private final long variation;
    private final Clock clock;
    private final int roots;
    private final List<Node> nodes;
    private final Map<Table, Long> firstOrdinals = new LinkedHashMap<>();
    private final Map<Table, Integer> perRoot = new LinkedHashMap<>();
    private final Map<Node, Invented> invented = new IdentityHashMap<>();

    /** Values that a function of the user's made: asked for once, since it need not give the same again. */
    private static final class Invented {
        final @Nullable Object[][] values;
        final byte[][] state;

        Invented(int columns) {
            values = new @Nullable Object[columns][];
            state = new byte[columns][];
        }
    }

    private Plan(Schema schema, long variation, Clock clock, int roots, List<Node> nodes) {
        this.schema = schema;
        this.variation = variation;
        this.clock = clock;
        this.roots = roots;
        this.nodes = nodes;
    }

    /**
     * Plans rows.
     *
     * @param count how many rows of the factory, at least 1
     * @param reserve reserves ordinals of a table: how many, answered by the first
     * @throws ZabbetException if what the factory says cannot be
     */
    public static Plan of(
            Schema schema,
            long variation,
            Clock clock,
            int count,
            Factory<?> factory,
            ToLongBiFunction<Table, Integer> reserve) {
        if (count < 1) {
            throw new IllegalArgumentException("add(" + count + ", …): the count must be at least 1.");
        }
        Plan plan = new Plan(schema, variation, clock, count, new Planner(schema).plan(factory));
        plan.nodes.forEach(node -> plan.perRoot.merge(node.table, node.perRoot, Integer::sum));
        plan.perRoot.forEach((table, each) ->
                plan.firstOrdinals.put(table, reserve.applyAsLong(table, Math.multiplyExact(each, count))));
        plan.requireValid();
        return plan;
    }

    List<Node> nodes() {
        return nodes;
    }

    Schema schema() {
        return schema;
    }

    int size(Node node) {
        return node.perRoot * roots;
    }

    long ordinal(Node node, int row) {
        long root = row / node.perRoot;
        int each = perRoot.getOrDefault(node.table, 1);
        return firstOrdinals.getOrDefault(node.table, 1L) + root * each + node.offset + row % node.perRoot;
    }

    boolean isLeftOut(Node node, int position) {
        return node.cells[position] instanceof Cell.LeftOut;
    }

    /** Returns the value of a column in its form in memory; null for one that is left to the store. */
    @Nullable
    Object value(Node node, int row, int position) {
        Cell cell = node.cells[position];
        if (cell instanceof Cell.Link link) {
            return value(link.node(), row / link.divisor(), link.position());
        }
        if (cell instanceof Cell.Number) {
            return ordinal(node, row);
        }
        if (cell instanceof Cell.Made made) {
            return stored(node.table.columns().get(position), made.maker().make(values(node, row, position)));
        }
        if (cell instanceof Cell.OfParents of) {
            Object parent = of.parents().rows().get(row % of.parents().rows().size());
            return ofParent(node, position, parent, of.target(), of.targetPosition());
        }
        if (cell instanceof Cell.Set set) {
            return ofSetting(node, row, position, set.setting());
        }
        return null;
    }

    private @Nullable Object ofSetting(Node node, int row, int position, Setting setting) {
        if (setting instanceof Setting.Fixed fixed) {
            return canonical(node, position, fixed.value());
        }
        if (setting instanceof Setting.InTurn turn) {
            int within = row % node.perOrigin;
            int at = node.perOrigin > 1 ? within : row;
            return canonical(
                    node, position, turn.values().get(at % turn.values().size()));
        }
        Invented all = invented.computeIfAbsent(node, n -> new Invented(n.cells.length));
        @Nullable Object[] values = all.values[position];
        if (values == null) {
            values = all.values[position] = new @Nullable Object[size(node)];
            all.state[position] = new byte[size(node)];
        }
        byte[] state = all.state[position];
        if (state[row] == 1) {
            throw new ZabbetException("The value invented for " + node.table.name() + "."
                    + node.table.columns().get(position).name()
                    + " asks for a column whose value depends on it. Let only one of the two ask for the other.");
        }
        if (state[row] == 0) {
            state[row] = 1;
            Object made = ((Setting.Invented) setting).how().apply(values(node, row, position));
            values[row] = canonical(node, position, made);
            state[row] = 2;
        }
        return values[row];
    }

    private Values values(Node node, int row, int position) {
        Column column = node.table.columns().get(position);
        long ordinal = ordinal(node, row);
        long state = Mix.of(variation, Mix.name(node.table.name(), column.name()), ordinal);
        return new Values(state, ordinal, clock, node.factory.type(), name -> {
            int other = node.table.position(name);
            if (other < 0) {
                other = node.table
                        .columnForProperty(name)
                        .map(c -> node.table.position(c.name()))
                        .orElseGet(() -> node.table.requirePosition(name));
            }
            return value(node, row, other);
        });
    }

    @SuppressWarnings("unchecked")
    private @Nullable Object ofParent(Node node, int position, Object parent, Table target, int targetPosition) {
        Column own = node.table.columns().get(position);
        String targetColumn = target.columns().get(targetPosition).name();
        Object value;
        if (parent instanceof Row row) {
            value = row.get(targetColumn);
        } else {
            TypeShape<Object> shape = TypeShape.of((Class<Object>) parent.getClass());
            value = shape.properties().stream()
                    .filter(p -> target.columnForProperty(p.name())
                            .filter(c -> c.name().equals(targetColumn))
                            .isPresent())
                    .findFirst()
                    .map(p -> shape.read(parent, p))
                    .orElseThrow(() -> new ZabbetException(parent.getClass().getSimpleName()
                            + " has no property for " + target.name() + "." + targetColumn + ", which "
                            + node.table.name() + "." + own.name() + " refers to."));
        }
        if (value == null && !own.nullable()) {
            throw new ZabbetException("The parent given for " + node.table.name() + "." + own.name() + " has no "
                    + targetColumn + ": " + parent + ". Store it first.");
        }
        return canonical(node, position, value);
    }

    private static @Nullable Object canonical(Node node, int position, @Nullable Object value) {
        Column column = node.table.columns().get(position);
        try {
            return stored(column, Canon.of(column.type(), value));
        } catch (Inexact e) {
            throw new ZabbetException(node.table.name() + "." + column.name() + " is "
                    + column.type().sqlName() + ", and " + e.clause() + ".");
        }
    }

    /** Times are cut to what the column keeps, so that the object handed back equals the row read back. */
    private static @Nullable Object stored(Column column, @Nullable Object value) {
        DataType type = column.type();
        boolean temporal = type.kind() == Kind.TIMESTAMP || type.kind() == Kind.INSTANT || type.kind() == Kind.TIME;
        if (!temporal || value == null) {
            return value;
        }
        int digits = type.precision() == DataType.UNLIMITED ? 6 : Math.min(type.precision(), 9);
        long unit = (long) Math.pow(10, 9 - digits);
        if (value instanceof LocalDateTime dateTime) {
            return dateTime.truncatedTo(ChronoUnit.SECONDS).plusNanos(dateTime.getNano() / unit * unit);
        }
        if (value instanceof Instant instant) {
            return instant.truncatedTo(ChronoUnit.SECONDS).plusNanos(instant.getNano() / unit * unit);
        }
        LocalTime time = (LocalTime) value;
        return time.truncatedTo(ChronoUnit.SECONDS).plusNanos(time.getNano() / unit * unit);
    }

    /** Finds out before anything is stored what can be found out: nulls, lengths and checks. */
    private void requireValid() {
        for (Node node : nodes) {
            List<CheckCondition> checks = new ArrayList<>();
            node.table.checks().forEach(check -> checks.add(CheckCondition.of(node.table, check)));
            for (int row = 0; row < size(node); row++) {
                @Nullable Object[] values = new @Nullable Object[node.cells.length];
                for (int at = 0; at < values.length; at++) {
                    values[at] = value(node, row, at);
                    requireFit(node, at, values[at]);
                }
                for (CheckCondition check : checks) {
                    requireKept(node, check, values);
                }
            }
        }
    }

    private void requireFit(Node node, int at, @Nullable Object value) {
        Column column = node.table.columns().get(at);
        String name = node.table.name() + "." + column.name();
        if (value == null && !column.nullable() && !isLeftOut(node, at)) {
            throw new ZabbetException(name + " does not allow null, and the factory gives it null.");
        }
        int most = column.type().length();
        if (value instanceof String text
                && most != DataType.UNLIMITED
                && text.codePointCount(0, text.length()) > most) {
            throw new ZabbetException(name + " is " + column.type().sqlName() + " and keeps " + most
                    + " characters; the value has " + text.codePointCount(0, text.length()) + ": "
                    + Text.of(text) + ".");
        }
        if (value instanceof byte[] bytes && most != DataType.UNLIMITED && bytes.length > most) {
            throw new ZabbetException(name + " is " + column.type().sqlName() + " and keeps " + most
                    + " bytes; the value has " + bytes.length + ".");
        }
    }

    private void requireKept(Node node, CheckCondition condition, @Nullable Object[] values) {
        for (String column : condition.columns()) {
            if (isLeftOut(node, node.table.position(column))
                    && node.table.requireColumn(column).defaultText().isPresent()) {
                return;
            }
        }
        if (condition.evaluate(at -> values[at]) != Verdict.BROKEN) {
            return;
        }
        Check check = condition.check();
        Map<String, @Nullable Object> shown = new LinkedHashMap<>();
        condition.columns().forEach(column -> shown.put(column, values[node.table.position(column)]));
        throw new ZabbetException("A row of " + node.table.name() + " would break its check "
                + (check.name().isEmpty() ? "" : check.name() + ", ") + check.text() + ", with " + Row.of(shown)
                + ". Set " + String.join(", ", condition.columns()) + " to values that keep it. Nothing was stored.");
    }
}
