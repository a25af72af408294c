package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.fake.CallArguments;
import dev.zabbet.fake.Definition;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.type.MethodName;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.type.Kind;
import java.lang.invoke.MethodType;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The methods that a user defined, for all fakes of a stage. */
public final class MethodDefinitions {
    private final Map<MethodName, Definition> definitions = new LinkedHashMap<>();

    /** No definitions; a stage has one. */
    public MethodDefinitions() {}

    /** Keeps what a method does. */
    public synchronized void add(java.io.Serializable method, Definition definition) {
        definitions.put(MethodName.ofMethod(method, "define(method, definition)"), definition);
    }

    synchronized boolean isEmpty() {
        return definitions.isEmpty();
    }

    /** Returns what brings the definitions back to what they are now. */
    public synchronized Runnable mark() {
        Map<MethodName, Definition> now = new LinkedHashMap<>(definitions);
        return () -> setBack(now);
    }

    private synchronized void setBack(Map<MethodName, Definition> to) {
        definitions.clear();
        definitions.putAll(to);
    }

    synchronized Optional<Behaviour> find(Class<?> type, Method method, MemoryRows store) {
        String descriptor = MethodType.methodType(method.getReturnType(), method.getParameterTypes())
                .toMethodDescriptorString();
        for (Map.Entry<MethodName, Definition> entry : definitions.entrySet()) {
            MethodName name = entry.getKey();
            boolean named = name.method().equals(method.getName())
                    && name.descriptor().equals(descriptor)
                    && (name.owner().equals(type.getName())
                            || name.owner().equals(method.getDeclaringClass().getName()));
            if (named) {
                return Optional.of(behaviour(type, method, entry.getValue(), store));
            }
        }
        return Optional.empty();
    }

    static Behaviour behaviour(Class<?> type, Method method, Definition definition, MemoryRows store) {
        Signature signature = Signature.of(type, method);
        return arguments -> answered(
                signature, definition.answer(new StoredTables(store), new CallArguments(method, arguments)), store);
    }

    /** Brings what a definition gave into the form that the method declares. */
    private static @Nullable Object answered(Signature signature, @Nullable Object given, MemoryRows store) {
        Class<?> result = signature.resultClass();
        if (result == void.class) {
            return null;
        }
        if (given instanceof Stream<?> stream && result != Stream.class) {
            return answered(signature, stream.toList(), store);
        }
        Object whole = given instanceof List<?> list
                ? list.stream().map(e -> object(signature, e, store)).toList()
                : object(signature, given, store);
        if (whole == null) {
            if (result == Optional.class) {
                return Optional.empty();
            }
            if (result.isPrimitive()) {
                throw new ZabbetException("The definition of " + signature.describe() + " gave null, and it returns "
                        + result.getSimpleName() + ".");
            }
            return null;
        }
        if (JavaValue.boxed(result).isInstance(whole)) {
            return whole;
        }
        if (whole instanceof List<?> list) {
            if (result.isAssignableFrom(ArrayList.class)) {
                return new ArrayList<>(list);
            }
            if (result == Set.class) {
                return new LinkedHashSet<>(list);
            }
            if (result == Stream.class) {
                return list.stream();
            }
            if (list.size() <= 1) {
                if (result == Optional.class) {
                    return list.stream().findFirst();
                }
                if (list.isEmpty()) {
                    return null;
                }
                return list.get(0);
            }
        }
        if (result == Optional.class) {
            return Optional.of(whole);
        }
        try {
            if (JavaValue.kindOf(result) != Kind.OTHER) {
                return JavaValue.to(result, whole);
            }
        } catch (dev.zabbet.internal.value.InexactValueException e) {
            throw new ZabbetException("The definition of " + signature.describe() + ": " + e.clause() + ".");
        }
        throw new ZabbetException("The definition of " + signature.describe() + " gave "
                + whole.getClass().getSimpleName() + ", and it returns " + result.getSimpleName() + ".");
    }

    private static @Nullable Object object(Signature signature, @Nullable Object element, MemoryRows store) {
        if (!(element instanceof Row row)) {
            return element;
        }
        for (Class<?> type : Signature.within(signature.result())) {
            if (EntityType.isEntity(type, store.schema())) {
                return EntityType.of(type, store).object(row);
            }
        }
        return row;
    }
}
