package dev.zabbet.spring.internal.criteria;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.spring.internal.query.Call;
import dev.zabbet.spring.internal.query.Names.Item;
import dev.zabbet.spring.internal.query.Operators;
import dev.zabbet.spring.internal.query.QueryMethod;
import dev.zabbet.spring.internal.query.Scope;
import jakarta.persistence.criteria.CommonAbstractCriteria;
import jakarta.persistence.criteria.CriteriaBuilder;
import jakarta.persistence.criteria.Root;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** Answers criteria queries of one entity. */
public final class CriteriaQueries {
    private CriteriaQueries() {}

    /** Puts a condition together; null for none. */
    @FunctionalInterface
    public interface Condition {
        @Nullable
        Object of(Parts parts);
    }

    /** What a condition is put together with. */
    @FunctionalInterface
    public interface Parts {
        /** Returns the root, the query, or the builder, whichever is of a class; null if none is. */
        @Nullable
        Object of(Class<?> type);
    }

    /**
     * Returns the objects that a condition holds for.
     *
     * @param result what the query says that it gives, for those who ask it
     * @param then the order of what the condition's own leaves open
     */
    public static List<Object> find(
            Class<?> entity, Class<?> result, Condition condition, Call call, Comparator<Object> then) {
        return run(CriteriaSelect.of(result), entity, condition, call, then);
    }

    /**
     * Changes the objects that a condition holds for, as the condition's own query says.
     *
     * @param table where the objects are stored
     * @return how many
     * @throws ZabbetException if it sets what has no column
     */
    public static long update(Class<?> entity, Table table, Condition condition, Call call) {
        CriteriaSelect update = CriteriaSelect.of(entity);
        List<Object> found = run(update, entity, condition, call, (ignored, unused) -> 0);
        for (Object object : found) {
            Map<String, @Nullable Object> values = new LinkedHashMap<>();
            Scope scope = Scope.of(call).with(update.query().root(), object);
            update.changes()
                    .forEach((property, value) ->
                            values.put(QueryMethod.column(entity, table, property), Operators.stored(value.in(scope))));
            call.tables().update(table.name(), call.tables().keyOf(object), Row.of(values));
        }
        return found.size();
    }

    private static List<Object> run(
            CriteriaSelect select, Class<?> entity, Condition condition, Call call, Comparator<Object> then) {
        Root<?> root = select.from(entity);
        Object found = condition.of(type -> {
            if (type.isInstance(root)) {
                return root;
            }
            if (type == CriteriaBuilder.class) {
                return new CriteriaBuilding().as(type);
            }
            if (CommonAbstractCriteria.class.isAssignableFrom(type)) {
                return select.as(type);
            }
            return null;
        });
        if (found != null) {
            select.query().where(CriteriaNode.value(found));
        }
        String alias = select.query().root();
        select.query().select(new Item("", scope -> scope.get(alias)));
        Comparator<Scope> order = Comparator.comparing(scope -> Objects.requireNonNull(scope.get(alias)), then);
        List<Object> all = new ArrayList<>();
        select.query().column(Scope.of(call), order).forEach(one -> all.add(Objects.requireNonNull(one)));
        return all;
    }
}
