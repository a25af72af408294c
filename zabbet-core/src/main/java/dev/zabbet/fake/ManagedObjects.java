package dev.zabbet.fake;

import dev.zabbet.row.Row;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.HeldBack;
import dev.zabbet.store.MemoryRows;
import dev.zabbet.store.MemoryStore;
import java.lang.StackWalker.StackFrame;
import java.lang.annotation.Annotation;
import java.lang.reflect.Method;
import java.util.Collections;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.WeakHashMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * The objects that were read in the application's transaction, as a persistence context keeps them (Jakarta Persistence 3.1,
 * 3.2.4): one object for each row, and what was changed of it is stored before the next query, and when the transaction ends.
 * A fake is not told of that end; it takes it to be over with the next call from outside, with the act, and when the stage
 * looks. Each thread has objects of its own.
 */
final class ManagedObjects implements HeldBack {
    private static final StackWalker STACK = StackWalker.getInstance(StackWalker.Option.RETAIN_CLASS_REFERENCE);
    private static final ClassValue<Map<String, Boolean>> TRANSACTIONAL = new ClassValue<>() {
        @Override
        protected Map<String, Boolean> computeValue(Class<?> type) {
            return new ConcurrentHashMap<>();
        }
    };

    // Not in thread-locals: a thread would keep the stores of all tests that it has run.
    private final Map<Thread, Map<Object, Read>> byThread = Collections.synchronizedMap(new WeakHashMap<>());
    private final Set<Thread> flushing = ConcurrentHashMap.newKeySet();

    /**
     * An object that was read.
     *
     * @param row what it was then
     * @param through the interface that it was read through
     */
    private record Read(EntityType entity, Row row, MemoryRows store, Class<?> through) {}

    private ManagedObjects() {}

    /** Returns the objects of a store; empty if none are kept there. */
    static Optional<ManagedObjects> of(MemoryRows store) {
        return store instanceof MemoryStore memory
                ? Optional.of(memory.heldBack(ManagedObjects.class, ManagedObjects::new))
                : Optional.empty();
    }

    private Map<Object, Read> read() {
        return byThread.computeIfAbsent(Thread.currentThread(), thread -> new IdentityHashMap<>());
    }

    /** Returns what a call hands out, in a transaction the objects that it has handed out before for the same rows. */
    Behaviour managing(Class<?> through, EntityType of, MemoryRows store, boolean changes, Behaviour behaviour) {
        return arguments -> {
            boolean inTransaction = isInTransaction();
            flush();
            if (!inTransaction) {
                read().clear();
                return behaviour.call(arguments);
            }
            Object result = behaviour.call(arguments);
            if (changes) {
                readAgain();
            }
            if (result instanceof Optional<?> optional) {
                return optional.map(object -> known(of, object, store, through));
            }
            if (result instanceof List<?> list) {
                return list.stream()
                        .map(object -> object == null ? null : known(of, object, store, through))
                        .collect(java.util.stream.Collectors.toCollection(java.util.ArrayList::new));
            }
            return result == null ? null : known(of, result, store, through);
        };
    }

    /** Of what was stored or deleted by a call nothing is left to store. */
    private void readAgain() {
        for (Map.Entry<Object, Read> one : List.copyOf(read().entrySet())) {
            Read there = one.getValue();
            List<Row> rows =
                    there.store().rows(there.entity().table(), there.entity().keyOf(there.row()));
            read().remove(one.getKey());
            if (!rows.isEmpty()) {
                Row stored = there.entity().row(there.entity().object(rows.get(0)));
                read().put(one.getKey(), new Read(there.entity(), stored, there.store(), there.through()));
            }
        }
    }

    private Object known(EntityType of, Object object, MemoryRows store, Class<?> through) {
        if (object.getClass() != of.type() || !of.shape().isChangeable()) {
            return object;
        }
        Row row = of.row(object);
        for (Map.Entry<Object, Read> one : read().entrySet()) {
            Read there = one.getValue();
            if (there.entity().table().equals(of.table()) && of.hasKey(row) && of.isSameKey(row, there.row())) {
                return one.getKey();
            }
        }
        read().put(object, new Read(of, row, store, through));
        return object;
    }

    /** Stores what this thread has changed; what is refused is thrown as the interface throws it. */
    @Override
    public void flush() {
        if (!byThread.containsKey(Thread.currentThread()) || !flushing.add(Thread.currentThread())) {
            return;
        }
        try {
            for (Map.Entry<Object, Read> one : List.copyOf(read().entrySet())) {
                Read there = one.getValue();
                Row now = there.entity().row(one.getKey());
                if (!now.equals(there.row())) {
                    store(one.getKey(), there, now);
                }
            }
        } finally {
            flushing.remove(Thread.currentThread());
        }
    }

    @Override
    public void discard() {
        byThread.clear();
    }

    private void store(Object object, Read there, Row now) {
        read().remove(object); // whatever becomes of it
        try {
            Unit.write(object, there.entity(), there.row(), now, there.store());
            Row stored = there.entity().row(object);
            read().put(object, new Read(there.entity(), stored, there.store(), there.through()));
        } catch (ConstraintException e) {
            throw thrown(there, e);
        } catch (StaleObjectException e) {
            throw thrown(there, e.refusal());
        }
    }

    private static RuntimeException thrown(Read there, ConstraintException refusal) {
        Throwable translated = Supports.thrown(there.through(), refusal);
        return translated instanceof RuntimeException runtime ? runtime : refusal;
    }

    /** Tells whether a method under an annotation named Transactional is running on this thread. */
    private static boolean isInTransaction() {
        return STACK.walk(frames -> frames.anyMatch(ManagedObjects::isTransactional));
    }

    private static boolean isTransactional(StackFrame frame) {
        return TRANSACTIONAL
                .get(frame.getDeclaringClass())
                .computeIfAbsent(frame.getMethodName() + frame.getDescriptor(), method -> read(frame));
    }

    private static boolean read(StackFrame frame) {
        Class<?> type = frame.getDeclaringClass();
        Annotation ofMethod = Stream.of(type.getDeclaredMethods())
                .filter(method -> method.getName().equals(frame.getMethodName())
                        && List.of(method.getParameterTypes())
                                .equals(frame.getMethodType().parameterList()))
                .map(ManagedObjects::transactional)
                .filter(java.util.Objects::nonNull)
                .findFirst()
                .orElse(null);
        Annotation annotation = ofMethod != null ? ofMethod : transactional(type.getAnnotations());
        return annotation != null && !isReadOnly(annotation);
    }

    private static @Nullable Annotation transactional(Method method) {
        return transactional(method.getAnnotations());
    }

    private static @Nullable Annotation transactional(Annotation[] annotations) {
        return Stream.of(annotations)
                .filter(a -> a.annotationType().getSimpleName().equals("Transactional"))
                .findFirst()
                .orElse(null);
    }

    /** What is changed in a transaction that only reads is not stored. */
    private static boolean isReadOnly(Annotation annotation) {
        try {
            return Boolean.TRUE.equals(
                    annotation.annotationType().getMethod("readOnly").invoke(annotation));
        } catch (ReflectiveOperationException e) {
            return false;
        }
    }
}
