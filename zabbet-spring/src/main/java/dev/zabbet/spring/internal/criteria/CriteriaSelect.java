package dev.zabbet.spring.internal.criteria;

import dev.zabbet.spring.internal.query.Names.Item;
import dev.zabbet.spring.internal.query.SelectQuery;
import dev.zabbet.spring.internal.query.Value;
import jakarta.persistence.criteria.Root;
import jakarta.persistence.criteria.Subquery;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** A query that is being put together, or one inside it, which is a value too. */
final class CriteriaSelect extends CriteriaValue {
    private final SelectQuery query;
    private final Class<?> result;
    private final int depth;
    private final Map<String, Value> changes = new LinkedHashMap<>(); // of an update, by properties

    private CriteriaSelect(SelectQuery query, Class<?> result, int depth) {
        super(scope -> query.column(scope.inner()));
        this.query = query;
        this.result = result;
        this.depth = depth;
    }

    /** @param result what the query is said to give */
    static CriteriaSelect of(Class<?> result) {
        return new CriteriaSelect(new SelectQuery(), result, 0);
    }

    /** Returns the query inside that an object stands for; null if it is none. */
    static @Nullable SelectQuery inside(@Nullable Object object) {
        return of(object) instanceof CriteriaSelect select ? select.query : null;
    }

    SelectQuery query() {
        return query;
    }

    Root<?> from(Class<?> entity) {
        return CriteriaFrom.root(entity, "from" + depth + "." + query.sources(), query)
                .as(Root.class);
    }

    @Override
    @Nullable
    Object answer(Object proxy, Method method, List<@Nullable Object> arguments) {
        return switch (method.getName()) {
            case "from" -> arguments.get(0) instanceof Class<?> entity ? from(entity) : null;
            case "where" -> {
                values(arguments).forEach(query::where);
                yield proxy;
            }
            case "select" -> {
                query.select(new Item("", value(arguments.get(0))));
                yield proxy;
            }
            case "distinct" -> {
                if (Boolean.TRUE.equals(arguments.get(0))) {
                    query.makeDistinct();
                }
                yield proxy;
            }
            case "orderBy" -> {
                arguments.forEach(this::order);
                yield proxy;
            }
            case "subquery" ->
                new CriteriaSelect(
                                new SelectQuery(),
                                (Class<?>) java.util.Objects.requireNonNull(arguments.get(0)),
                                depth + 1)
                        .as(Subquery.class);
            case "set" -> {
                changes.put(property(arguments.get(0)), value(arguments.get(1)));
                yield proxy;
            }
            case "getResultType" -> result;
            case "groupBy", "having" -> null;
            default -> super.answer(proxy, method, arguments);
        };
    }

    private static String property(@Nullable Object target) {
        CriteriaValue path = of(target);
        return path == null ? name(target) : path.name();
    }

    /** Returns what an update sets, by properties. */
    Map<String, Value> changes() {
        return changes;
    }

    private void order(@Nullable Object by) {
        if (by instanceof List<?> several) {
            several.forEach(this::order);
        } else if (by != null && Proxy.getInvocationHandler(by) instanceof Order order) {
            query.orderBy(order.by, order.ascending, null);
        }
    }

    /** A value to order by. */
    static final class Order extends CriteriaNode {
        private final Value by;
        private final boolean ascending;

        Order(Value by, boolean ascending) {
            this.by = by;
            this.ascending = ascending;
        }

        @Override
        @Nullable
        Object answer(Object proxy, Method method, List<@Nullable Object> arguments) {
            return switch (method.getName()) {
                case "isAscending" -> ascending;
                case "reverse" -> new Order(by, !ascending).as(jakarta.persistence.criteria.Order.class);
                case "getExpression" -> CriteriaValue.expression(by);
                default -> null;
            };
        }
    }
}
