package dev.zabbet.internal.fake;

import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.internal.memory.UnflushedChanges;
import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.row.Row;
import dev.zabbet.store.ConstraintException;
import java.lang.StackWalker.StackFrame;
import java.lang.annotation.Annotation;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.WeakHashMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * The objects that were read in the application's transaction, as a persistence context keeps them (Jakarta Persistence 3.1,
 * 3.2.4): one object for each row, and what was changed of it is stored before the next query, and when the transaction ends.
 * A fake is not told of that end; it takes it to be over with the next call from outside, with the act, and when the stage
 * looks. Each thread has objects of its own.
 */
final class ManagedObjects implements UnflushedChanges {
    private static final StackWalker STACK = StackWalker.getInstance(StackWalker.Option.RETAIN_CLASS_REFERENCE);
    private static final ClassValue<Map<String, Boolean>> TRANSACTIONAL = new ClassValue<>() {
        @Override
        protected Map<String, Boolean> computeValue(Class<?> type) {
            return new ConcurrentHashMap<>();
        }
    };

    // Not in thread-locals: a thread would keep the stores of all tests that it has run.
    private final Map<Thread, Context> byThread = Collections.synchronizedMap(new WeakHashMap<>());

    /** What one thread has read. */
    private static final class Context {
        private final Map<List<Object>, Object> known = new HashMap<>();
        private final IdentityHashMap<Object, Read> read = new IdentityHashMap<>();
        private final List<Object> inOrder = new ArrayList<>();
        private boolean flushing;
        private @Nullable Class<?> reading; // the interface through which something is being read

        void clear() {
            known.clear();
            read.clear();
            inOrder.clear();
        }

        void forget(Object object) {
            read.remove(object);
            inOrder.removeIf(one -> one == object);
            known.values().removeIf(one -> one == object);
        }
    }

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

    /** Returns the object that stands for the same row in the application's transaction, which is this one from now on. */
    static Object managed(Object object, MemoryRows store) {
        ManagedObjects objects = of(store).orElse(null);
        Context context = objects == null ? null : objects.byThread.get(Thread.currentThread());
        return objects == null || context == null || context.reading == null
                ? object
                : objects.manage(object, store, context.reading, context);
    }

    /** Reads rows and sends nothing to the store before, as a provider does that reads a collection. */
    static <V> V unflushed(MemoryRows store, Supplier<V> read) {
        Context context = of(store)
                .map(objects -> objects.byThread.get(Thread.currentThread()))
                .filter(there -> !there.flushing)
                .orElse(null);
        if (context == null) {
            return read.get();
        }
        context.flushing = true;
        try {
            return read.get();
        } finally {
            context.flushing = false;
        }
    }

    private Context context() {
        return byThread.computeIfAbsent(Thread.currentThread(), thread -> new Context());
    }

    /**
     * Returns what a call hands out, in a transaction the objects that it has handed out before for the same rows.
     *
     * @param clears whether the call lets go of all that was read
     */
    Behaviour managing(Class<?> through, MemoryRows store, boolean changes, boolean clears, Behaviour behaviour) {
        return arguments -> {
            boolean inTransaction = isInTransaction();
            flush();
            Context context = context();
            if (!inTransaction) {
                context.clear();
                return behaviour.call(arguments);
            }
            Class<?> before = context.reading;
            context.reading = through;
            try {
                Object result = behaviour.call(arguments);
                if (changes) {
                    readAgain(context);
                }
                if (clears) {
                    context.clear();
                }
                return changes ? stored(result, store, through, context) : result;
            } finally {
                context.reading = before;
            }
        };
    }

    /** What was stored by a call is managed, too. */
    private @Nullable Object stored(@Nullable Object result, MemoryRows store, Class<?> through, Context context) {
        if (result instanceof List<?> list) {
            List<@Nullable Object> all = new ArrayList<>();
            list.forEach(one -> all.add(one == null ? null : merge(one, store, through, context)));
            return all;
        }
        return result == null ? null : merge(result, store, through, context);
    }

    /** The object that is managed gets what another one says that stands for the same row. */
    private Object merge(Object object, MemoryRows store, Class<?> through, Context context) {
        Object there = manage(object, store, through, context);
        if (there != object && there.getClass() == object.getClass()) {
            EntityType entity = EntityType.of(object.getClass(), store);
            entity.shape().ownProperties().forEach(prop -> {
                Object value = entity.shape().read(object, prop);
                if (value != null && !prop.isRelations()) {
                    entity.shape().write(there, prop, value);
                }
            });
            context.read.put(there, new Read(entity, entity.row(there), store, through));
        }
        return there;
    }

