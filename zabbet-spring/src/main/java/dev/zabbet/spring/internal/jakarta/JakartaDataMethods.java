package dev.zabbet.spring.internal.jakarta;

import dev.zabbet.fake.CallArguments;
import dev.zabbet.fake.Definition;
import dev.zabbet.fake.Tables;
import dev.zabbet.internal.fake.FakeSupport.Part;
import dev.zabbet.internal.fake.FakeSupport.PartForm;
import dev.zabbet.internal.fake.FakeSupport.Selection;
import dev.zabbet.internal.fake.FakeSupport.SelectionForm;
import dev.zabbet.internal.fake.FakeSupport.SortBy;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.schema.Schema;
import dev.zabbet.spring.internal.query.Call;
import dev.zabbet.spring.internal.query.Operators;
import dev.zabbet.spring.internal.query.QueryMethod;
import dev.zabbet.spring.internal.query.Scope;
import dev.zabbet.spring.internal.query.UnsupportedQueryException;
import jakarta.data.Limit;
import jakarta.data.Order;
import jakarta.data.Sort;
import jakarta.data.page.Page;
import jakarta.data.page.PageRequest;
import jakarta.data.page.impl.PageRecord;
import jakarta.data.repository.By;
import jakarta.data.repository.Find;
import jakarta.data.repository.OrderBy;
import jakarta.data.repository.Query;
import java.lang.reflect.Method;
import java.lang.reflect.Parameter;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Methods under the annotations of Jakarta Data 1.0, 4.6: those that find by their parameters, and those with a query. */
final class JakartaDataMethods {
    private final Method method;
    private final Class<?> entity;

    private JakartaDataMethods(Method method, Class<?> entity) {
        this.method = method;
        this.entity = entity;
    }

    /**
     * Returns what such a method does; empty for one that its name explains.
     *
     * @throws UnsupportedOperationException if it is not understood
     */
    static Optional<Definition> definition(Method method, Class<?> entity, Schema schema) {
        JakartaDataMethods methods = new JakartaDataMethods(method, entity);
        Query query = method.getAnnotation(Query.class);
        try {
            if (query != null) {
                QueryMethod read = QueryMethod.ofObjects(query.value(), method, entity, schema);
                return Optional.of((tables, given) -> methods.run(read, tables, given));
            }
        } catch (UnsupportedQueryException e) {
            throw new UnsupportedOperationException(e.getMessage(), e);
        }
        return method.isAnnotationPresent(Find.class) ? Optional.of(methods.finding()) : Optional.empty();
    }

    private @Nullable Object run(QueryMethod query, Tables tables, CallArguments given) {
        Call call = new Call(tables, given);
        if (query.isChange()) {
            return query.change(call);
        }
        Selection selection = selection(given);
        Comparator<Scope> order = (ignored, unused) -> 0;
        for (SortBy by : selection.order()) {
            Comparator<Scope> one =
                    Comparator.comparing(scope -> QueryMethod.sorted(scope.get(query.root()), by), Operators.ORDER);
            order = order.thenComparing(by.descending() ? one.reversed() : one);
        }
        return cut(query.select(call, order), selection, given);
    }

    /** Each parameter that says no part of the rows is a property that has to be equal. */
    private Definition finding() {
        List<@Nullable String> properties = new ArrayList<>();
        for (Parameter parameter : method.getParameters()) {
            By by = parameter.getAnnotation(By.class);
            properties.add(
                    selection(parameter.getType()).isPresent()
                            ? null
                            : property(by == null ? parameter.getName() : by.value()));
        }
        return (tables, given) -> {
            Selection selection = selection(given);
            List<Object> found = tables.all(entity)
                    .<Object>map(object -> object)
                    .filter(object -> isAlike(object, properties, given))
                    .sorted(order(selection.order()))
                    .toList();
            return cut(found, selection, given);
        };
    }

    private static boolean isAlike(Object object, List<@Nullable String> properties, CallArguments given) {
        for (int i = 0; i < properties.size(); i++) {
            String property = properties.get(i);
            if (property != null) {
                Object held = QueryMethod.read(object, property);
                Object wanted = given.get(i);
                boolean alike =
                        wanted == null ? held == null : Boolean.TRUE.equals(Operators.compared("=", held, wanted));
                if (!alike) {
                    return false;
                }
            }
        }
        return true;
    }

