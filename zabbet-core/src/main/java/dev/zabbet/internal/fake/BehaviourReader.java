package dev.zabbet.internal.fake;

import dev.zabbet.fake.Definition;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.Condition;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.WeakHashMap;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;

/** Reads from the names and signatures of an interface's methods what they are to do. */
final class BehaviourReader {
    private static final Set<String> FINDING = Set.of(
            "find", "get", "load", "list", "all", "fetch", "read", "query", "search", "select", "stream", "require",
            "lookup");

    private static final Set<String> COUNTING = Set.of("count", "exists", "has", "contains", "is");

    private static final Map<Schema, Map<Class<?>, Subjects>> SUBJECTS =
            Collections.synchronizedMap(new WeakHashMap<>());

    private final Class<?> type;
    private final MemoryRows store;
    private final Map<Class<?>, EntityType> entities = new LinkedHashMap<>();
    private final List<Class<?>> known = new ArrayList<>();
    private final @Nullable UnitOfWork unit;
    private final @Nullable ManagedObjects managed;

    BehaviourReader(Class<?> type, List<Method> methods, MemoryRows store) {
        this.type = type;
        this.store = store;
        Subjects subjects = SUBJECTS.computeIfAbsent(store.schema(), schema -> new ConcurrentHashMap<>())
                .computeIfAbsent(type, t -> subjects(methods));
        known.addAll(subjects.entities());
        managed = Supports.isManaging(type) ? ManagedObjects.of(store).orElse(null) : null;
        unit = UnitOfWork.isUnit(type) && !Supports.isManaging(type)
                ? new UnitOfWork(store, !subjects.storesChanged())
                : null;
    }

    /**
     * What an interface is about, over some tables.
     *
     * @param entities the types of objects in its signatures
     * @param storesChanged whether a method stores what has been changed
     */
    private record Subjects(List<Class<?>> entities, boolean storesChanged) {}

    private Subjects subjects(List<Method> methods) {
        Set<Class<?>> found = new LinkedHashSet<>();
        boolean storesChanged = false;
        for (Method method : methods) {
            Signature signature = Signature.of(type, method);
            found.addAll(entitiesIn(signature.result()));
            signature.parameters().forEach(p -> found.addAll(entitiesIn(p)));
            String verb = Phrase.verbOf(method.getName());
            storesChanged |=
                    Set.of("update", "save", "merge", "store", "upsert").contains(verb)
                            && method.getParameterCount() > 0;
        }
        return new Subjects(List.copyOf(found), storesChanged);
    }

    /** Returns the type of objects that the interface is about; empty if there are several or none. */
    private Optional<Class<?>> subject() {
        List<Class<?>> named = Signature.typeArguments(type).stream()
                .filter(given -> EntityType.isEntity(given, store.schema()))
                .toList();
        List<Class<?>> all = named.isEmpty() ? known : named;
        return all.size() == 1 ? Optional.of(all.get(0)) : Optional.empty();
    }

    Behaviour read(Method method) throws UnknownMethodException {
        Optional<String> query = QueryText.of(method);
        Optional<Definition> definition = supported(method, query);
        if (definition.isPresent()) {
            Behaviour defined = MethodDefinitions.behaviour(type, method, definition.get(), store);
            return managed == null
                    ? defined
                    : managed.managing(type, store, true, Supports.isClearing(method), defined);
        }
        if (query.isPresent()) {
            throw new UnknownMethodException("it runs the query of " + query.get() + ", whatever its name says");
        }
        Signature signature = Signature.of(type, method);
        ManagedObjects objects = managed;
        if (Supports.isManaging(type) && method.getName().equals("flush") && method.getParameterCount() == 0) {
            return arguments -> {
                if (objects != null) {
                    objects.flush(); // under a role nothing is held back
                }
                return null;
            };
        }
        if (unit != null) {
            Optional<Behaviour> own = unit.behaviour(signature);
            if (own.isPresent()) {
                return own.get();
            }
        }
        String verb = Phrase.verbOf(signature.name());
        if (!Deleting.isSoft(signature.name())
                && !Saving.isVerb(verb)
                && !Deleting.isVerb(verb)
                && !FINDING.contains(verb)
                && !COUNTING.contains(verb)) {
            throw new UnknownMethodException("no meaning is known for a name that begins with '" + verb + "'");
        }
        DocumentTable documents =
                known.isEmpty() ? DocumentTable.of(type, store).orElse(null) : null;
        if (documents != null) {
            return documents.behaviour(signature, verb);
        }
        Optional<EntityType> entity = entityOf(signature);
        if (entity.isEmpty() && takesAnything(signature)) {
            return ofAnyType(signature, verb);
        }
        EntityType of = entity.orElseThrow(() -> new UnknownMethodException("it is not clear which table it is about"
                + (known.isEmpty()
                        ? "; the tables are " + String.join(", ", store.schema().tableNames())
                        : "; the interface is about "
                                + known.stream().map(Class::getSimpleName).toList())));
        return inUnit(verb, signature, of, behaviour(verb, signature, of));
    }

