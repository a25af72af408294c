package dev.zabbet.internal.fake;

import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Condition;
import dev.zabbet.type.Kind;
import java.lang.reflect.Type;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Which rows a method means, by its name and the arguments of a call. */
final class Query {
    private final EntityType entity;
    private final MemoryRows store;
    private final Signature signature;
    private final Phrase phrase;
    private final Where where;
    private final List<Integer> windows;

    /** Makes the condition for a call. */
    private interface Where {
        Condition of(@Nullable Object[] arguments);
    }

    private Query(
            EntityType entity,
            MemoryRows store,
            Signature signature,
            Phrase phrase,
            Where where,
            List<Integer> windows) {
        this.entity = entity;
        this.store = store;
        this.signature = signature;
        this.phrase = phrase;
        this.where = where;
        this.windows = windows;
    }

    static Query read(Signature signature, EntityType entity, MemoryRows store) throws UnknownMethodException {
        return read(signature, entity, store, 0);
    }

    /** @param first the first parameter that is about which rows */
    static Query read(Signature signature, EntityType entity, MemoryRows store, int first)
            throws UnknownMethodException {
        Phrase phrase = Phrase.read(signature.name(), entity);
        List<Integer> windows = new ArrayList<>();
        int wanted = first + phrase.arguments();
        for (int i = signature.size() - 1; i >= wanted && Window.isWindow(signature, i); i--) {
            windows.add(0, i);
        }
        int given = signature.size() - windows.size() - first;
        for (List<Phrase.Term> all : phrase.alternatives()) {
            for (Phrase.Term term : all) {
                Phrase.Through through = term.through().orElse(null);
                if (through != null) {
                    entity.column(through.relation());
                    through.target().requireKey();
                }
                (through == null ? entity : through.target()).column(term.property());
            }
        }
        Where where = where(signature, entity, phrase, first, given, store);
        Condition own = entity.own();
        return new Query(
                entity,
                store,
                signature,
                phrase,
                own == Condition.all()
                        ? where
                        : arguments -> where.of(arguments).and(own),
                Window.inOrder(signature, windows));
    }

    private static Where where(
            Signature signature, EntityType entity, Phrase phrase, int first, int given, MemoryRows store)
            throws UnknownMethodException {
        if (!phrase.by()) {
            return given == 0 ? arguments -> Condition.all() : withoutBy(signature, entity, first, given);
        }
        if (phrase.arguments() == given) {
            boolean oneEqual = given == 1
                    && phrase.arguments() == 1
                    && isMany(signature.parameter(first), phrase)
                    && phrase.alternatives().get(0).get(0).through().isEmpty()
                    && phrase.alternatives().get(0).get(0).inside().isEmpty();
            if (oneEqual) {
                Phrase.Term term = phrase.alternatives().get(0).get(0);
                Column column = entity.column(term.property());
                return arguments ->
                        new Condition.OneOf(column.name(), Terms.values(term.property(), column, arguments[first]));
            }
            Terms terms = new Terms(entity, store);
            return arguments -> terms.condition(phrase.alternatives(), arguments, first);
        }
        if (given > phrase.arguments()) {
            Terms terms = new Terms(entity, store);
            Where others = byNames(
                    signature, entity, first + phrase.arguments(), given - phrase.arguments(), phrase.arguments());
            return arguments ->
                    terms.condition(phrase.alternatives(), arguments, first).and(others.of(arguments));
        }
        throw new UnknownMethodException("its name takes " + Words.count(phrase.arguments(), "argument")
                + " and it has " + Words.count(given, "parameter"));
    }

    /** findAllById(ids): a collection where one value was expected. */
    private static boolean isMany(Class<?> parameter, Phrase phrase) {
        return (Iterable.class.isAssignableFrom(parameter) || (parameter.isArray() && parameter != byte[].class))
                && phrase.alternatives().get(0).get(0).operator() == Phrase.Operator.EQUAL;
    }

    private static Where withoutBy(Signature signature, EntityType entity, int first, int given)
            throws UnknownMethodException {
        List<Prop> key = entity.key();
        Class<?> parameter = signature.parameter(first);
        boolean keyLike = given == key.size();
        for (int i = 0; keyLike && i < given; i++) {
            keyLike = fits(key.get(i), signature.parameter(first + i));
        }
        if (keyLike) {
            entity.requireKey();
            return arguments -> {
                Condition all = Condition.all();
                for (int i = 0; i < key.size(); i++) {
                    Column column = entity.columnOf(key.get(i)).orElseThrow();
                    all = all.and(
                            new Condition.Equal(column.name(), Terms.stored(key.get(i), column, arguments[first + i])));
                }
                return all;
            };
        }
        if (given == 1 && key.size() == 1 && Iterable.class.isAssignableFrom(parameter)) {
            Column column = entity.column(key.get(0));
            return arguments -> new Condition.OneOf(column.name(), Terms.values(key.get(0), column, arguments[first]));
        }
        if (given == 1 && key.size() > 1 && JavaValue.kindOf(parameter) == Kind.OTHER && !parameter.isInterface()) {
            return byKeyObject(parameter, entity, first);
        }
        return byNames(signature, entity, first, given, 0);
    }

