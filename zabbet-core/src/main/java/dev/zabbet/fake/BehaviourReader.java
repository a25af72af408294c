package dev.zabbet.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.value.Canon;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Condition;
import dev.zabbet.store.MemoryStore;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Reads from a method's name and signature what it is to do. */
final class BehaviourReader {
    private static final Set<String> STORING = Set.of("save", "insert", "add", "create", "store", "persist", "update");
    private static final Set<String> FINDING = Set.of("find", "get", "load", "list", "all", "fetch");

    private final EntityType entity;
    private final MemoryStore store;

    BehaviourReader(EntityType entity, MemoryStore store) {
        this.entity = entity;
        this.store = store;
    }

    Behaviour read(Method method) throws NotUnderstood {
        String name = method.getName();
        String verb = Words.snakeCase(name).split("_")[0];
        String by = name.contains("By") ? name.substring(name.indexOf("By") + 2) : "";
        Class<?>[] parameters = method.getParameterTypes();
        if (STORING.contains(verb)
                && parameters.length == 1
                && parameters[0] == entity.shape().type()) {
            return storing(method, verb);
        }
        if ((verb.equals("delete") || verb.equals("remove")) && parameters.length >= 1) {
            return deleting(method, by);
        }
        if (verb.equals("count") || verb.equals("exists")) {
            Finder finder = finder(method, by, parameters.length);
            return verb.equals("count")
                    ? arguments -> number(
                            method.getReturnType(), finder.find(arguments).size())
                    : arguments -> !finder.find(arguments).isEmpty();
        }
        if (FINDING.contains(verb)) {
            return finding(method, finder(method, by, parameters.length));
        }
        throw new NotUnderstood("no meaning is known for a name that begins with '" + verb + "'");
    }

    private Behaviour storing(Method method, String verb) throws NotUnderstood {
        Class<?> result = method.getReturnType();
        boolean returnsKey = result == entity.keyProperty().type();
        if (result != void.class && result != entity.shape().type() && !returnsKey) {
            throw new NotUnderstood("it returns " + result.getSimpleName() + ", and neither the "
                    + entity.shape().type().getSimpleName() + " nor its key");
        }
        return arguments -> {
            Row row = entity.row(required(arguments[0], method));
            String key = entity.keyColumn().name();
            boolean known = row.has(key)
                    && !store.rows(entity.table(), keyIs(row.get(key))).isEmpty();
            Row stored;
            if (verb.equals("update") && !known) {
                throw new ZabbetException(
                        method.getName() + ": there is no " + entity.table().name() + " with key "
                                + (row.has(key) ? row.get(key) : "null") + " to update.");
            }
            if (known && !verb.equals("insert") && !verb.equals("add")) {
                store.update(entity.table(), keyIs(row.get(key)), row);
                stored = store.rows(entity.table(), keyIs(row.get(key))).get(0);
            } else {
                stored = store.insert(entity.table(), row);
            }
            Object object = entity.object(stored);
            return result == void.class
                    ? null
                    : returnsKey ? entity.shape().read(object, entity.keyProperty()) : object;
        };
    }

    private Behaviour deleting(Method method, String by) throws NotUnderstood {
        Class<?> result = method.getReturnType();
        if (result != void.class && result != boolean.class && result != int.class && result != long.class) {
            throw new NotUnderstood("it returns " + result.getSimpleName());
        }
        boolean byObject = method.getParameterTypes()[0] == entity.shape().type();
        Finder finder = byObject ? arguments -> List.of() : finder(method, by, method.getParameterCount());
        return arguments -> {
            int deleted = 0;
            if (byObject) {
                Row row = entity.row(required(arguments[0], method));
                deleted = store.delete(
                        entity.table(), keyIs(row.get(entity.keyColumn().name())));
            } else {
                for (Row row : finder.find(arguments)) {
                    deleted += store.delete(
                            entity.table(), keyIs(row.get(entity.keyColumn().name())));
                }
            }
            return result == void.class ? null : result == boolean.class ? deleted > 0 : number(result, deleted);
        };
    }

    private Behaviour finding(Method method, Finder finder) throws NotUnderstood {
        Class<?> result = method.getReturnType();
        if (result == Optional.class) {
            return arguments -> single(method, finder.find(arguments)).map(entity::object);
        }
        if (result == entity.shape().type()) {
            return arguments ->
                    single(method, finder.find(arguments)).map(entity::object).orElse(null);
        }
        if (result == Stream.class) {
            return arguments -> finder.find(arguments).stream().map(entity::object);
        }
        if (result == Set.class) {
            return arguments -> new LinkedHashSet<>(
                    finder.find(arguments).stream().map(entity::object).toList());
        }
        if (result == List.class || result == Collection.class || result == Iterable.class) {
            return arguments -> new ArrayList<>(
                    finder.find(arguments).stream().map(entity::object).toList());
        }
        throw new NotUnderstood("it returns " + result.getSimpleName() + ", and not "
                + entity.shape().type().getSimpleName() + "s, one or many");
    }

    /** Finds rows by the arguments of a call. */
    @FunctionalInterface
    private interface Finder {
        List<Row> find(@Nullable Object[] arguments);
    }

    private Finder finder(Method method, String by, int parameters) throws NotUnderstood {
        List<Column> columns = new ArrayList<>();
        if (by.isEmpty() && parameters == 1) {
            columns.add(entity.keyColumn());
        } else if (!by.isEmpty()) {
            for (String part : by.split("And")) {
                Prop prop = entity.shape()
                        .find(part.isEmpty() ? part : Character.toLowerCase(part.charAt(0)) + part.substring(1))
                        .orElseThrow(() -> new NotUnderstood("'" + part + "' is no property of "
                                + entity.shape().type().getSimpleName() + "; its properties are "
                                + String.join(
                                        ", ",
                                        entity.shape().properties().stream()
                                                .map(Prop::name)
                                                .toList())));
                columns.add(entity.column(prop));
            }
        }
        if (columns.size() != parameters) {
            throw new NotUnderstood("its name speaks of " + Words.count(columns.size(), "property") + " and it has "
                    + Words.count(parameters, "parameter"));
        }
        return arguments -> {
            Condition where = Condition.ALL;
            for (int i = 0; i < columns.size(); i++) {
                where = where.and(
                        new Condition.Equal(columns.get(i).name(), canonical(method, columns.get(i), arguments[i])));
            }
            return store.rows(entity.table(), where);
        };
    }

    private Optional<Row> single(Method method, List<Row> rows) {
        if (rows.size() > 1) {
            throw new ZabbetException(method.getName() + " returns one "
                    + entity.table().name() + ", and " + rows.size() + " were found.");
        }
        return rows.stream().findFirst();
    }

    private Condition keyIs(@Nullable Object key) {
        return new Condition.Equal(entity.keyColumn().name(), key);
    }

    private @Nullable Object canonical(Method method, Column column, @Nullable Object value) {
        try {
            return Canon.of(column.type(), value);
        } catch (Inexact e) {
            throw new ZabbetException(method.getName() + ": " + column.name() + " is "
                    + column.type().sqlName() + ", and " + e.clause() + ".");
        }
    }

    private static Object required(@Nullable Object argument, Method method) {
        return Words.notNull(argument, method.getParameters()[0].getName(), method.getName());
    }

    private static Object number(Class<?> type, int number) {
        return type == long.class || type == Long.class ? (Object) (long) number : (Object) number;
    }
}
