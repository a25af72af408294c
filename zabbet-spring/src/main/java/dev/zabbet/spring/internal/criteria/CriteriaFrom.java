package dev.zabbet.spring.internal.criteria;

import dev.zabbet.spring.internal.query.Names.Elements;
import dev.zabbet.spring.internal.query.Names.Source;
import dev.zabbet.spring.internal.query.Operators;
import dev.zabbet.spring.internal.query.SelectQuery;
import dev.zabbet.spring.internal.query.Value;
import jakarta.persistence.criteria.Join;
import jakarta.persistence.criteria.JoinType;
import java.lang.reflect.Method;
import java.util.Collection;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** What a query selects from: a root, or what is joined to one. */
final class CriteriaFrom extends CriteriaValue {
    private final String alias;
    private final SelectQuery query;
    private @Nullable Value on;

    private CriteriaFrom(String alias, SelectQuery query, Elements elements, boolean outer) {
        super(scope -> scope.get(alias));
        this.alias = alias;
        this.query = query;
        query.join(new Source(alias, elements), scope -> on == null ? true : on.in(scope), outer);
    }

    /** @param alias one that no other source has, in this query or around it */
    static CriteriaFrom root(Class<?> entity, String alias, SelectQuery query) {
        return new CriteriaFrom(alias, query, scope -> scope.call().objects(entity), false);
    }

    @Override
    @Nullable
    Object answer(Object proxy, Method method, List<@Nullable Object> arguments) {
        String called = method.getName();
        if (called.equals("join") && arguments.get(0) instanceof Class<?>) {
            return null;
        }
        if (called.startsWith("join")) {
            return join(name(arguments.get(0)), arguments.contains(JoinType.LEFT), method.getReturnType());
        }
        if (called.equals("fetch")) {
            query.makeDistinct();
            return join(name(arguments.get(0)), true, Join.class);
        }
        if (called.equals("on")) {
            for (Value condition : values(arguments)) {
                Value before = on;
                on = before == null ? condition : scope -> Operators.and(before.in(scope), condition.in(scope));
            }
            return proxy;
        }
        return super.answer(proxy, method, arguments);
    }

    private Object join(String relation, boolean outer, Class<?> face) {
        Value along = path(relation).value();
        return new CriteriaFrom(
                        alias + "." + relation + "." + query.sources(),
                        query,
                        scope -> {
                            Object at = along.in(scope);
                            if (at instanceof Collection<?> several) {
                                return several;
                            }
                            if (at == null) {
                                return List.of();
                            }
                            return List.of(at);
                        },
                        outer)
                .as(face);
    }
}
