package dev.zabbet.spring.internal.criteria;

import dev.zabbet.spring.internal.query.Operators;
import dev.zabbet.spring.internal.query.QueryMethod;
import dev.zabbet.spring.internal.query.Value;
import jakarta.persistence.criteria.CriteriaBuilder;
import jakarta.persistence.criteria.Expression;
import jakarta.persistence.criteria.Path;
import jakarta.persistence.criteria.Predicate;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** An expression, a condition, or a path. */
class CriteriaValue extends CriteriaNode {
    private final Value value;
    private final String name; // of a property; empty for what is none

    CriteriaValue(Value value) {
        this(value, "");
    }

    private CriteriaValue(Value value, String name) {
        this.value = value;
        this.name = name;
    }

    /** Returns the name of the property that this is; empty if it is none. */
    String name() {
        return name;
    }

    /** Returns what is behind an object that was handed out here; null for any other. */
    static @Nullable CriteriaValue of(@Nullable Object object) {
        return object != null
                        && Proxy.isProxyClass(object.getClass())
                        && Proxy.getInvocationHandler(object) instanceof CriteriaValue value
                ? value
                : null;
    }

    static Predicate condition(Value value) {
        return new CriteriaValue(value).as(Predicate.class);
    }

    static Object expression(Value value) {
        return new CriteriaValue(value).as(Expression.class);
    }

    Value value() {
        return value;
    }

    @Override
    @Nullable
    Object answer(Object proxy, Method method, List<@Nullable Object> arguments) {
        Object first = arguments.isEmpty() ? null : arguments.get(0);
        return switch (method.getName()) {
            case "get" -> path(name(first)).as(Path.class);
            case "in" -> In.of(value, arguments).as(CriteriaBuilder.In.class);
            case "isNull" -> condition(scope -> value.in(scope) == null);
            case "isNotNull" -> condition(scope -> value.in(scope) != null);
            case "equalTo" -> compared("=", first);
            case "notEqualTo" -> compared("<>", first);
            case "not" -> condition(scope -> Operators.not(value.in(scope)));
            case "as", "cast", "alias" -> proxy;
            default -> null;
        };
    }

    private Predicate compared(String operator, @Nullable Object other) {
        Value given = value(other);
        return condition(scope -> Operators.compared(operator, value.in(scope), given.in(scope)));
    }

    CriteriaValue path(String property) {
        return new CriteriaValue(scope -> QueryMethod.read(value.in(scope), property), property);
    }

    /** A condition that a value is among others, which may still be added. */
    static final class In extends CriteriaValue {
        private final List<Value> among;

        static In of(Value value, List<@Nullable Object> first) {
            return new In(value, new ArrayList<>(values(first)));
        }

        private In(Value value, List<Value> among) {
            super(scope -> {
                List<@Nullable Object> all = new ArrayList<>();
                among.forEach(one -> all.add(one.in(scope)));
                return Operators.in(value.in(scope), all);
            });
            this.among = among;
        }

        @Override
        @Nullable
        Object answer(Object proxy, Method method, List<@Nullable Object> arguments) {
            if (method.getName().equals("value")) {
                among.addAll(values(arguments));
                return proxy;
            }
            return super.answer(proxy, method, arguments);
        }
    }
}
