package dev.zabbet.spring.internal.criteria;

import dev.zabbet.spring.internal.query.Call;
import dev.zabbet.spring.internal.query.Names.Item;
import dev.zabbet.spring.internal.query.Scope;
import jakarta.persistence.criteria.CriteriaBuilder;
import jakarta.persistence.criteria.CriteriaQuery;
import jakarta.persistence.criteria.Root;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** Answers criteria queries of one entity. */
public final class CriteriaQueries {
    private CriteriaQueries() {}

    /** Puts a condition together; null for none. */
    @FunctionalInterface
    public interface Condition {
        @Nullable
        Object of(Root<?> root, CriteriaQuery<?> query, CriteriaBuilder builder);
    }

    /**
     * Returns the objects that a condition holds for.
     *
     * @param result what the query says that it gives, for those who ask it
     * @param then the order of what the condition's own leaves open
     */
    public static List<Object> find(
            Class<?> entity, Class<?> result, Condition condition, Call call, Comparator<Object> then) {
        CriteriaSelect select = CriteriaSelect.of(result);
        Root<?> root = select.from(entity);
        Object found =
                condition.of(root, select.as(CriteriaQuery.class), new CriteriaBuilding().as(CriteriaBuilder.class));
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
