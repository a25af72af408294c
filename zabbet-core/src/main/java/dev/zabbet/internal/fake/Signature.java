package dev.zabbet.internal.fake;

import java.lang.reflect.GenericArrayType;
import java.lang.reflect.Method;
import java.lang.reflect.Parameter;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.lang.reflect.TypeVariable;
import java.lang.reflect.WildcardType;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** A method of an interface with its types as they are there, the type variables of super-interfaces filled in. */
record Signature(Method method, List<Type> parameters, Type result) {

    static Signature of(Class<?> type, Method method) {
        Map<TypeVariable<?>, Type> filled = new HashMap<>();
        fill(type, filled);
        return new Signature(
                method,
                Arrays.stream(method.getGenericParameterTypes())
                        .map(t -> resolve(t, filled))
                        .toList(),
                resolve(method.getGenericReturnType(), filled));
    }

    /** Returns the classes that a type gives to the generic interfaces which it extends. */
    static Set<Class<?>> typeArguments(Class<?> type) {
        Map<TypeVariable<?>, Type> filled = new HashMap<>();
        fill(type, filled);
        return filled.values().stream()
                .filter(given -> !(given instanceof TypeVariable<?>))
                .map(Signature::raw)
                .collect(Collectors.toSet());
    }

    private static void fill(Class<?> type, Map<TypeVariable<?>, Type> filled) {
        for (Type parent : type.getGenericInterfaces()) {
            if (parent instanceof ParameterizedType p && p.getRawType() instanceof Class<?> raw) {
                for (int i = 0; i < raw.getTypeParameters().length; i++) {
                    filled.putIfAbsent(raw.getTypeParameters()[i], resolve(p.getActualTypeArguments()[i], filled));
                }
                fill(raw, filled);
            } else if (parent instanceof Class<?> raw) {
                fill(raw, filled);
            }
        }
    }

    /** A parameterized type whose arguments are resolved. */
    private record Resolved(Type owner, Type raw, List<Type> arguments) implements ParameterizedType {
        @Override
        public Type[] getActualTypeArguments() {
            return arguments.toArray(Type[]::new);
        }

        @Override
        public Type getRawType() {
            return raw;
        }

        @Override
        public Type getOwnerType() {
            return owner;
        }
    }

    private static Type resolve(Type type, Map<TypeVariable<?>, Type> filled) {
        if (type instanceof TypeVariable<?> variable) {
            return filled.getOrDefault(variable, variable);
        }
        if (type instanceof WildcardType wildcard) {
            return resolve(wildcard.getUpperBounds()[0], filled);
        }
        if (type instanceof ParameterizedType p) {
            return new Resolved(
                    p.getRawType(),
                    p.getRawType(),
                    Arrays.stream(p.getActualTypeArguments())
                            .map(t -> resolve(t, filled))
                            .toList());
        }
        return type;
    }

    /** Returns the same without its last parameter. */
    Signature withoutLast() {
        return new Signature(method, parameters.subList(0, parameters.size() - 1), result);
    }

    String name() {
        return method.getName();
    }

    int size() {
        return parameters.size();
    }

    /** Returns the class of a parameter; that of a type variable that is left open is its bound. */
    Class<?> parameter(int i) {
        return raw(parameters.get(i));
    }

    /** Returns the name of a parameter, if the interface is compiled with names. */
    Optional<String> parameterName(int i) {
        Parameter parameter = method.getParameters()[i];
        return parameter.isNamePresent() ? Optional.of(parameter.getName()) : Optional.empty();
    }

    /** Tells whether a parameter says at each call of which type the elements of the result are. */
    boolean isResultType(int i) {
        return parameter(i) == Class.class
                && method.getGenericParameterTypes()[i] instanceof ParameterizedType type
                && type.getActualTypeArguments()[0] instanceof TypeVariable<?> variable
                && variable.getGenericDeclaration() == method;
    }

    Class<?> resultClass() {
        return raw(result);
    }

    static Class<?> raw(Type type) {
        if (type instanceof Class<?> c) {
            return c;
        }
        if (type instanceof ParameterizedType p) {
            return raw(p.getRawType());
        }
        if (type instanceof TypeVariable<?> variable) {
            return raw(variable.getBounds()[0]);
        }
        return type instanceof GenericArrayType array
                ? raw(array.getGenericComponentType()).arrayType()
                : Object.class;
    }

    /** Returns the types that a type is made of: of {@code Optional<Stay>} both, Optional first. */
    static List<Class<?>> within(Type type) {
        List<Class<?>> found = new ArrayList<>();
        found.add(raw(type));
        if (type instanceof ParameterizedType p) {
            for (Type argument : p.getActualTypeArguments()) {
                found.addAll(within(argument));
            }
        }
        if (raw(type).isArray()) {
            found.add(raw(type).getComponentType());
        }
        return found;
    }

    /** Returns the only type in angle brackets, or the element of an array; the bound where nothing is said. */
    static Type element(Type type) {
        if (type instanceof ParameterizedType p && p.getActualTypeArguments().length > 0) {
            return p.getActualTypeArguments()[p.getActualTypeArguments().length - 1];
        }
        if (type instanceof GenericArrayType array) {
            return array.getGenericComponentType();
        }
        if (raw(type).isArray()) {
            return raw(type).getComponentType();
        }
        return Object.class;
    }

    String describe() {
        return name() + "("
                + parameters.stream().map(t -> raw(t).getSimpleName()).collect(Collectors.joining(", ")) + ")";
    }
}
