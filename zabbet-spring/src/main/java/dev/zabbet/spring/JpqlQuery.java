package dev.zabbet.spring;

import dev.zabbet.fake.Definition;
import dev.zabbet.fake.Given;
import dev.zabbet.fake.Tables;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import java.lang.annotation.Annotation;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import net.sf.jsqlparser.JSQLParserException;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.parser.CCJSqlParserUtil;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.Statement;
import net.sf.jsqlparser.statement.delete.Delete;
import net.sf.jsqlparser.statement.select.Join;
import net.sf.jsqlparser.statement.select.OrderByElement;
import net.sf.jsqlparser.statement.select.PlainSelect;
import net.sf.jsqlparser.statement.update.Update;
import net.sf.jsqlparser.statement.update.UpdateSet;
import org.jspecify.annotations.Nullable;
import org.springframework.data.domain.Page;
import org.springframework.data.domain.PageImpl;
import org.springframework.data.domain.Pageable;
import org.springframework.data.domain.Slice;
import org.springframework.data.domain.SliceImpl;
import org.springframework.data.domain.Sort;

/**
 * A query in the language of Jakarta Persistence (3.1, chapter 4), answered from objects in memory: one entity and those that
 * it refers to, conditions, parameters, order, counts, updates and deletes. SQL's grammar is read by a parser of SQL, which
 * covers these.
 */
final class JpqlQuery {
    private static final String ANNOTATION = "org.springframework.data.jpa.repository.Query";

    private final Class<?> entity;
    private final Method method;
    private final JpqlExpressions expressions;
    private final List<Ordering> order = new ArrayList<>();
    private JpqlExpressions.@Nullable Value where;
    private JpqlExpressions.@Nullable Value selected;
    private boolean distinct;
    private boolean counts;
    private final Map<String, JpqlExpressions.Value> changes = new LinkedHashMap<>(); // by columns
    private boolean changing;

    private record Ordering(JpqlExpressions.Value value, boolean ascending) {}

    private JpqlQuery(Class<?> entity, Method method) {
        this.entity = entity;
        this.method = method;
        this.expressions = new JpqlExpressions(entity, method);
    }

    /** Returns what a method under an annotation with a query does; empty if it has none, or one that is not understood. */
    static Optional<Definition> definition(Method method, Class<?> entity) {
        String text = text(method);
        if (text.isEmpty()) {
            return Optional.empty();
        }
        try {
            JpqlQuery query = new JpqlQuery(entity, method);
            query.read(CCJSqlParserUtil.parse(text.replace("#{#entityName}", entity.getSimpleName())
                    .replaceAll("(?i)\\bjoin\\s+fetch\\b", "join")
                    .replaceAll("(?i)\\blike\\s+%(:\\w+|\\?\\d+)%", "like concat('%', $1, '%')")
                    .replaceAll("(?i)\\blike\\s+(:\\w+|\\?\\d+)%", "like concat($1, '%')")));
            return Optional.of(query::answer);
        } catch (JSQLParserException | JpqlExpressions.Unsupported e) {
            return Optional.empty(); // the fake says so, and how to define the method
        }
    }

    private static String text(Method method) {
        for (Annotation annotation : method.getAnnotations()) {
            if (annotation.annotationType().getName().equals(ANNOTATION)) {
                try {
                    boolean sql = (Boolean)
                            annotation.annotationType().getMethod("nativeQuery").invoke(annotation);
                    String text = (String)
                            annotation.annotationType().getMethod("value").invoke(annotation);
                    return sql || text.replace("#{#entityName}", "").contains("#{") ? "" : text;
                } catch (ReflectiveOperationException e) {
                    return "";
                }
            }
        }
        return "";
    }

    private void read(Statement statement) throws JpqlExpressions.Unsupported {
        if (statement instanceof PlainSelect select) {
            readSelect(select);
        } else if (statement instanceof Update update) {
            requireNone(update.getJoins());
            changing = true;
            root(update.getTable());
            for (UpdateSet set : update.getUpdateSets()) {
                if (set.getColumns().size() != 1 || set.getValues().size() != 1) {
                    throw new JpqlExpressions.Unsupported();
                }
                changes.put(
                        column(set.getColumns().get(0)),
                        expressions.value(set.getValues().get(0)));
            }
            where = condition(update.getWhere());
        } else if (statement instanceof Delete delete) {
            requireNone(delete.getJoins());
            changing = true;
            root(delete.getTable());
            where = condition(delete.getWhere());
        } else {
            throw new JpqlExpressions.Unsupported();
        }
    }

    private static void requireNone(@Nullable List<?> parts) throws JpqlExpressions.Unsupported {
        if (parts != null && !parts.isEmpty()) {
            throw new JpqlExpressions.Unsupported();
        }
    }

    private void readSelect(PlainSelect select) throws JpqlExpressions.Unsupported {
        if (select.getGroupBy() != null
                || select.getHaving() != null
                || select.getLimit() != null
                || select.getSelectItems().size() != 1
                || !(select.getFromItem() instanceof Table from)) {
            throw new JpqlExpressions.Unsupported();
        }
        root(from);
        for (Join join : Optional.ofNullable(select.getJoins()).orElse(List.of())) {
            if (!(join.getFromItem() instanceof Table joined)
                    || joined.getSchemaName() == null
                    || (join.getOnExpressions() != null
                            && !join.getOnExpressions().isEmpty())
                    || join.isRight()
                    || join.isFull()) {
                throw new JpqlExpressions.Unsupported();
            }
            String alias = joined.getAlias() == null ? "" : joined.getAlias().getName();
            expressions.join(alias, joined.getSchemaName() + "." + joined.getName(), join.isLeft());
        }
        distinct = select.getDistinct() != null;
        Expression item = select.getSelectItem(0).getExpression();
        if (item instanceof Function function && function.getName().equalsIgnoreCase("count")) {
            counts = true;
            distinct |= function.isDistinct();
            if (function.getParameters() != null && !function.isAllColumns()) {
                selected = expressions.value(function.getParameters().get(0));
            }
        } else {
            selected = expressions.value(item);
        }
        where = condition(select.getWhere());
        for (OrderByElement by :
                Optional.ofNullable(select.getOrderByElements()).orElse(List.of())) {
            order.add(new Ordering(expressions.value(by.getExpression()), by.isAsc()));
        }
    }