    @SuppressWarnings("unchecked")
    private String property(String name) {
        TypeShape<Object> shape = TypeShape.of((Class<Object>) entity);
        String path = name.replace('_', '.');
        if (name.equals(By.ID)) {
            return "id";
        }
        String first = path.contains(".") ? path.substring(0, path.indexOf('.')) : path;
        if (shape.find(first).isEmpty()) {
            throw new UnsupportedOperationException("its parameter '" + name + "' is no property of "
                    + entity.getSimpleName() + " (compile with -parameters, or name it by @By)");
        }
        return path;
    }

    private static Comparator<Object> order(List<SortBy> order) {
        Comparator<Object> comparator = (ignored, unused) -> 0;
        for (SortBy by : order) {
            Comparator<Object> one = Comparator.comparing(object -> QueryMethod.sorted(object, by), Operators.ORDER);
            comparator = comparator.thenComparing(by.descending() ? one.reversed() : one);
        }
        return comparator;
    }

    private Selection selection(CallArguments given) {
        List<SortBy> order = new ArrayList<>();
        for (OrderBy by : method.getAnnotationsByType(OrderBy.class)) {
            order.add(new SortBy(by.value(), by.descending(), by.ignoreCase()));
        }
        Selection all = new Selection(0, Long.MAX_VALUE, order, null);
        for (int i = 0; i < given.size(); i++) {
            Object argument = given.get(i);
            Optional<SelectionForm> form = selection(method.getParameterTypes()[i]);
            if (argument != null && form.isPresent()) {
                Selection one = form.get().of(argument);
                List<SortBy> both = new ArrayList<>(all.order());
                both.addAll(one.order());
                all = new Selection(all.offset() + one.offset(), Math.min(all.limit(), one.limit()), both, null);
            }
        }
        return all;
    }

    private Object cut(List<? extends @Nullable Object> all, Selection selection, CallArguments given) {
        int from = (int) Math.min(all.size(), selection.offset());
        int to = (int) Math.min(all.size(), from + Math.min(selection.limit(), all.size()));
        List<@Nullable Object> part = new ArrayList<>(all.subList(from, to));
        List<@Nullable Object> arguments = new ArrayList<>();
        for (int i = 0; i < given.size(); i++) {
            arguments.add(given.get(i));
        }
        return part(method.getReturnType())
                .map(form -> form.of(
                        part,
                        new Part(all.size(), selection.offset(), selection.limit(), selection.order(), arguments)))
                .orElse(part);
    }

    /** Returns how an argument says a part of the rows; pages are counted from 1. */
    static Optional<SelectionForm> selection(Class<?> parameter) {
        if (parameter == Limit.class) {
            return Optional.of(argument -> {
                Limit limit = (Limit) argument;
                return new Selection(limit.startAt() - 1, limit.maxResults(), List.of(), null);
            });
        }
        if (parameter == PageRequest.class) {
            return Optional.of(argument -> {
                PageRequest page = (PageRequest) argument;
                if (page.mode() != PageRequest.Mode.OFFSET) {
                    throw new UnsupportedOperationException("A fake does not page by cursors. Ask for a page by its"
                            + " number, or define what the method does: stage.define(…).");
                }
                return new Selection((page.page() - 1) * page.size(), page.size(), List.of(), null);
            });
        }
        if (parameter == Sort.class) {
            return Optional.of(argument -> new Selection(0, Long.MAX_VALUE, List.of(by((Sort<?>) argument)), null));
        }
        if (parameter == Order.class || parameter == Sort[].class) {
            return Optional.of(argument -> {
                List<SortBy> order = new ArrayList<>();
                if (argument instanceof Order<?> several) {
                    several.forEach(sort -> order.add(by(sort)));
                } else {
                    Stream.of((Sort<?>[]) argument).forEach(sort -> order.add(by(sort)));
                }
                return new Selection(0, Long.MAX_VALUE, order, null);
            });
        }
        return Optional.empty();
    }

    private static SortBy by(Sort<?> sort) {
        return new SortBy(sort.property(), sort.isDescending(), sort.ignoreCase());
    }

    static Optional<PartForm> part(Class<?> result) {
        return result == Page.class
                ? Optional.of((elements, part) -> new PageRecord<>(
                        part.arguments().stream()
                                .filter(PageRequest.class::isInstance)
                                .map(PageRequest.class::cast)
                                .findFirst()
                                .orElseGet(() -> PageRequest.ofSize(Math.max(1, elements.size()))),
                        elements,
                        part.total(),
                        part.offset() + elements.size() < part.total()))
                : Optional.empty();
    }
}
