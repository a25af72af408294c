package dev.zabbet.spring.internal.query;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import net.sf.jsqlparser.expression.BinaryExpression;
import net.sf.jsqlparser.expression.BooleanValue;
import net.sf.jsqlparser.expression.CaseExpression;
import net.sf.jsqlparser.expression.CastExpression;
import net.sf.jsqlparser.expression.DoubleValue;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.expression.JdbcNamedParameter;
import net.sf.jsqlparser.expression.JdbcParameter;
import net.sf.jsqlparser.expression.LongValue;
import net.sf.jsqlparser.expression.NotExpression;
import net.sf.jsqlparser.expression.NullValue;
import net.sf.jsqlparser.expression.SignedExpression;
import net.sf.jsqlparser.expression.StringValue;
import net.sf.jsqlparser.expression.WhenClause;
import net.sf.jsqlparser.expression.operators.arithmetic.Addition;
import net.sf.jsqlparser.expression.operators.arithmetic.Concat;
import net.sf.jsqlparser.expression.operators.arithmetic.Division;
import net.sf.jsqlparser.expression.operators.arithmetic.Modulo;
import net.sf.jsqlparser.expression.operators.arithmetic.Multiplication;
import net.sf.jsqlparser.expression.operators.arithmetic.Subtraction;
import net.sf.jsqlparser.expression.operators.conditional.AndExpression;
import net.sf.jsqlparser.expression.operators.conditional.OrExpression;
import net.sf.jsqlparser.expression.operators.relational.Between;
import net.sf.jsqlparser.expression.operators.relational.ComparisonOperator;
import net.sf.jsqlparser.expression.operators.relational.ExistsExpression;
import net.sf.jsqlparser.expression.operators.relational.ExpressionList;
import net.sf.jsqlparser.expression.operators.relational.InExpression;
import net.sf.jsqlparser.expression.operators.relational.IsBooleanExpression;
import net.sf.jsqlparser.expression.operators.relational.IsNullExpression;
import net.sf.jsqlparser.expression.operators.relational.LikeExpression;
import net.sf.jsqlparser.expression.operators.relational.ParenthesedExpressionList;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.statement.select.ParenthesedSelect;
import org.jspecify.annotations.Nullable;

/** Reads the expressions of a query into values. */
final class Expressions {
    private final Names names;
    private final Parameters parameters;
    private int unnumbered; // parameters written as a bare question mark
    private boolean aggregated;

    Expressions(Names names, Parameters parameters) {
        this.names = names;
        this.parameters = parameters;
    }

    /** Tells whether one of the expressions read so far is about a group. */
    boolean isAggregated() {
        return aggregated;
    }

    Value value(Expression expression) throws UnsupportedQueryException {
        if (expression instanceof ParenthesedExpressionList<?> list && list.size() == 1) {
            return value(list.get(0));
        }
        if (expression instanceof AndExpression and) {
            Value left = value(and.getLeftExpression());
            Value right = value(and.getRightExpression());
            return scope -> Operators.and(left.in(scope), right.in(scope));
        }
        if (expression instanceof OrExpression or) {
            Value left = value(or.getLeftExpression());
            Value right = value(or.getRightExpression());
            return scope -> Operators.or(left.in(scope), right.in(scope));
        }
        if (expression instanceof NotExpression not) {
            return not(value(not.getExpression()));
        }
        if (expression instanceof IsNullExpression isNull) {
            Value inner = value(isNull.getLeftExpression());
            return scope -> (inner.in(scope) == null) != isNull.isNot();
        }
        if (expression instanceof IsBooleanExpression is) {
            Value inner = value(is.getLeftExpression());
            return scope -> Objects.equals(inner.in(scope), is.isTrue()) != is.isNot();
        }
        if (expression instanceof Between between) {
            return between(between);
        }
        if (expression instanceof InExpression in) {
            return in(in, in.getRightExpression());
        }
        if (expression instanceof ExistsExpression exists) {
            SelectQuery inner = subquery(exists.getRightExpression());
            return scope -> inner.rows(scope.inner()).isEmpty() == exists.isNot();
        }
        if (expression instanceof LikeExpression like) {
            return like.isNot() ? not(like(like)) : like(like);
        }
        if (expression instanceof ComparisonOperator comparison) {
            Value left = value(comparison.getLeftExpression());
            Value right = value(comparison.getRightExpression());
            String operator = comparison.getStringExpression();
            return scope -> Operators.compared(operator, left.in(scope), right.in(scope));
        }
        if (expression instanceof CaseExpression chosen) {
            return chosen(chosen);
        }
        return expression instanceof BinaryExpression binary ? arithmetic(binary) : operand(expression);
    }