    private static boolean fits(Prop prop, Class<?> parameter) {
        return parameter == Object.class
                || java.io.Serializable.class == parameter
                || JavaValue.boxed(parameter) == JavaValue.boxed(prop.storedType())
                || (JavaValue.kindOf(parameter) == Kind.INTEGER && JavaValue.kindOf(prop.storedType()) == Kind.INTEGER);
    }

    /** A key of several columns as an object with properties named like them. */
    @SuppressWarnings("unchecked")
    private static Where byKeyObject(Class<?> type, EntityType entity, int first) throws UnknownMethodException {
        TypeShape<Object> shape = TypeShape.of((Class<Object>) type);
        List<Prop> of = new ArrayList<>();
        for (Prop part : entity.key()) {
            of.add(shape.find(part.name())
                    .orElseThrow(() -> new UnknownMethodException(type.getSimpleName() + " has no " + part.name()
                            + ", which is part of the key of " + entity.table().name())));
        }
        return arguments -> {
            Condition all = Condition.all();
            Object key = Words.notNull(arguments[first], "key", type.getSimpleName());
            for (int i = 0; i < of.size(); i++) {
                Column column = entity.columnOf(entity.key().get(i)).orElseThrow();
                all = all.and(
                        new Condition.Equal(column.name(), EntityType.canonical(column, shape.read(key, of.get(i)))));
            }
            return all;
        };
    }

    /**
     * Parameters that the method's name does not speak of mean the properties that they are named like.
     *
     * @param named how many parameters the name speaks of
     */
    private static Where byNames(Signature signature, EntityType entity, int first, int given, int named)
            throws UnknownMethodException {
        List<Prop> props = new ArrayList<>();
        for (int i = first; i < first + given; i++) {
            Optional<String> name = signature.parameterName(i);
            if (name.isEmpty()) {
                throw new UnknownMethodException(
                        named == 0
                                ? "it has " + Words.count(given, "parameter")
                                        + ", and neither a By in its name nor names of parameters say what they mean"
                                        + " (compile with -parameters)"
                                : "its name takes " + Words.count(named, "argument") + " and it has "
                                        + Words.count(named + given, "parameter")
                                        + ", which have no names that say what they mean (compile with -parameters)");
            }
            Optional<Prop> found = entity.property(name.get());
            if (found.isEmpty()) {
                throw new UnknownMethodException((named == 0
                                ? ""
                                : "its name takes " + Words.count(named, "argument") + " and it has "
                                        + Words.count(named + given, "parameter") + ": ")
                        + "its parameter '" + name.get() + "' is no property of "
                        + entity.type().getSimpleName() + "; its properties are " + entity.names());
            }
            entity.column(found.get());
            props.add(found.get());
        }
        return arguments -> {
            Condition all = Condition.all();
            for (int i = 0; i < props.size(); i++) {
                Column column = entity.columnOf(props.get(i)).orElseThrow();
                all = all.and(
                        new Condition.Equal(column.name(), Terms.stored(props.get(i), column, arguments[first + i])));
            }
            return all;
        };
    }

    Phrase phrase() {
        return phrase;
    }

    EntityType entity() {
        return entity;
    }

    /** Tells whether a call finds at most one row by its key. */
    boolean isByKey() {
        boolean named = phrase.by()
                && phrase.alternatives().size() == 1
                && phrase.alternatives().get(0).size() == 1
                && phrase.alternatives().get(0).get(0).operator() == Phrase.Operator.EQUAL
                && !phrase.alternatives().get(0).get(0).ignoreCase()
                && entity.key()
                        .equals(List.of(phrase.alternatives().get(0).get(0).property()));
        boolean bare = !phrase.by() && signature.size() == 1 && entity.key().size() == 1 && windows.isEmpty();
        return (named || bare) && signature.size() == 1 && fits(entity.key().get(0), signature.parameter(0));
    }

    Condition condition(@Nullable Object[] arguments) {
        return where.of(arguments);
    }

    Window window(@Nullable Object[] arguments) {
        Window window = new Window(0, phrase.most() == 0 ? Window.ALL : phrase.most(), phrase.order());
        for (int parameter : windows) {
            window = window.with(signature, parameter, arguments[parameter], entity);
        }
        return window.inTotalOrder(entity);
    }

    /** Returns the rows that a call means, in order and cut to its window. */
    List<Row> rows(@Nullable Object[] arguments) {
        Window window = window(arguments);
        List<Row> rows = uncut(arguments, window);
        int limit = (int) Math.min(window.limit(), rows.size());
        FakeSupport.Place place = window.place();
        if (place != null && place.before()) {
            return rows.subList(rows.size() - limit, rows.size());
        }
        int from = (int) Math.min(window.offset(), rows.size());
        return rows.subList(from, Math.min(from + limit, rows.size()));
    }

