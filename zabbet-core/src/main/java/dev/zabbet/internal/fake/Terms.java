package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Condition.Comparison;
import java.lang.reflect.Array;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Makes a condition of the words of a method's name and the arguments of a call. */
final class Terms {
    private final EntityType entity;
    private final MemoryRows store;

    Terms(EntityType entity, MemoryRows store) {
        this.entity = entity;
        this.store = store;
    }

    /** Returns the condition; arguments are taken in order, from {@code first} on. */
    Condition condition(List<List<Phrase.Term>> alternatives, @Nullable Object[] arguments, int first) {
        if (alternatives.isEmpty()) {
            return Condition.all();
        }
        int at = first;
        List<Condition> any = new ArrayList<>();
        for (List<Phrase.Term> all : alternatives) {
            Condition where = Condition.all();
            for (Phrase.Term term : all) {
                where = where.and(condition(term, arguments, at));
                at += term.operator().arguments;
            }
            any.add(where);
        }
        return any.size() == 1 ? any.get(0) : new Condition.Or(any);
    }

    private Condition condition(Phrase.Term term, @Nullable Object[] arguments, int at) {
        Phrase.Through through = term.through().orElse(null);
        if (through != null) {
            return through(through, term, arguments, at);
        }
        Column column = entity.columnOf(term.property()).orElseThrow();
        DocumentProperty inside = term.inside().orElse(null);
        if (inside != null) {
            Phrase.Term there = new Phrase.Term(
                    inside.leaf(), term.operator(), term.ignoreCase(), Optional.empty(), Optional.empty());
            @Nullable Object[] written = Arrays.copyOf(arguments, arguments.length);
            for (int i = at; i < at + term.operator().arguments; i++) {
                written[i] = isSeveral(arguments[i])
                        ? elements(arguments[i]).stream()
                                .<@Nullable Object>map(inside::written)
                                .toList()
                        : inside.written(arguments[i]);
            }
            return inside.condition(column, condition(there, inside.column(), written, at));
        }
        return condition(term, column, arguments, at);
    }

    private Condition condition(Phrase.Term term, Column column, @Nullable Object[] arguments, int at) {
        String name = column.name();
        return switch (term.operator()) {
            case NULL -> new Condition.Equal(name, null);
            case NOT_NULL -> new Condition.Not(new Condition.Equal(name, null));
            case TRUE -> new Condition.Equal(name, EntityType.canonical(column, true));
            case FALSE -> new Condition.Equal(name, EntityType.canonical(column, false));
            case EQUAL -> equal(term, column, arguments[at]);
            case NOT_EQUAL -> otherThan(term, column, arguments[at]);
            case IN -> new Condition.OneOf(name, values(term.property(), column, arguments[at]));
            case NOT_IN -> new Condition.Not(new Condition.OneOf(name, values(term.property(), column, arguments[at])));
            case LIKE -> new Condition.Like(name, text(arguments[at]), term.ignoreCase());
            case NOT_LIKE -> new Condition.Not(new Condition.Like(name, text(arguments[at]), term.ignoreCase()));
            case CONTAINING -> new Condition.Like(name, "%" + escaped(arguments[at]) + "%", term.ignoreCase());
            case NOT_CONTAINING ->
                new Condition.Not(new Condition.Like(name, "%" + escaped(arguments[at]) + "%", term.ignoreCase()));
            case STARTING -> new Condition.Like(name, escaped(arguments[at]) + "%", term.ignoreCase());
            case ENDING -> new Condition.Like(name, "%" + escaped(arguments[at]), term.ignoreCase());
            case GREATER -> compared(term, column, Comparison.GREATER, arguments[at]);
            case AT_LEAST -> compared(term, column, Comparison.AT_LEAST, arguments[at]);
            case LESS -> compared(term, column, Comparison.LESS, arguments[at]);
            case AT_MOST -> compared(term, column, Comparison.AT_MOST, arguments[at]);
            case BETWEEN ->
                compared(term, column, Comparison.AT_LEAST, arguments[at])
                        .and(compared(term, column, Comparison.AT_MOST, arguments[at + 1]));
        };
    }

    /** As by an inner join: an object that refers to none does not count, whatever is asked of the other. */
    private Condition through(Phrase.Through through, Phrase.Term term, @Nullable Object[] arguments, int at) {
        EntityType target = through.target();
        Phrase.Term inner = new Phrase.Term(
                term.property(), term.operator(), term.ignoreCase(), Optional.empty(), Optional.empty());
        Condition there = new Terms(target, store).condition(inner, arguments, at);
        String key = target.table().keyColumns().get(0);
        List<@Nullable Object> keys = new ArrayList<>();
        store.rows(target.table(), there).forEach(row -> keys.add(row.get(key)));
        return new Condition.OneOf(
                entity.columnOf(through.relation()).orElseThrow().name(), keys);
    }

    private Condition equal(Phrase.Term term, Column column, @Nullable Object value) {
        return term.ignoreCase() && value != null
                ? new Condition.Like(column.name(), escaped(value), true)
                : new Condition.Equal(column.name(), stored(term.property(), column, value));
    }

    private Condition otherThan(Phrase.Term term, Column column, @Nullable Object value) {
        Object stored = stored(term.property(), column, value);
        return stored == null
                ? new Condition.Not(new Condition.Equal(column.name(), null))
                : new Condition.Compared(column.name(), Comparison.OTHER_THAN, stored);
    }

    private Condition compared(Phrase.Term term, Column column, Comparison comparison, @Nullable Object value) {
        Object stored = stored(term.property(), column, value);
        return stored == null
                ? new Condition.Or(List.of()) // a comparison with null holds for no row
                : new Condition.Compared(column.name(), comparison, stored);
    }

    /** Returns what is stored for an argument: of an object that has a row of its own the key. */
    @SuppressWarnings("unchecked")
    static @Nullable Object stored(Prop property, Column column, @Nullable Object value) {
        Object held = value;
        if (value != null && property.isReference() && property.type().isInstance(value)) {
            held = dev.zabbet.internal.type.TypeShape.of((Class<Object>) property.type())
                    .read(value, property.key().orElseThrow());
        }
        return EntityType.canonical(column, held);
    }

    static List<@Nullable Object> values(Prop property, Column column, @Nullable Object collection) {
        List<@Nullable Object> values = new ArrayList<>();
        for (Object value : elements(collection)) {
            values.add(stored(property, column, value));
        }
        return values;
    }

    private static boolean isSeveral(@Nullable Object argument) {
        return argument instanceof Iterable
                || argument instanceof java.util.stream.Stream
                || (argument != null && argument.getClass().isArray() && !(argument instanceof byte[]));
    }

    /** Returns what a collection, array or other iterable holds. */
    static List<@Nullable Object> elements(@Nullable Object collection) {
        List<@Nullable Object> elements = new ArrayList<>();
        if (collection instanceof Iterable<?> iterable) {
            iterable.forEach(elements::add);
        } else if (collection != null && collection.getClass().isArray()) {
            for (int i = 0; i < Array.getLength(collection); i++) {
                elements.add(Array.get(collection, i));
            }
        } else if (collection instanceof java.util.stream.Stream<?> stream) {
            stream.forEach(elements::add);
        } else {
            throw new ZabbetException("A collection is needed, and the argument is " + collection + ".");
        }
        return elements;
    }

    private static String text(@Nullable Object value) {
        return Objects.requireNonNullElse(value, "").toString();
    }

    private static String escaped(@Nullable Object value) {
        return text(value).replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_");
    }
}
