package dev.zabbet.spring;

import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import java.lang.annotation.Annotation;
import java.lang.reflect.Method;
import java.lang.reflect.Parameter;
import java.math.BigDecimal;
import java.math.MathContext;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.regex.Pattern;
import net.sf.jsqlparser.expression.BinaryExpression;
import net.sf.jsqlparser.expression.BooleanValue;
import net.sf.jsqlparser.expression.DoubleValue;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.expression.JdbcNamedParameter;
import net.sf.jsqlparser.expression.JdbcParameter;
import net.sf.jsqlparser.expression.LongValue;
import net.sf.jsqlparser.expression.NotExpression;
import net.sf.jsqlparser.expression.NullValue;
import net.sf.jsqlparser.expression.StringValue;
import net.sf.jsqlparser.expression.operators.arithmetic.Addition;
import net.sf.jsqlparser.expression.operators.arithmetic.Division;
import net.sf.jsqlparser.expression.operators.arithmetic.Multiplication;
import net.sf.jsqlparser.expression.operators.arithmetic.Subtraction;
import net.sf.jsqlparser.expression.operators.conditional.AndExpression;
import net.sf.jsqlparser.expression.operators.conditional.OrExpression;
import net.sf.jsqlparser.expression.operators.relational.Between;
import net.sf.jsqlparser.expression.operators.relational.ComparisonOperator;
import net.sf.jsqlparser.expression.operators.relational.ExpressionList;
import net.sf.jsqlparser.expression.operators.relational.InExpression;
import net.sf.jsqlparser.expression.operators.relational.IsBooleanExpression;
import net.sf.jsqlparser.expression.operators.relational.IsNullExpression;
import net.sf.jsqlparser.expression.operators.relational.LikeExpression;
import net.sf.jsqlparser.expression.operators.relational.ParenthesedExpressionList;
import net.sf.jsqlparser.schema.Column;
import org.jspecify.annotations.Nullable;

/** The expressions of a query, worked out for one object at a time; unknown (null) as in SQL. */
final class JpqlExpressions {
    private final Class<?> entity;
    private final Method method;
    private final Map<String, String> paths = new HashMap<>(); // by aliases, from the root
    private final List<String> required = new ArrayList<>(); // that an inner join leads along

    /** An expression for an object and the arguments of a call. */
    @FunctionalInterface
    interface Value {
        @Nullable
        Object of(Object root, List<@Nullable Object> arguments);
    }

    /** Thrown when a query is not understood; the fake says so in its own words. */
    static final class Unsupported extends Exception {
        private static final long serialVersionUID = 1L;
    }

    /** A constant of an enum, of which the name alone is known. */
    private record Constant(String name) {}

    JpqlExpressions(Class<?> entity, Method method) {
        this.entity = entity;
        this.method = method;
    }

    void root(String alias) {
        paths.put(alias.toLowerCase(Locale.ROOT), "");
    }

    void join(String alias, String path, boolean outer) throws Unsupported {
        String full = path(path);
        if (!relation(full).isReference()) {
            throw new Unsupported(); // a collection
        }
        if (!outer) {
            required.add(full);
        }
        if (!alias.isEmpty()) {
            paths.put(alias.toLowerCase(Locale.ROOT), full);
        }
    }

    /** Tells whether an object has all that inner joins lead to. */
    boolean isJoined(Object root) {
        return required.stream().allMatch(path -> read(root, path) != null);
    }

    Value value(Expression expression) throws Unsupported {
        if (expression instanceof ParenthesedExpressionList<?> list && list.size() == 1) {
            return value(list.get(0));
        }
        if (expression instanceof AndExpression and) {
            Value left = value(and.getLeftExpression());
            Value right = value(and.getRightExpression());
            return (root, given) -> and(left.of(root, given), right.of(root, given));
        }
        if (expression instanceof OrExpression or) {
            Value left = value(or.getLeftExpression());
            Value right = value(or.getRightExpression());
            return (root, given) -> not(and(not(left.of(root, given)), not(right.of(root, given))));
        }
        if (expression instanceof NotExpression not) {
            Value inner = value(not.getExpression());
            return (root, given) -> not(inner.of(root, given));
        }
        if (expression instanceof IsNullExpression isNull) {
            Value inner = value(isNull.getLeftExpression());
            return (root, given) -> (inner.of(root, given) == null) != isNull.isNot();
        }
        if (expression instanceof IsBooleanExpression is) {
            Value inner = value(is.getLeftExpression());
            return (root, given) -> Objects.equals(inner.of(root, given), is.isTrue()) != is.isNot();
        }
        if (expression instanceof Between between) {
            Value value = value(between.getLeftExpression());
            Value least = value(between.getBetweenExpressionStart());
            Value most = value(between.getBetweenExpressionEnd());
            return (root, given) -> {
                Object held = value.of(root, given);
                Object inside =
                        and(compared(">=", held, least.of(root, given)), compared("<=", held, most.of(root, given)));
                return between.isNot() ? not(inside) : inside;
            };
        }
        if (expression instanceof InExpression in) {
            return in(in);
        }
        if (expression instanceof LikeExpression like && like.getEscape() == null) {
            Value value = value(like.getLeftExpression());
            Value pattern = value(like.getRightExpression());
            return (root, given) -> {
                Object alike = like(value.of(root, given), pattern.of(root, given));
                return like.isNot() ? not(alike) : alike;
            };
        }
        if (expression instanceof ComparisonOperator comparison) {
            Value left = value(comparison.getLeftExpression());
            Value right = value(comparison.getRightExpression());
            String operator = comparison.getStringExpression();
            return (root, given) -> compared(operator, left.of(root, given), right.of(root, given));
        }
        return expression instanceof BinaryExpression binary ? arithmetic(binary) : operand(expression);
    }