    private static Value not(Value value) {
        return scope -> Operators.not(value.in(scope));
    }

    private Value between(Between between) throws UnsupportedQueryException {
        Value value = value(between.getLeftExpression());
        Value least = value(between.getBetweenExpressionStart());
        Value most = value(between.getBetweenExpressionEnd());
        Value inside = scope -> {
            Object held = value.in(scope);
            return Operators.and(
                    Operators.compared(">=", held, least.in(scope)), Operators.compared("<=", held, most.in(scope)));
        };
        return between.isNot() ? not(inside) : inside;
    }

    private Value like(LikeExpression like) throws UnsupportedQueryException {
        Value value = value(like.getLeftExpression());
        Value pattern = value(like.getRightExpression());
        String escape = like.getEscape() instanceof StringValue text ? text.getValue() : "";
        if (escape.length() > 1 || (like.getEscape() != null && escape.isEmpty())) {
            throw new UnsupportedQueryException(like.toString());
        }
        Character before = escape.isEmpty() ? null : escape.charAt(0);
        return scope -> Operators.like(
                value.in(scope), pattern.in(scope), before, like.getLikeKeyWord() == LikeExpression.KeyWord.ILIKE);
    }

    /** The parser takes what comes behind a query in parentheses for a part of it: {@code a IN (SELECT …) AND b}. */
    private Value in(InExpression in, Expression among) throws UnsupportedQueryException {
        if (among instanceof AndExpression and) {
            Value left = in(in, and.getLeftExpression());
            Value right = value(and.getRightExpression());
            return scope -> Operators.and(left.in(scope), right.in(scope));
        }
        if (among instanceof OrExpression or) {
            Value left = in(in, or.getLeftExpression());
            Value right = value(or.getRightExpression());
            return scope -> Operators.or(left.in(scope), right.in(scope));
        }
        Value found = among(value(in.getLeftExpression()), among);
        return in.isNot() ? not(found) : found;
    }

    private Value among(Value value, Expression among) throws UnsupportedQueryException {
        if (among instanceof ParenthesedSelect) {
            SelectQuery inner = subquery(among);
            return scope -> Operators.in(value.in(scope), inner.column(scope.inner()));
        }
        List<Value> values = new ArrayList<>();
        if (among instanceof ExpressionList<?> list) {
            for (Expression one : list) {
                values.add(value(one));
            }
        } else {
            values.add(operand(among));
        }
        return scope -> {
            List<@Nullable Object> all = new ArrayList<>();
            values.forEach(one -> all.add(one.in(scope)));
            return Operators.in(value.in(scope), all);
        };
    }

    private Value chosen(CaseExpression chosen) throws UnsupportedQueryException {
        Value compared = chosen.getSwitchExpression() == null ? null : value(chosen.getSwitchExpression());
        List<Value> conditions = new ArrayList<>();
        List<Value> results = new ArrayList<>();
        for (WhenClause when : chosen.getWhenClauses()) {
            Value condition = value(when.getWhenExpression());
            conditions.add(
                    compared == null
                            ? condition
                            : scope -> Operators.compared("=", compared.in(scope), condition.in(scope)));
            results.add(value(when.getThenExpression()));
        }
        Value otherwise = chosen.getElseExpression() == null ? scope -> null : value(chosen.getElseExpression());
        return scope -> {
            for (int i = 0; i < conditions.size(); i++) {
                if (Boolean.TRUE.equals(conditions.get(i).in(scope))) {
                    return results.get(i).in(scope);
                }
            }
            return otherwise.in(scope);
        };
    }

