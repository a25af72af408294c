package dev.zabbet.spring.internal.criteria;

import dev.zabbet.spring.internal.query.Value;
import jakarta.persistence.metamodel.Attribute;
import java.lang.reflect.InvocationHandler;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** An object of the criteria's interfaces: a proxy, whose methods are told apart by their names. */
abstract class CriteriaNode implements InvocationHandler {
    /** Returns the object itself. */
    <T> T as(Class<T> face) {
        return face.cast(Proxy.newProxyInstance(face.getClassLoader(), new Class<?>[] {face}, this));
    }

    /**
     * Answers a call.
     *
     * @param arguments those of the call, arrays among them opened
     * @return null if the method is not known
     */
    abstract @Nullable Object answer(Object proxy, Method method, List<@Nullable Object> arguments);

    @Override
    public @Nullable Object invoke(Object proxy, Method method, @Nullable Object @Nullable [] given) throws Throwable {
        switch (method.getName()) {
            case "equals":
                return given != null && proxy == given[0];
            case "hashCode":
                return System.identityHashCode(proxy);
            case "toString":
                return method.getDeclaringClass().getSimpleName();
            default:
                break;
        }
        List<@Nullable Object> arguments = new ArrayList<>();
        for (Object one : given == null ? new Object[0] : given) {
            if (one instanceof Object[] several) {
                arguments.addAll(java.util.Arrays.asList(several));
            } else {
                arguments.add(one);
            }
        }
        Object answer = answer(proxy, method, arguments);
        if (answer != null || method.getReturnType() == void.class) {
            return answer;
        }
        if (method.isDefault()) {
            try {
                return InvocationHandler.invokeDefault(proxy, method, given);
            } catch (InvocationTargetException e) {
                throw e.getCause() == null ? e : e.getCause();
            }
        }
        throw new UnsupportedOperationException(method.getDeclaringClass().getSimpleName() + "." + method.getName()
                + " is not known to a fake. Say it with other calls, or say what the repository's method does:"
                + " stage.define(…).");
    }

    /** Returns the value that an argument stands for, whether one of these objects or a constant. */
    static Value value(@Nullable Object argument) {
        CriteriaValue known = CriteriaValue.of(argument);
        return known != null ? known.value() : scope -> argument;
    }

    static List<Value> values(List<@Nullable Object> arguments) {
        List<Value> values = new ArrayList<>();
        for (Object argument : arguments) {
            if (argument instanceof Collection<?> several) {
                several.forEach(one -> values.add(value(one)));
            } else {
                values.add(value(argument));
            }
        }
        return values;
    }

    /** Returns the name of a property, given by itself or as an attribute of the metamodel. */
    static String name(@Nullable Object argument) {
        if (argument == null) {
            throw new IllegalArgumentException(
                    "The attribute is null: the static metamodel is filled in by a provider, and"
                            + " there is none. Name the property by a string; the generated class has a constant for it.");
        }
        return argument instanceof Attribute<?, ?> attribute ? attribute.getName() : argument.toString();
    }
}