    private Value operand(Expression expression) throws Unsupported {
        if (expression instanceof Column column) {
            return column(column.getFullyQualifiedName());
        }
        if (expression instanceof JdbcNamedParameter parameter) {
            int at = parameter(parameter.getName());
            return (root, given) -> given.get(at);
        }
        if (expression instanceof JdbcParameter parameter) {
            int at = parameter.getIndex() - 1;
            if (at < 0 || at >= method.getParameterCount()) {
                throw new Unsupported();
            }
            return (root, given) -> given.get(at);
        }
        Object constant = expression instanceof StringValue text
                ? text.getNotExcapedValue()
                : expression instanceof LongValue number
                        ? (Object) number.getValue()
                        : expression instanceof DoubleValue number
                                ? BigDecimal.valueOf(number.getValue())
                                : expression instanceof BooleanValue truth ? (Object) truth.getValue() : null;
        if (constant != null || expression instanceof NullValue) {
            return (root, given) -> constant;
        }
        if (expression instanceof Function function) {
            return function(function);
        }
        throw new Unsupported();
    }

    private Value in(InExpression in) throws Unsupported {
        Value value = value(in.getLeftExpression());
        List<Value> among = new ArrayList<>();
        if (in.getRightExpression() instanceof ExpressionList<?> list) {
            for (Expression one : list) {
                among.add(value(one));
            }
        } else {
            among.add(operand(in.getRightExpression()));
        }
        return (root, given) -> {
            Object held = value.of(root, given);
            List<@Nullable Object> all = new ArrayList<>();
            for (Value one : among) {
                Object there = one.of(root, given);
                if (there instanceof Collection<?> several) {
                    all.addAll(several);
                } else {
                    all.add(there);
                }
            }
            Object found = held == null
                    ? null
                    : (Object) all.stream().anyMatch(one -> Boolean.TRUE.equals(compared("=", held, one)));
            return in.isNot() ? not(found) : found;
        };
    }

    private Value arithmetic(BinaryExpression binary) throws Unsupported {
        Value left = value(binary.getLeftExpression());
        Value right = value(binary.getRightExpression());
        boolean known = binary instanceof Addition
                || binary instanceof Subtraction
                || binary instanceof Multiplication
                || binary instanceof Division;
        if (!known) {
            throw new Unsupported();
        }
        return (root, given) -> {
            Object a = left.of(root, given);
            Object b = right.of(root, given);
            if (a == null || b == null) {
                return null;
            }
            BigDecimal one = new BigDecimal(a.toString());
            BigDecimal other = new BigDecimal(b.toString());
            return binary instanceof Addition
                    ? one.add(other)
                    : binary instanceof Subtraction
                            ? one.subtract(other)
                            : binary instanceof Multiplication
                                    ? one.multiply(other)
                                    : one.divide(other, MathContext.DECIMAL64);
        };
    }

    private Value function(Function function) throws Unsupported {
        List<Value> parts = new ArrayList<>();
        if (function.getParameters() != null) {
            for (Expression one : function.getParameters()) {
                parts.add(value(one));
            }
        }
        String name = function.getName().toLowerCase(Locale.ROOT);
        if (name.equals("concat")) {
            return (root, given) -> {
                StringBuilder text = new StringBuilder();
                for (Value part : parts) {
                    text.append(Objects.requireNonNullElse(part.of(root, given), ""));
                }
                return text.toString();
            };
        }
        if (name.equals("coalesce")) {
            return (root, given) -> {
                for (Value part : parts) {
                    Object value = part.of(root, given);
                    if (value != null) {
                        return value;
                    }
                }
                return null;
            };
        }
        java.util.function.Function<String, Object> work =
                switch (name) {
                    case "lower" -> text -> text.toLowerCase(Locale.ROOT);
                    case "upper" -> text -> text.toUpperCase(Locale.ROOT);
                    case "trim" -> String::strip;
                    case "length" -> text -> (long) text.length();
                    default -> throw new Unsupported();
                };
        if (parts.size() != 1) {
            throw new Unsupported();
        }
        return (root, given) -> Optional.ofNullable(parts.get(0).of(root, given))
                .map(Object::toString)
                .map(work)
                .orElse(null);
    }

