package dev.zabbet.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.store.MemoryStore;
import java.lang.invoke.MethodHandle;
import java.lang.invoke.MethodHandles;
import java.lang.reflect.InvocationHandler;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.lang.reflect.Proxy;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** Makes fakes. Thread-safe; so is every fake. */
public final class Fakes {
    private Fakes() {}

    /**
     * Makes a fake; {@code Stage.fake} is the usual way.
     *
     * @throws ZabbetException if the type is no interface, or a method is not understood
     */
    public static <R> R of(Class<R> type, MemoryStore store) {
        if (!type.isInterface()) {
            throw new ZabbetException("A fake can be made of an interface, and " + type.getName()
                    + " is a class. Take out an interface of the methods that the application calls.");
        }
        EntityType entity = EntityType.of(type, store);
        Map<Method, Behaviour> behaviours = new HashMap<>();
        List<String> trouble = new ArrayList<>();
        for (Method method : methods(type)) {
            try {
                behaviours.put(method, new BehaviourReader(entity, store).read(method));
            } catch (NotUnderstood e) {
                trouble.add("  " + describe(method) + ": " + e.getMessage());
            }
        }
        if (!trouble.isEmpty()) {
            throw new ZabbetException("A fake of " + type.getSimpleName() + " cannot be made: "
                    + Words.count(trouble.size(), "method") + (trouble.size() == 1 ? " is" : " are")
                    + " not understood.\n" + String.join("\n", trouble)
                    + "\nUnderstood are: save, add, insert, find, get, findAll, findBy…And…, exists, count, delete.");
        }
        Object fake = Proxy.newProxyInstance(type.getClassLoader(), new Class<?>[] {type}, handler(type, behaviours));
        return type.cast(fake);
    }

    private static List<Method> methods(Class<?> type) {
        return Arrays.stream(type.getMethods())
                .filter(m -> !m.isDefault() && !Modifier.isStatic(m.getModifiers()))
                .sorted(Comparator.comparing(Method::getName))
                .toList();
    }

    private static InvocationHandler handler(Class<?> type, Map<Method, Behaviour> behaviours) {
        return (proxy, method, given) -> {
            @Nullable Object[] arguments = given == null ? new @Nullable Object[0] : given;
            if (method.getDeclaringClass() == Object.class) {
                return switch (method.getName()) {
                    case "equals" -> proxy == arguments[0];
                    case "hashCode" -> System.identityHashCode(proxy);
                    default -> "fake of " + type.getSimpleName();
                };
            }
            if (method.isDefault()) {
                return defaultMethod(method).bindTo(proxy).invokeWithArguments(arguments);
            }
            return Objects.requireNonNull(behaviours.get(method)).call(arguments);
        };
    }

    /** Reaches default methods of interfaces that are not public, which the proxy itself may not call. */
    private static MethodHandle defaultMethod(Method method) throws IllegalAccessException {
        Class<?> owner = method.getDeclaringClass();
        return MethodHandles.privateLookupIn(owner, MethodHandles.lookup()).unreflectSpecial(method, owner);
    }

    private static String describe(Method method) {
        return method.getName() + "("
                + String.join(
                        ", ",
                        Arrays.stream(method.getParameterTypes())
                                .map(Class::getSimpleName)
                                .toList())
                + ")";
    }
}
