package dev.zabbet.spring.internal.query;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** A SELECT: sources, conditions, groups, order, and what is selected. Put together first, and then only run. */
public final class SelectQuery {
    private final List<From> from = new ArrayList<>();
    private final List<Names.Item> items = new ArrayList<>();
    private final List<Value> groupBy = new ArrayList<>();
    private final List<Ordering> order = new ArrayList<>();
    private @Nullable Value where;
    private @Nullable Value having;
    private @Nullable Value limit;
    private @Nullable Value offset;
    private boolean distinct;
    private boolean grouped;

    /** One source, and how it is joined to those before it. */
    private record From(Names.Source source, @Nullable Value on, boolean outer) {}

    private record Ordering(
            Value value, boolean ascending, @Nullable Boolean nullsFirst) {}

    /** Adds a source; {@code outer} keeps what finds nothing there. */
    public void join(Names.Source source, @Nullable Value on, boolean outer) {
        from.add(new From(source, on, outer));
    }

    /** Returns how many sources there are. */
    public int sources() {
        return from.size();
    }

    /** Adds a condition, which has to hold beside those before it. */
    public void where(Value condition) {
        Value before = where;
        where = before == null ? condition : scope -> Operators.and(before.in(scope), condition.in(scope));
    }

    void groupBy(Value value) {
        groupBy.add(value);
        grouped = true;
    }

    void having(Value condition) {
        having = condition;
    }

    /** Takes note that something is selected of all rows together. */
    void aggregate() {
        grouped = true;
    }

    /** Adds what is selected. */
    public void select(Names.Item item) {
        items.add(item);
    }

    /** Orders by one more value; without {@code nullsFirst} nulls come last where it ascends. */
    public void orderBy(Value value, boolean ascending, @Nullable Boolean nullsFirst) {
        order.add(new Ordering(value, ascending, nullsFirst));
    }

    void limit(Value most) {
        limit = most;
    }

    void offset(Value first) {
        offset = first;
    }

    /** Lets each row be found once. */
    public void makeDistinct() {
        distinct = true;
    }

    /** Returns what is selected. */
    List<Names.Item> items() {
        return items;
    }

    /** Returns the alias of the first source; empty if there is none. */
    public String root() {
        return from.isEmpty() ? "" : from.get(0).source().alias();
    }

    /** Returns the first of what is selected, row by row. */
    public List<@Nullable Object> column(Scope around) {
        return column(around, (ignored, unused) -> 0);
    }

    /** Returns the same in an order; {@code then} decides what the query's own order leaves open. */
    public List<@Nullable Object> column(Scope around, Comparator<Scope> then) {
        List<@Nullable Object> column = new ArrayList<>();
        rows(around, then).forEach(row -> column.add(row.get(0)));
        return column;
    }

    /** Returns what is selected, row by row. */
    public List<List<@Nullable Object>> rows(Scope around) {
        return rows(around, (ignored, unused) -> 0);
    }

    /**
     * Returns what is selected, row by row.
     *
     * @param around where the query around this one is
     * @param then the order of what the query's own order leaves open
     */
    public List<List<@Nullable Object>> rows(Scope around, Comparator<Scope> then) {
        List<Scope> found = grouped ? groups(around) : matching(around);
        if (having != null) {
            Value condition = having;
            found.removeIf(scope -> !Boolean.TRUE.equals(condition.in(scope)));
        }
        found.sort(comparator().thenComparing(then));
        List<List<@Nullable Object>> rows = new ArrayList<>();
        Set<List<@Nullable Object>> known = new HashSet<>();
        for (Scope scope : found) {
            List<@Nullable Object> row = new ArrayList<>();
            List<@Nullable Object> identity = new ArrayList<>();
            for (Names.Item item : items) {
                Object value = item.value().in(scope);
                row.add(value);
                identity.add(value == null ? null : value.getClass());
                identity.add(Operators.stored(value));
            }
            if (!distinct || known.add(identity)) {
                rows.add(row);
            }
        }
        return cut(rows, around);
    }

    private List<List<@Nullable Object>> cut(List<List<@Nullable Object>> rows, Scope around) {
        int start = (int) Math.min(rows.size(), number(offset, around, 0));
        int end = (int) Math.min(rows.size(), start + number(limit, around, rows.size()));
        return rows.subList(start, end);
    }

    private static long number(@Nullable Value value, Scope around, long otherwise) {
        Object number = value == null ? null : value.in(around);
        return number == null ? otherwise : new BigDecimal(number.toString()).longValueExact();
    }

    private List<Scope> matching(Scope around) {
        List<Scope> found = new ArrayList<>(List.of(around));
        for (From next : from) {
            List<Scope> joined = new ArrayList<>();
            for (Scope scope : found) {
                join(scope, next, joined);
            }
            found = joined;
        }
        if (where != null) {
            Value condition = where;
            found.removeIf(scope -> !Boolean.TRUE.equals(condition.in(scope)));
        }
        return found;
    }

    private static void join(Scope scope, From next, List<Scope> joined) {
        int before = joined.size();
        Collection<?> elements = next.source().elements().in(scope);
        for (Object element : elements) {
            Scope with = scope.with(next.source().alias(), element);
            if (next.on() == null || Boolean.TRUE.equals(next.on().in(with))) {
                joined.add(with);
            }
        }
        if (next.outer() && joined.size() == before) {
            joined.add(scope.with(next.source().alias(), null));
        }
    }

    private List<Scope> groups(Scope around) {
        Map<List<@Nullable Object>, List<Scope>> groups = new LinkedHashMap<>();
        if (groupBy.isEmpty()) {
            groups.put(List.of(), new ArrayList<>());
        }
        for (Scope scope : matching(around)) {
            List<@Nullable Object> key = new ArrayList<>();
            groupBy.forEach(by -> key.add(Operators.stored(by.in(scope))));
            groups.computeIfAbsent(key, k -> new ArrayList<>()).add(scope);
        }
        List<Scope> scopes = new ArrayList<>();
        groups.values().forEach(members -> scopes.add(Scope.ofGroup(members, around)));
        return scopes;
    }

    private Comparator<Scope> comparator() {
        Comparator<Scope> comparator = (ignored, unused) -> 0;
        for (Ordering by : order) {
            Comparator<@Nullable Object> values = by.ascending() ? Operators.ORDER : Operators.ORDER.reversed();
            Boolean nullsFirst = by.nullsFirst();
            if (nullsFirst != null) {
                values = nullsFirst ? Comparator.nullsFirst(values) : Comparator.nullsLast(values);
            }
            Comparator<@Nullable Object> how = values;
            comparator = comparator.thenComparing(
                    (a, b) -> how.compare(by.value().in(a), by.value().in(b)));
        }
        return comparator;
    }
}