    private void root(Table table) throws JpqlExpressions.Unsupported {
        if (!table.getName().equalsIgnoreCase(entity.getSimpleName())) {
            throw new JpqlExpressions.Unsupported();
        }
        expressions.root(table.getAlias() == null ? "" : table.getAlias().getName());
    }

    private JpqlExpressions.@Nullable Value condition(@Nullable Expression expression)
            throws JpqlExpressions.Unsupported {
        return expression == null ? null : expressions.value(expression);
    }

    /** The column that an update sets; a relation's is that of its key. */
    private String column(Column column) throws JpqlExpressions.Unsupported {
        Prop prop = shape().find(column.getColumnName()).orElse(null);
        if (prop == null) {
            throw new JpqlExpressions.Unsupported();
        }
        return prop.column().orElse(Words.snakeCase(prop.name()) + (prop.isReference() ? "_id" : ""));
    }

    @SuppressWarnings("unchecked")
    private TypeShape<Object> shape() {
        return TypeShape.of((Class<Object>) entity);
    }

    private @Nullable Object answer(Tables tables, Given given) {
        List<@Nullable Object> arguments = new ArrayList<>();
        for (int i = 0; i < given.size(); i++) {
            arguments.add(given.get(i));
        }
        List<Object> found = tables.all(entity)
                .<Object>map(object -> object)
                .filter(object -> expressions.isJoined(object)
                        && (where == null || Boolean.TRUE.equals(where.of(object, arguments))))
                .toList();
        return changing ? change(tables, found, arguments) : select(found, arguments);
    }

    private Object change(Tables tables, List<Object> found, List<@Nullable Object> arguments) {
        String table = TypeShape.tableOf(entity);
        Prop key = shape().identifier().orElseThrow();
        for (Object object : found) {
            Object id = java.util.Objects.requireNonNull(shape().readStored(object, key));
            if (changes.isEmpty()) {
                tables.delete(table, id);
                continue;
            }
            Map<String, @Nullable Object> values = new LinkedHashMap<>();
            changes.forEach((column, value) -> values.put(column, JpqlExpressions.stored(value.of(object, arguments))));
            tables.update(table, id, Row.of(values));
        }
        return (long) found.size();
    }

    private @Nullable Object select(List<Object> found, List<@Nullable Object> arguments) {
        List<Object> ordered = new ArrayList<>(found);
        Pageable page = arguments.stream()
                .filter(Pageable.class::isInstance)
                .map(Pageable.class::cast)
                .findFirst()
                .orElse(Pageable.unpaged());
        Sort sort = arguments.stream()
                .filter(Sort.class::isInstance)
                .map(Sort.class::cast)
                .findFirst()
                .orElse(page.getSort());
        ordered.sort(comparator(sort, arguments));
        JpqlExpressions.Value of = selected;
        Stream<@Nullable Object> values =
                ordered.stream().map(object -> of == null ? object : of.of(object, arguments));
        List<@Nullable Object> all = new ArrayList<>();
        values.forEach(all::add);
        if (counts) {
            all.removeIf(java.util.Objects::isNull);
        }
        if (distinct) {
            Map<Object, @Nullable Object> byIdentity = new LinkedHashMap<>();
            all.forEach(value -> byIdentity.putIfAbsent(
                    java.util.Arrays.asList(value == null ? null : value.getClass(), JpqlExpressions.stored(value)),
                    value));
            all = new ArrayList<>(byIdentity.values());
        }
        if (counts) {
            return (long) all.size();
        }
        int total = all.size();
        int from = page.isPaged() ? (int) Math.min(total, page.getOffset()) : 0;
        int to = page.isPaged() ? Math.min(total, from + page.getPageSize()) : total;
        List<@Nullable Object> part = all.subList(from, to);
        Class<?> result = method.getReturnType();
        if (result == Page.class) {
            return new PageImpl<>(part, page, total);
        }
        return result == Slice.class ? new SliceImpl<>(part, page, to < total) : part;
    }

    @SuppressWarnings("unchecked")
    private Comparator<Object> comparator(Sort sort, List<@Nullable Object> arguments) {
        Comparator<Object> comparator = (a, b) -> 0;
        for (Ordering by : order) {
            Comparator<Object> one = Comparator.comparing(
                    object -> (Comparable<Object>) by.value().of(object, arguments),
                    Comparator.nullsFirst(Comparator.naturalOrder()));
            comparator = comparator.thenComparing(by.ascending() ? one : one.reversed());
        }
        for (Sort.Order by : sort) {
            Comparator<Object> one = Comparator.comparing(
                    object -> (Comparable<Object>) ExampleCondition.value(object, by.getProperty()),
                    Comparator.nullsFirst(Comparator.naturalOrder()));
            comparator = comparator.thenComparing(by.isAscending() ? one : one.reversed());
        }
        return comparator;
    }
}