    private int parameter(String name) throws Unsupported {
        Parameter[] parameters = method.getParameters();
        for (int i = 0; i < parameters.length; i++) {
            String called = parameters[i].getName();
            for (Annotation annotation : parameters[i].getAnnotations()) {
                if (annotation.annotationType().getName().equals("org.springframework.data.repository.query.Param")) {
                    try {
                        called = (String)
                                annotation.annotationType().getMethod("value").invoke(annotation);
                    } catch (ReflectiveOperationException e) {
                        throw new Unsupported();
                    }
                }
            }
            if (called.equals(name)) {
                return i;
            }
        }
        throw new Unsupported();
    }

    private Value column(String name) throws Unsupported {
        if (name.equalsIgnoreCase("true") || name.equalsIgnoreCase("false")) {
            return (root, given) -> Boolean.valueOf(name);
        }
        String first = name.contains(".") ? name.substring(0, name.indexOf('.')) : name;
        boolean known = paths.containsKey(first.toLowerCase(Locale.ROOT));
        if (!known && name.contains(".") && Character.isUpperCase(name.charAt(name.lastIndexOf('.') + 1))) {
            return (root, given) -> new Constant(name.substring(name.lastIndexOf('.') + 1));
        }
        String path = path(name);
        if (!path.isEmpty()) {
            relation(path);
        }
        return (root, given) -> read(root, path);
    }

    /** Returns the path from the root that a name with an alias means. */
    private String path(String name) throws Unsupported {
        String[] parts = name.split("\\.", 2);
        String before = paths.get(parts[0].toLowerCase(Locale.ROOT));
        if (before == null) {
            if (paths.containsKey("")) {
                return name; // an update may do without an alias
            }
            throw new Unsupported();
        }
        return parts.length == 1 ? before : before.isEmpty() ? parts[1] : before + "." + parts[1];
    }

    /** Finds the property at the end of a path. */
    private Prop relation(String path) throws Unsupported {
        Class<?> at = entity;
        Prop prop = null;
        for (String part : path.split("\\.")) {
            prop = shape(at).find(part).orElse(null);
            if (prop == null) {
                throw new Unsupported();
            }
            at = prop.type();
        }
        return Objects.requireNonNull(prop);
    }

    @SuppressWarnings("unchecked")
    private static TypeShape<Object> shape(Class<?> type) {
        return TypeShape.of((Class<Object>) type);
    }

    private static @Nullable Object read(Object root, String path) {
        return path.isEmpty() ? root : ExampleCondition.value(root, path);
    }

    /** Returns the key of an object that has a row of its own; other values as they are. */
    static @Nullable Object stored(@Nullable Object value) {
        if (value == null || !dev.zabbet.internal.type.EntityMapping.isEntity(value.getClass())) {
            return value;
        }
        return shape(value.getClass())
                .identifier()
                .<@Nullable Object>map(key -> shape(value.getClass()).readStored(value, key))
                .orElse(value);
    }

    private static @Nullable Object and(@Nullable Object a, @Nullable Object b) {
        if (Boolean.FALSE.equals(a) || Boolean.FALSE.equals(b)) {
            return false;
        }
        return a == null || b == null ? null : (Object) true;
    }

    private static @Nullable Object not(@Nullable Object a) {
        return a == null ? null : (Object) !((Boolean) a);
    }

    private static @Nullable Object like(@Nullable Object value, @Nullable Object pattern) {
        if (value == null || pattern == null) {
            return null;
        }
        StringBuilder regex = new StringBuilder();
        for (char c : pattern.toString().toCharArray()) {
            regex.append(c == '%' ? ".*" : c == '_' ? "." : Pattern.quote(String.valueOf(c)));
        }
        return Pattern.compile(regex.toString(), Pattern.DOTALL)
                .matcher(value.toString())
                .matches();
    }

    @SuppressWarnings("unchecked")
    private static @Nullable Object compared(String operator, @Nullable Object left, @Nullable Object right) {
        Object a = stored(left);
        Object b = stored(right);
        if (a == null || b == null) {
            return null;
        }
        if (a instanceof Constant || b instanceof Constant) {
            a = a instanceof Enum<?> constant ? new Constant(constant.name()) : a;
            b = b instanceof Enum<?> constant ? new Constant(constant.name()) : b;
        }
        int order = a instanceof Number && b instanceof Number
                ? new BigDecimal(a.toString()).compareTo(new BigDecimal(b.toString()))
                : a.equals(b)
                        ? 0
                        : a instanceof Comparable<?> && a.getClass() == b.getClass()
                                ? ((Comparable<Object>) a).compareTo(b)
                                : 1;
        return switch (operator) {
            case "=" -> order == 0;
            case "<>", "!=" -> order != 0;
            case "<" -> order < 0;
            case "<=" -> order <= 0;
            case ">" -> order > 0;
            default -> order >= 0;
        };
    }
}
