package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.text.Words;
import dev.zabbet.store.ConstraintException;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.lang.reflect.Proxy;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Makes fakes, and stands between callers and real objects. Thread-safe; so is every fake. */
public final class Fakes {
    private static final ClassValue<List<Method>> METHODS = new ClassValue<>() {
        @Override
        protected List<Method> computeValue(Class<?> type) {
            return read(type);
        }
    };

    private final CallLog log;
    private final MethodDefinitions defined;

    /**
     * @param log where calls are noted
     * @param defined the methods that were defined
     */
    public Fakes(CallLog log, MethodDefinitions defined) {
        this.log = log;
        this.defined = defined;
    }

    /**
     * Makes a fake; {@code Stage.fake} is the usual way.
     *
     * @param translation turns a refusal of the store into what the real data access throws; null for what the method
     *     declares
     * @throws ZabbetException if the type is no interface, or a method is not understood
     */
    public <R> R fake(
            Class<R> type,
            MemoryRows store,
            Function<? super ConstraintException, ? extends @Nullable Throwable> translation) {
        requireInterface(type, "A fake");
        boolean plain = defined.isEmpty();
        if (plain && Behaviours.isUnderstood(type, store.schema())) {
            Behaviours whenAsked = Behaviours.whenAsked(() -> new BehaviourReader(type, methods(type), store));
            return proxy(type, new Mediator(type, whenAsked, null, log, translation));
        }
        List<Method> methods = methods(type);
        BehaviourReader reader = new BehaviourReader(type, methods, store);
        Map<Method, Behaviour> behaviours = new HashMap<>();
        List<String> trouble = new ArrayList<>();
        for (Method method : methods) {
            Optional<Behaviour> own = defined.find(type, method, store);
            try {
                behaviours.put(method, own.isPresent() ? own.get() : reader.read(method));
            } catch (UnknownMethodException e) {
                trouble.add("  " + Signature.of(type, method).describe() + ": " + e.getMessage());
            }
        }
        if (!trouble.isEmpty()) {
            throw new ZabbetException("A fake of " + type.getSimpleName() + " cannot be made: "
                    + Words.count(trouble.size(), "method") + (trouble.size() == 1 ? " is" : " are")
                    + " not understood.\n" + String.join("\n", trouble) + "\nDefine "
                    + (trouble.size() == 1 ? "it" : "them") + " before: stage.define(" + type.getSimpleName() + "::"
                    + trouble.get(0).strip().replaceAll("\\(.*", "")
                    + ", (tables, given) -> …). docs/swapping.md lists the names that are understood.");
        }
        if (plain) {
            Behaviours.understood(type, store.schema());
        }
        return proxy(type, new Mediator(type, Behaviours.of(behaviours), null, log, translation));
    }

    /**
     * Stands before a real object, so that its calls are noted and rules can be made for it.
     *
     * @throws ZabbetException if the type is no interface
     */
    public <R> R before(Class<R> type, R real) {
        requireInterface(type, "What stands before a real object");
        return proxy(type, new Mediator(type, Behaviours.of(Map.of()), real, log, refusal -> null));
    }

    private static void requireInterface(Class<?> type, String what) {
        if (!type.isInterface()) {
            throw new ZabbetException(what + " can be made of an interface, and " + type.getName() + " is "
                    + (Modifier.isAbstract(type.getModifiers())
                            ? "an abstract class, whose own code would run"
                            : "a class")
                    + ". Take out an interface of the methods that the application calls.");
        }
    }

    private static <R> R proxy(Class<R> type, Mediator mediator) {
        try {
            return type.cast(Proxy.newProxyInstance(type.getClassLoader(), new Class<?>[] {type}, mediator));
        } catch (IllegalArgumentException e) {
            throw new ZabbetException("A fake of " + type.getName() + " cannot be made: " + e.getMessage(), e);
        }
    }

    private static List<Method> methods(Class<?> type) {
        return METHODS.get(type);
    }

    private static List<Method> read(Class<?> type) {
        return Arrays.stream(type.getMethods())
                .filter(m -> !m.isDefault() && !Modifier.isStatic(m.getModifiers()) && !isOfObject(m))
                .sorted(Comparator.comparing(Method::getName))
                .toList();
    }

    private static boolean isOfObject(Method method) {
        try {
            Object.class.getMethod(method.getName(), method.getParameterTypes());
            return true;
        } catch (NoSuchMethodException e) {
            return false;
        }
    }
}
