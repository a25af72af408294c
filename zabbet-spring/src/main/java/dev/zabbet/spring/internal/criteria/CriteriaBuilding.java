package dev.zabbet.spring.internal.criteria;

import dev.zabbet.spring.internal.query.Functions;
import dev.zabbet.spring.internal.query.Operators;
import dev.zabbet.spring.internal.query.Scope;
import dev.zabbet.spring.internal.query.SelectQuery;
import dev.zabbet.spring.internal.query.UnsupportedQueryException;
import dev.zabbet.spring.internal.query.Value;
import jakarta.persistence.criteria.CriteriaBuilder;
import jakarta.persistence.criteria.Expression;
import jakarta.persistence.criteria.Order;
import java.lang.reflect.Method;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;

/** The builder: conditions and expressions, as Jakarta Persistence 3.1, 6.5 describes them. */
final class CriteriaBuilding extends CriteriaNode {
    private static final Map<String, String> COMPARING = Map.ofEntries(
            Map.entry("equal", "="),
            Map.entry("notEqual", "<>"),
            Map.entry("greaterThan", ">"),
            Map.entry("gt", ">"),
            Map.entry("greaterThanOrEqualTo", ">="),
            Map.entry("ge", ">="),
            Map.entry("lessThan", "<"),
            Map.entry("lt", "<"),
            Map.entry("lessThanOrEqualTo", "<="),
            Map.entry("le", "<="));
    private static final Map<String, Character> CALCULATING =
            Map.of("sum", '+', "diff", '-', "prod", '*', "quot", '/', "mod", '%');

    @Override
    @Nullable
    Object answer(Object proxy, Method method, List<@Nullable Object> arguments) {
        String called = method.getName();
        String operator = COMPARING.get(called);
        if (operator != null) {
            Value left = value(arguments.get(0));
            Value right = value(arguments.get(1));
            return CriteriaValue.condition(scope -> Operators.compared(operator, left.in(scope), right.in(scope)));
        }
        Character calculation = arguments.size() == 2 ? CALCULATING.get(called) : null;
        if (calculation != null) {
            Value left = value(arguments.get(0));
            Value right = value(arguments.get(1));
            return CriteriaValue.expression(
                    scope -> Operators.arithmetic(calculation, left.in(scope), right.in(scope)));
        }
        return called.startsWith("to") && arguments.size() == 1
                ? CriteriaValue.expression(value(arguments.get(0)))
                : other(called, arguments);
    }

    private static @Nullable Object other(String called, List<@Nullable Object> arguments) {
        List<Value> values = values(arguments);
        return switch (called) {
            case "and", "conjunction" -> joined(values, true, Operators::and);
            case "or", "disjunction" -> joined(values, false, Operators::or);
            case "not" ->
                CriteriaValue.condition(scope -> Operators.not(values.get(0).in(scope)));
            case "isTrue" -> CriteriaValue.condition(values.get(0));
            case "isFalse" ->
                CriteriaValue.condition(scope -> Operators.not(values.get(0).in(scope)));
            case "isNull" -> CriteriaValue.condition(scope -> values.get(0).in(scope) == null);
            case "isNotNull" -> CriteriaValue.condition(scope -> values.get(0).in(scope) != null);
            case "between" -> between(values);
            case "like" -> CriteriaValue.condition(like(values));
            case "notLike" -> {
                Value like = like(values);
                yield CriteriaValue.condition(scope -> Operators.not(like.in(scope)));
            }
            case "in" ->
                CriteriaValue.In.of(values.get(0), arguments.subList(1, arguments.size()))
                        .as(CriteriaBuilder.In.class);
            case "exists" -> exists(arguments.get(0));
            case "isEmpty" -> CriteriaValue.condition(scope -> size(values.get(0), scope) == 0);
            case "isNotEmpty" -> CriteriaValue.condition(scope -> size(values.get(0), scope) > 0);
            case "isMember" -> CriteriaValue.condition(member(values));
            case "isNotMember" -> {
                Value member = member(values);
                yield CriteriaValue.condition(scope -> Operators.not(member.in(scope)));
            }
            case "literal" -> CriteriaValue.expression(values.get(0));
            case "nullLiteral" -> CriteriaValue.expression(scope -> null);
            case "neg" ->
                CriteriaValue.expression(
                        scope -> Operators.arithmetic('-', 0, values.get(0).in(scope)));
            case "asc" -> new CriteriaSelect.Order(values.get(0), true).as(Order.class);
            case "desc" -> new CriteriaSelect.Order(values.get(0), false).as(Order.class);
            case "function" -> function(String.valueOf(arguments.get(0)), values.subList(2, values.size()));
            default -> values.isEmpty() ? null : function(called, values);
        };
    }

    private static Object joined(
            List<Value> values, boolean none, BiFunction<@Nullable Object, @Nullable Object, @Nullable Object> how) {
        return CriteriaValue.condition(scope -> {
            Object result = none;
            for (Value value : values) {
                result = how.apply(result, value.in(scope));
            }
            return result;
        });
    }

    private static Object between(List<Value> values) {
        return CriteriaValue.condition(scope -> {
            Object held = values.get(0).in(scope);
            return Operators.and(
                    Operators.compared(">=", held, values.get(1).in(scope)),
                    Operators.compared("<=", held, values.get(2).in(scope)));
        });
    }

    private static Value like(List<Value> values) {
        return scope -> {
            Object escape = values.size() > 2 ? values.get(2).in(scope) : null;
            return Operators.like(
                    values.get(0).in(scope), values.get(1).in(scope), escape instanceof Character c ? c : null, false);
        };
    }

    private static @Nullable Object exists(@Nullable Object inside) {
        SelectQuery query = CriteriaSelect.inside(inside);
        return query == null
                ? null
                : CriteriaValue.condition(scope -> !query.rows(scope.inner()).isEmpty());
    }

    private static int size(Value value, Scope scope) {
        return value.in(scope) instanceof Collection<?> several ? several.size() : 0;
    }

    private static Value member(List<Value> values) {
        return scope -> values.get(1).in(scope) instanceof Collection<?> several
                ? Operators.in(values.get(0).in(scope), several)
                : null;
    }

    private static @Nullable Object function(String name, List<Value> values) {
        try {
            Value result = Functions.of(name.toLowerCase(java.util.Locale.ROOT), values);
            return new CriteriaValue(result).as(Expression.class);
        } catch (UnsupportedQueryException e) {
            return null;
        }
    }
}