    private Value arithmetic(BinaryExpression binary) throws UnsupportedQueryException {
        Value left = value(binary.getLeftExpression());
        Value right = value(binary.getRightExpression());
        if (binary instanceof Concat) {
            return scope -> {
                Object a = left.in(scope);
                Object b = right.in(scope);
                return a == null || b == null ? null : a.toString() + b;
            };
        }
        char operator;
        if (binary instanceof Addition) {
            operator = '+';
        } else if (binary instanceof Subtraction) {
            operator = '-';
        } else if (binary instanceof Multiplication) {
            operator = '*';
        } else if (binary instanceof Division) {
            operator = '/';
        } else if (binary instanceof Modulo) {
            operator = '%';
        } else {
            operator = ' ';
        }
        if (operator == ' ') {
            throw new UnsupportedQueryException(binary.getStringExpression());
        }
        return scope -> Operators.arithmetic(operator, left.in(scope), right.in(scope));
    }

    private Value operand(Expression expression) throws UnsupportedQueryException {
        if (expression instanceof Column column) {
            return names.value(column.getFullyQualifiedName());
        }
        if (expression instanceof JdbcNamedParameter parameter) {
            return parameters.named(parameter.getName());
        }
        if (expression instanceof JdbcParameter parameter) {
            return parameters.numbered(parameter.isUseFixedIndex() ? parameter.getIndex() : ++unnumbered);
        }
        if (expression instanceof ParenthesedSelect) {
            SelectQuery inner = subquery(expression);
            return scope -> inner.column(scope.inner()).stream().findFirst().orElse(null);
        }
        if (expression instanceof SignedExpression signed) {
            Value inner = value(signed.getExpression());
            return signed.getSign() == '-' ? scope -> Operators.arithmetic('-', 0, inner.in(scope)) : inner;
        }
        if (expression instanceof CastExpression cast) {
            return cast(cast);
        }
        if (expression instanceof Function function) {
            return function(function);
        }
        Object constant = constant(expression);
        if (constant != null || expression instanceof NullValue) {
            return scope -> constant;
        }
        throw new UnsupportedQueryException(expression.toString());
    }

    private static @Nullable Object constant(Expression expression) {
        if (expression instanceof StringValue text) {
            return text.getNotExcapedValue();
        }
        if (expression instanceof LongValue number) {
            return number.getValue();
        }
        if (expression instanceof DoubleValue number) {
            return new BigDecimal(number.toString());
        }
        return expression instanceof BooleanValue truth ? truth.getValue() : null;
    }

    private Value cast(CastExpression cast) throws UnsupportedQueryException {
        Value inner = value(cast.getLeftExpression());
        String type = cast.getColDataType().getDataType().toLowerCase(Locale.ROOT);
        return switch (type) {
            case "string", "varchar", "char", "text", "character varying" -> scope -> text(inner.in(scope));
            case "integer", "int", "long", "bigint", "decimal", "numeric", "double", "bigdecimal" ->
                scope -> {
                    Object value = inner.in(scope);
                    return value == null ? null : new BigDecimal(value.toString());
                };
            default -> throw new UnsupportedQueryException(cast.toString());
        };
    }

    private static @Nullable Object text(@Nullable Object value) {
        return value == null ? null : value.toString();
    }

    private Value function(Function function) throws UnsupportedQueryException {
        String name = function.getName().toLowerCase(Locale.ROOT);
        if (Functions.isAggregate(name)) {
            aggregated = true;
            boolean all = function.isAllColumns()
                    || function.getParameters() == null
                    || function.getParameters().toString().equals("*");
            Value of = all ? null : value(function.getParameters().get(0));
            return Functions.aggregate(name, of, function.isDistinct());
        }
        List<Value> parts = new ArrayList<>();
        if (function.getParameters() != null) {
            for (Expression one : function.getParameters()) {
                parts.add(value(one));
            }
        }
        if (name.equals(QueryText.MEMBER) && parts.size() == 2) {
            return scope -> parts.get(1).in(scope) instanceof java.util.Collection<?> several
                    ? Operators.in(parts.get(0).in(scope), several)
                    : null;
        }
        return Functions.of(name, parts);
    }

    private SelectQuery subquery(Expression select) throws UnsupportedQueryException {
        if (!(select instanceof ParenthesedSelect parenthesed)) {
            throw new UnsupportedQueryException(select.toString());
        }
        return SelectReader.read(parenthesed.getSelect(), names.inner(), parameters);
    }
}
