package dev.zabbet.spring.internal.data;

import dev.zabbet.internal.fake.FakeSupport.SortBy;
import dev.zabbet.spring.internal.query.Operators;
import dev.zabbet.spring.internal.query.QueryMethod;
import java.lang.reflect.InvocationHandler;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.springframework.dao.IncorrectResultSizeDataAccessException;
import org.springframework.data.domain.PageImpl;
import org.springframework.data.domain.Pageable;
import org.springframework.data.domain.SliceImpl;
import org.springframework.data.domain.Sort;

/**
 * What a function given to {@code findBy} is handed: the objects found, and how they are to be ordered, cut and shown.
 * Immutable; each step is another.
 */
record FluentRows(
        Class<?> face,
        List<Object> found,
        Sort sort,
        int limit,
        @Nullable Class<?> view) implements InvocationHandler {
    static Object of(Class<?> face, List<Object> found) {
        return new FluentRows(face, found, Sort.unsorted(), 0, null).proxy();
    }

    private Object proxy() {
        return Proxy.newProxyInstance(face.getClassLoader(), new Class<?>[] {face}, this);
    }

    @Override
    public @Nullable Object invoke(Object proxy, Method method, @Nullable Object @Nullable [] given) {
        Object first = given == null || given.length == 0 ? null : given[0];
        return switch (method.getName()) {
            case "sortBy" -> new FluentRows(face, found, (Sort) argument(first), limit, view).proxy();
            case "limit" -> new FluentRows(face, found, sort, (Integer) argument(first), view).proxy();
            case "as" -> new FluentRows(face, found, sort, limit, (Class<?>) argument(first)).proxy();
            case "project" -> proxy; // what else is loaded makes no difference here
            case "all" -> rows(sort);
            case "stream" -> rows(sort).stream();
            case "count" -> (long) found.size();
            case "exists" -> !found.isEmpty();
            case "one" -> Optional.ofNullable(one());
            case "oneValue" -> one();
            case "first" -> rows(sort).stream().findFirst();
            case "firstValue" -> rows(sort).stream().findFirst().orElse(null);
            case "page" -> page((Pageable) argument(first));
            case "slice" -> slice((Pageable) argument(first));
            case "equals" -> proxy == first;
            case "hashCode" -> System.identityHashCode(proxy);
            case "toString" -> found.toString();
            default ->
                throw new UnsupportedOperationException(
                        method.getName() + " of a query that is put together is not known"
                                + " to a fake. Call another, or define what the method does: stage.define(…).");
        };
    }

    private static Object argument(@Nullable Object given) {
        return java.util.Objects.requireNonNull(given, "argument");
    }

    private @Nullable Object one() {
        if (found.size() > 1) {
            throw new IncorrectResultSizeDataAccessException(1, found.size());
        }
        return rows(sort).stream().findFirst().orElse(null);
    }

    private Object page(Pageable page) {
        return new PageImpl<>(part(page), page, found.size());
    }

    private Object slice(Pageable page) {
        List<Object> part = part(page);
        return new SliceImpl<>(part, page, page.isPaged() && page.getOffset() + part.size() < found.size());
    }

    private List<Object> part(Pageable page) {
        List<Object> all = rows(page.getSortOr(sort));
        return page.isPaged()
                ? all.stream().skip(page.getOffset()).limit(page.getPageSize()).toList()
                : all;
    }

    private List<Object> rows(Sort by) {
        List<Object> all = new ArrayList<>(found);
        all.sort(order(SpringDataSelections.order(by)));
        return all.stream()
                .limit(limit == 0 ? Long.MAX_VALUE : limit)
                .map(this::shown)
                .toList();
    }

    private Object shown(Object object) {
        Class<?> type = view;
        return type == null || type.isInstance(object) ? object : QueryMethod.view(type, object);
    }

    /** Returns the order that some properties mean. */
    static Comparator<Object> order(List<SortBy> by) {
        Comparator<Object> order = (ignored, unused) -> 0;
        for (SortBy one : by) {
            order = order.thenComparing(
                    Comparator.comparing(object -> QueryMethod.sorted(object, one), one.order(Operators.ORDER)));
        }
        return order;
    }
}