    /** Returns how many rows there are without the window's limits. */
    int total(@Nullable Object[] arguments, Window window) {
        return window.place() == null
                ? count(arguments)
                : uncut(arguments, window).size();
    }

    private List<Row> uncut(@Nullable Object[] arguments, Window window) {
        List<Row> rows = new ArrayList<>(store.rows(entity.table(), where.of(arguments)));
        if (!window.order().isEmpty()) {
            rows.sort(comparator(window.order()));
        }
        passOver(rows, window);
        return rows;
    }

    /** Leaves away what does not come behind, or before, the row that is known already. */
    private void passOver(List<Row> rows, Window window) {
        FakeSupport.Place place = window.place();
        if (place == null || place.values().isEmpty()) {
            return;
        }
        rows.removeIf(row -> {
            for (FakeSupport.SortBy by : window.sortedBy()) {
                Phrase.Order order = window.order().get(window.sortedBy().indexOf(by));
                Column column = order.inside().map(DocumentProperty::column).orElseGet(() -> order.through()
                        .map(Phrase.Through::target)
                        .orElse(entity)
                        .columnOf(order.property())
                        .orElseThrow());
                Prop property = order.inside().map(DocumentProperty::leaf).orElse(order.property());
                Object given = place.values().get(by.property());
                Object last = Terms.stored(
                        property,
                        column,
                        order.inside().isPresent() ? order.inside().get().written(given) : given);
                int difference =
                        by.order(Ordering::compare).compare(value(order).apply(row), last);
                if (difference != 0) {
                    return place.before() ? difference > 0 : difference < 0;
                }
            }
            return true;
        });
    }

    int count(@Nullable Object[] arguments) {
        return store.rows(entity.table(), where.of(arguments)).size();
    }

    private Comparator<Row> comparator(List<Phrase.Order> order) {
        Comparator<Row> all = null;
        for (Phrase.Order one : order) {
            Function<Row, @Nullable Object> value = value(one);
            Comparator<@Nullable Object> values = one.by().order(Ordering::compare);
            Comparator<Row> comparator = (a, b) -> values.compare(value.apply(a), value.apply(b));
            all = all == null ? comparator : all.thenComparing(comparator);
        }
        return all == null ? (ignored, unused) -> 0 : all;
    }

    /** Returns what reads the value of a row that it is ordered by. */
    private Function<Row, @Nullable Object> value(Phrase.Order by) {
        Function<Row, @Nullable Object> plain = plainValue(by);
        return by.by().ignoreCase()
                ? row -> plain.apply(row) instanceof String text ? text.toLowerCase(Locale.ROOT) : plain.apply(row)
                : plain;
    }

    private Function<Row, @Nullable Object> plainValue(Phrase.Order by) {
        Phrase.Through through = by.through().orElse(null);
        EntityType owner = through == null ? entity : through.target();
        DocumentProperty inside = by.inside().orElse(null);
        if (inside != null) {
            Column whole = entity.columnOf(by.property()).orElseThrow();
            return row -> inside.in(row, whole);
        }
        int at = owner.table()
                .requirePosition(owner.columnOf(by.property()).orElseThrow().name());
        if (through == null) {
            return row -> row.at(at);
        }
        String reference = entity.columnOf(through.relation()).orElseThrow().name();
        return row -> {
            Object key = row.get(reference);
            return key == null
                    ? null
                    : store.find(owner.table(), key)
                            .<@Nullable Object>map(parent -> parent.at(at))
                            .orElse(null);
        };
    }

    /** Refuses words before By that say something that is not known. */
    static void requireKnownSubject(Phrase phrase, EntityType entity, Type element) throws UnknownMethodException {
        String subject = phrase.subject().toLowerCase(Locale.ROOT);
        String name = entity.type().getSimpleName().toLowerCase(Locale.ROOT);
        boolean entityItself =
                List.of("", name, name + "s", name + "es", plural(name)).contains(subject);
        boolean property = Phrase.named(Phrase.words(phrase.subject()), entity).isPresent();
        boolean rows = List.of("rows", "entity", "entities", "list", "object", "objects")
                .contains(subject);
        if (!entityItself && !property && !rows) {
            throw new UnknownMethodException("'" + phrase.subject() + "' is neither "
                    + entity.type().getSimpleName() + " nor one of its properties (" + entity.names() + ")");
        }
        if (property && !entityItself && Signature.raw(element) == entity.type()) {
            throw new UnknownMethodException("it is named after the property " + phrase.subject() + " and returns "
                    + entity.type().getSimpleName());
        }
    }

    private static String plural(String name) {
        return name.endsWith("y") ? name.substring(0, name.length() - 1) + "ies" : name + "s";
    }
}
