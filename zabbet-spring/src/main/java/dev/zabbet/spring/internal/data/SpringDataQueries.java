package dev.zabbet.spring.internal.data;

import dev.zabbet.fake.CallArguments;
import dev.zabbet.fake.Definition;
import dev.zabbet.fake.Tables;
import dev.zabbet.internal.fake.FakeSupport.Part;
import dev.zabbet.internal.fake.FakeSupport.PartForm;
import dev.zabbet.internal.fake.FakeSupport.Selection;
import dev.zabbet.internal.fake.FakeSupport.SortBy;
import dev.zabbet.schema.Schema;
import dev.zabbet.spring.internal.query.Call;
import dev.zabbet.spring.internal.query.Operators;
import dev.zabbet.spring.internal.query.QueryMethod;
import dev.zabbet.spring.internal.query.Scope;
import dev.zabbet.spring.internal.query.UnsupportedQueryException;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.springframework.core.annotation.AnnotatedElementUtils;
import org.springframework.core.annotation.AnnotationAttributes;
import org.springframework.util.ClassUtils;

/** Methods of Spring Data whose query an annotation says, in the language of Jakarta Persistence or in SQL. */
final class SpringDataQueries {
    private static final String ANNOTATION = "org.springframework.data.jpa.repository.Query";

    private SpringDataQueries() {}

    /**
     * Returns what such a method does; empty if it has no query.
     *
     * @throws UnsupportedOperationException if the query is not understood
     */
    static Optional<Definition> definition(Method method, Class<?> entity, Schema schema) {
        QueryOf said = said(method, entity);
        if (said == null) {
            return Optional.empty();
        }
        try {
            QueryMethod query = said.inSql()
                    ? QueryMethod.ofRows(said.text(), method, entity, schema)
                    : QueryMethod.ofObjects(said.text(), method, entity, schema);
            return Optional.of((tables, given) -> answer(query, method, tables, given));
        } catch (UnsupportedQueryException e) {
            throw new UnsupportedOperationException(e.getMessage(), e);
        }
    }

    /** The query of a method. */
    record QueryOf(String text, boolean inSql) {}

    /** Returns the query that stands at the method, or at the entity under the method's name; null if none does. */
    private static @Nullable QueryOf said(Method method, Class<?> entity) {
        AnnotationAttributes said = AnnotatedElementUtils.getMergedAnnotationAttributes(method, ANNOTATION);
        if (said != null && !said.getString("value").isBlank()) {
            return new QueryOf(said.getString("value"), said.getBoolean("nativeQuery"));
        }
        return ClassUtils.isPresent("jakarta.persistence.NamedQuery", SpringDataQueries.class.getClassLoader())
                ? NamedQueries.find(said == null ? "" : said.getString("name"), method, entity)
                : null;
    }

    private static @Nullable Object answer(QueryMethod query, Method method, Tables tables, CallArguments given) {
        Call call = new Call(tables, given);
        if (query.isChange()) {
            return query.change(call);
        }
        Selection selection = selection(method, given);
        List<@Nullable Object> all = new ArrayList<>();
        query.select(call, order(selection.order(), query.root()))
                .forEach(one -> all.add(one == null ? null : tables.managed(one)));
        return cut(all, selection, method, given);
    }

    /** Returns the part of some elements that the arguments of a call ask for, in the form of the method's result. */
    static Object cut(List<? extends @Nullable Object> all, Selection selection, Method method, CallArguments given) {
        int from = (int) Math.min(all.size(), selection.offset());
        int to = (int) Math.min(all.size(), from + Math.min(selection.limit(), all.size()));
        List<@Nullable Object> part = new ArrayList<>(all.subList(from, to));
        Optional<PartForm> form = SpringDataParts.form(method.getReturnType());
        return form.isPresent()
                ? form.get()
                        .of(
                                part,
                                new Part(
                                        all.size(),
                                        selection.offset(),
                                        selection.limit(),
                                        selection.order(),
                                        arguments(given)))
                : part;
    }

    /** Returns which part of the rows the arguments of a call ask for. */
    static Selection selection(Method method, CallArguments given) {
        Selection all = new Selection(0, Long.MAX_VALUE, List.of(), null);
        for (int i = 0; i < given.size(); i++) {
            Object argument = given.get(i);
            var form = SpringDataSelections.form(method.getParameterTypes()[i]);
            if (argument != null && form.isPresent()) {
                Selection one = form.get().of(argument);
                List<SortBy> order = new ArrayList<>(all.order());
                order.addAll(one.order());
                all = new Selection(
                        all.offset() + one.offset(), Math.min(all.limit(), one.limit()), order, one.place());
            }
        }
        return all;
    }

    private static List<@Nullable Object> arguments(CallArguments given) {
        List<@Nullable Object> arguments = new ArrayList<>();
        for (int i = 0; i < given.size(); i++) {
            arguments.add(given.get(i));
        }
        return arguments;
    }

    /** A property is one of what is selected from first, unless it begins with the alias of another. */
    private static Comparator<Scope> order(List<SortBy> order, String root) {
        Comparator<Scope> comparator = (ignored, unused) -> 0;
        for (SortBy by : order) {
            comparator = comparator.thenComparing(
                    Comparator.comparing(scope -> value(scope, by, root), by.order(Operators.ORDER)));
        }
        return comparator;
    }

    private static @Nullable Object value(Scope scope, SortBy by, String root) {
        int dot = by.property().indexOf('.');
        String alias = dot < 0 ? "" : by.property().substring(0, dot).toLowerCase(Locale.ROOT);
        return scope.bound().containsKey(alias)
                ? QueryMethod.sorted(
                        scope.get(alias),
                        new SortBy(by.property().substring(dot + 1), by.descending(), by.ignoreCase(), by.nullsFirst()))
                : QueryMethod.sorted(scope.get(root), by);
    }
}
