package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Schema;
import java.lang.reflect.Method;
import java.util.Collections;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.WeakHashMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * What the methods of an interface do. All are read when the first fake of it is made over some tables, so that a method that
 * is not understood is told at once; of the fakes after that each reads a method when it is first called. Thread-safe.
 */
final class Behaviours {
    private static final Map<Schema, Set<Class<?>>> UNDERSTOOD = Collections.synchronizedMap(new WeakHashMap<>());

    private final Map<Method, Behaviour> read = new ConcurrentHashMap<>();
    private final @Nullable Supplier<BehaviourReader> reader;
    private @Nullable BehaviourReader made;

    private Behaviours(Map<Method, Behaviour> read, @Nullable Supplier<BehaviourReader> reader) {
        this.read.putAll(read);
        this.reader = reader;
    }

    /** Returns what has been read, all of it. */
    static Behaviours of(Map<Method, Behaviour> all) {
        return new Behaviours(all, null);
    }

    /** Takes note that all methods of an interface are understood over these tables. */
    static void understood(Class<?> type, Schema schema) {
        UNDERSTOOD.computeIfAbsent(schema, s -> ConcurrentHashMap.newKeySet()).add(type);
    }

    static boolean isUnderstood(Class<?> type, Schema schema) {
        return UNDERSTOOD.getOrDefault(schema, Set.of()).contains(type);
    }

    /** Returns what is read when it is asked for. */
    static Behaviours whenAsked(Supplier<BehaviourReader> reader) {
        return new Behaviours(Map.of(), reader);
    }

    /** Returns what a method does; null for one whose own code runs. */
    @Nullable
    Behaviour get(Method method) {
        Behaviour known = read.get(method);
        if (known != null || reader == null || method.isDefault()) {
            return known;
        }
        return read.computeIfAbsent(method, this::readNow);
    }

    private synchronized Behaviour readNow(Method method) {
        try {
            BehaviourReader asked = made;
            if (asked == null && reader != null) {
                asked = reader.get();
                made = asked;
            }
            return Objects.requireNonNull(asked).read(method);
        } catch (UnknownMethodException e) {
            throw new ZabbetException(method.getName() + ": " + e.getMessage(), e);
        }
    }
}