    private Optional<Definition> supported(Method method, Optional<String> query) throws UnknownMethodException {
        try {
            return Supports.definition(method, subject(), store.schema());
        } catch (UnsupportedOperationException e) {
            throw new UnknownMethodException(
                    query.map(of -> "it runs the query of " + of + ", and ").orElse("") + e.getMessage());
        }
    }

    private Behaviour behaviour(String verb, Signature signature, EntityType of) throws UnknownMethodException {
        if (Deleting.isSoft(signature.name())) {
            return Deleting.readSoft(signature, of, store);
        }
        if (Saving.isVerb(verb)) {
            return Saving.read(signature, of, store);
        }
        if (Deleting.isVerb(verb)) {
            return Deleting.read(signature, of, store);
        }
        return COUNTING.contains(verb) ? counting(signature, verb, of) : finding(signature, of);
    }

    private Behaviour counting(Signature signature, String verb, EntityType of) throws UnknownMethodException {
        Class<?> result = signature.resultClass();
        boolean given = signature.size() == 1 && of.isOf(signature.parameter(0));
        boolean counts = verb.equals("count");
        if (counts ? !Answer.counts().contains(result) : result != boolean.class && result != Boolean.class) {
            throw new UnknownMethodException("it returns " + result.getSimpleName()
                    + (counts ? ", and not a number" : ", and neither true nor false"));
        }
        if (given) {
            of.requireKey();
            return arguments -> Answer.count(
                    result,
                    store.rows(of.table(), of.keyOf(of.row(Objects.requireNonNull(arguments[0]))))
                            .size());
        }
        Query query = Query.read(signature, of, store);
        Query.requireKnownSubject(query.phrase(), of, Object.class);
        return arguments -> Answer.count(result, query.count(arguments));
    }

    private Behaviour finding(Signature signature, EntityType of) throws UnknownMethodException {
        Query query = Query.read(signature, of, store);
        Answer answer = new Answer(signature, of, query.phrase());
        if (signature.resultClass() == void.class) {
            throw new UnknownMethodException("it returns nothing");
        }
        if (query.isByKey() && !query.phrase().distinct()) {
            return byKey(signature, of, answer);
        }
        return arguments -> {
            List<Row> rows = query.rows(arguments);
            Window window = query.window(arguments);
            long total =
                    window.limit() == Window.ALL && window.offset() == 0 ? rows.size() : query.total(arguments, window);
            return answer.of(rows, new Answer.Found(total, window, arguments));
        };
    }

    /** The commonest call of all goes straight to the row. */
    private Behaviour byKey(Signature signature, EntityType of, Answer answer) throws UnknownMethodException {
        var key = of.key().get(0);
        var column = of.column(key);
        boolean optional = signature.resultClass() == Optional.class
                && of.isOf(Signature.raw(Signature.element(signature.result())));
        boolean plain = of.isOf(signature.resultClass());
        Condition own = of.own();
        return arguments -> {
            Object sought = Terms.stored(key, column, arguments[0]);
            Optional<Row> row = sought == null ? Optional.empty() : store.find(of.table(), sought);
            if (own != Condition.all() && row.isPresent()) {
                row = store.rows(of.table(), of.keyOf(row.get()).and(own)).stream()
                        .findFirst();
            }
            if (optional) {
                return row.map(of::object);
            }
            return plain
                    ? row.map(of::object).orElse(null)
                    : answer.of(
                            row.stream().toList(), new Answer.Found(row.isPresent() ? 1 : 0, Window.none(), arguments));
        };
    }

    /** In a unit of work changes wait for the flush, and what is read is remembered. */
    private Behaviour inUnit(String verb, Signature signature, EntityType of, Behaviour behaviour) {
        UnitOfWork within = unit;
        ManagedObjects objects = managed;
        if (objects != null) {
            return objects.managing(type, store, Saving.isVerb(verb) || Deleting.isVerb(verb), false, behaviour);
        }
        if (within == null) {
            return behaviour;
        }
        boolean changes = Saving.isVerb(verb) || Deleting.isVerb(verb);
        if (changes && signature.resultClass() == void.class) {
            return arguments -> {
                @Nullable Object[] given = arguments.clone();
                within.later(() -> behaviour.call(given));
                return null;
            };
        }
        return arguments -> {
            within.flush();
            Object result = behaviour.call(arguments);
            Object held = result instanceof Optional<?> optional ? optional.orElse(null) : result;
            if (held instanceof Iterable<?> several) {
                several.forEach(object -> within.noteRead(of, object));
            } else {
                within.noteRead(of, held);
            }
            return result;
        };
    }