    private Object manage(Object object, MemoryRows store, Class<?> through, Context context) {
        if (context.read.containsKey(object) || !EntityType.isEntity(object.getClass(), store.schema())) {
            return object;
        }
        EntityType entity = EntityType.of(object.getClass(), store);
        Row row = entity.shape().isChangeable() ? entity.row(object) : null;
        if (row == null || !entity.hasKey(row)) {
            return object;
        }
        Object known = context.known.putIfAbsent(entity.related.identity(row), object);
        if (known != null) {
            return known;
        }
        context.read.put(object, new Read(entity, row, store, through));
        context.inOrder.add(object);
        if (entity.shape().isEntity()) {
            manageOthers(object, entity, one -> manage(one, store, through, context));
        }
        return object;
    }

    private static void manageOthers(Object object, EntityType entity, UnaryOperator<Object> manage) {
        for (Prop prop : entity.shape().ownProperties()) {
            Object held = entity.shape().read(object, prop);
            if (held instanceof LazyCollection lazy) {
                lazy.exchange(manage);
            } else if (held instanceof Collection<?> several && prop.isRelations()) {
                replaceAll(several, manage);
            } else if (held != null && EntityMapping.isEntity(held.getClass())) {
                Object managed = manage.apply(held);
                if (managed != held) {
                    entity.shape().write(object, prop, managed);
                }
            }
        }
    }

    @SuppressWarnings("unchecked")
    private static void replaceAll(Collection<?> elements, UnaryOperator<Object> manage) {
        List<Object> managed = new ArrayList<>();
        boolean others = false;
        for (Object one : elements) {
            Object there = manage.apply(Objects.requireNonNull(one));
            managed.add(there);
            others |= there != one;
        }
        if (others) {
            elements.clear();
            ((Collection<Object>) elements).addAll(managed);
        }
    }

    /** Of what was stored or deleted by a call nothing is left to store. */
    private static void readAgain(Context context) {
        for (Object object : List.copyOf(context.inOrder)) {
            Read there = Objects.requireNonNull(context.read.get(object));
            if (there.store().holds(there.entity().table(), there.entity().keyOf(there.row()))) {
                Row now = there.entity().row(object);
                context.read.put(object, new Read(there.entity(), now, there.store(), there.through()));
            } else {
                context.forget(object);
            }
        }
    }

    /** Stores what this thread has changed; what is refused is thrown as the interface throws it. */
    @Override
    public void flush() {
        Context context = byThread.get(Thread.currentThread());
        if (context == null || context.flushing) {
            return;
        }
        context.flushing = true;
        try {
            for (Object object : List.copyOf(context.inOrder)) {
                Read there = context.read.get(object);
                if (there != null) {
                    store(object, there, context);
                }
            }
        } finally {
            context.flushing = false;
        }
    }

    @Override
    public void discard() {
        byThread.clear();
    }

    private void store(Object object, Read there, Context context) {
        EntityType entity = there.entity();
        Cascades cascades = new Cascades(there.store());
        cascades.isFirst(object);
        Cascades.Storing storing = (type, other, also) -> {
            if (!context.read.containsKey(other) && !isGone(type, other, there.store())) {
                Saving.save(type, other, cascades, also, there.store());
                manage(other, there.store(), there.through(), context);
            }
        };
        boolean concerned = Cascades.concerns(entity);
        boolean done = false;
        try {
            if (concerned) {
                cascades.storeParents(entity, object, storing);
            }
            boolean changed = !entity.row(object).equals(there.row());
            changed |= concerned && cascades.storeChildren(entity, object, storing);
            if (changed) {
                GeneratedValues.beforeUpdate(entity, object, there.store());
                UnitOfWork.write(object, entity, there.row(), entity.row(object), there.store());
                context.read.put(object, new Read(entity, entity.row(object), there.store(), there.through()));
            }
            done = true;
        } catch (ConstraintException e) {
            throw thrown(there, e);
        } catch (StaleObjectException e) {
            throw thrown(there, e.refusal());
        } finally {
            if (!done) {
                context.forget(object); // it is refused once
            }
        }
    }

    /** Tells whether an object was stored once, and its row has been deleted. */
    private static boolean isGone(EntityType type, Object object, MemoryRows store) {
        Row row = type.row(object);
        return type.hasGeneratedKey() && type.hasKey(row) && !store.holds(type.table(), type.keyOf(row));
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
                .filter(Objects::nonNull)
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