    private static boolean takesAnything(Signature signature) {
        return signature.size() > 0
                && (signature.parameter(0) == Object.class || signature.parameter(0) == Class.class);
    }

    /** {@code void add(Object)} and {@code <T> T find(Class<T>, Object)}: the type is known when it is called. */
    private Behaviour ofAnyType(Signature signature, String verb) throws UnknownMethodException {
        boolean byClass = signature.parameter(0) == Class.class;
        if (byClass && FINDING.contains(verb) && signature.size() <= 2) {
            boolean optional = signature.resultClass() == Optional.class;
            boolean many = Iterable.class.isAssignableFrom(signature.resultClass());
            return arguments -> {
                EntityType of = required(arguments[0] instanceof Class<?> c ? c : Object.class);
                UnitOfWork within = unit;
                if (within != null) {
                    within.flush();
                }
                Condition where = Condition.all();
                if (arguments.length == 2) {
                    var column = of.column(of.key().get(0));
                    where = new Condition.Equal(
                            column.name(), Terms.stored(of.key().get(0), column, arguments[1]));
                }
                List<Object> found =
                        store.rows(of.table(), where).stream().map(of::object).toList();
                if (within != null) {
                    found.forEach(object -> within.noteRead(of, object));
                }
                if (many) {
                    return new ArrayList<>(found);
                }
                if (optional) {
                    return found.stream().findFirst();
                }
                return found.stream().findFirst().orElse(null);
            };
        }
        boolean changes = Saving.isVerb(verb) || Deleting.isVerb(verb);
        if (!changes || signature.size() != 1 || byClass) {
            throw new UnknownMethodException("it is not clear which table it is about");
        }
        return arguments -> {
            Object object = Objects.requireNonNull(arguments[0], signature.describe() + " was given null.");
            EntityType of = required(object.getClass());
            Signature narrowed = new Signature(signature.method(), List.of(object.getClass()), signature.result());
            return inUnit(verb, narrowed, of, behaviour(verb, narrowed, of)).call(arguments);
        };
    }

    private EntityType required(Class<?> of) throws UnknownMethodException {
        if (!EntityType.isEntity(of, store.schema())) {
            throw new dev.zabbet.error.ZabbetException(of.getSimpleName() + " has no table. The tables are "
                    + String.join(", ", store.schema().tableNames()) + ".");
        }
        return entity(of);
    }

    private Optional<EntityType> entityOf(Signature signature) {
        List<Class<?>> returned = entitiesIn(signature.result());
        if (returned.size() == 1) {
            return Optional.of(entity(returned.get(0)));
        }
        List<Class<?>> given = signature.parameters().stream()
                .flatMap(p -> entitiesIn(p).stream())
                .distinct()
                .toList();
        boolean by = signature.name().matches(".*By[A-Z].*");
        if (given.size() == 1 && !by) {
            return Optional.of(entity(given.get(0)));
        }
        Optional<Class<?>> subject = subject();
        if (subject.isPresent()) {
            return subject.map(this::entity);
        }
        return named(signature.name()).or(() -> named(type.getSimpleName())).map(this::entity);
    }

    /** Finds the type whose name is the longest within another name. */
    private Optional<Class<?>> named(String name) {
        String within = name.toLowerCase(Locale.ROOT);
        Class<?> best = null;
        for (Class<?> one : known) {
            String simple = one.getSimpleName().toLowerCase(Locale.ROOT);
            boolean longer =
                    best == null || simple.length() > best.getSimpleName().length();
            if (within.contains(simple) && longer) {
                best = one;
            }
        }
        return Optional.ofNullable(best);
    }

    private List<Class<?>> entitiesIn(java.lang.reflect.Type of) {
        return Signature.within(of).stream()
                .filter(c -> EntityType.isEntity(c, store.schema()))
                .distinct()
                .toList();
    }

    private synchronized EntityType entity(Class<?> of) {
        EntityType found = entities.get(of);
        if (found == null) {
            found = EntityType.of(of, store);
            entities.put(of, found);
        }
        return found;
    }
}
