package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.DocumentValue;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.type.Kind;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * A table of keys and documents, behind an interface whose objects are the documents: maps, or a type that has no table. The interface
 * is called like the table, {@code PreferencesRepository} like {@code preferences}.
 *
 * @param key the column of the key
 * @param document the column of the documents
 */
record DocumentTable(Table table, Column key, Column document, MemoryRows store) {
    private static final List<String> ENDINGS =
            List.of("Repository", "Store", "Storage", "Dao", "Documents", "Collection", "Table", "Gateway");

    /** Finds the table of an interface: one with a key of one column, a column of JSON, and no other that needs a value. */
    static Optional<DocumentTable> of(Class<?> type, MemoryRows store) {
        String whole = type.getSimpleName();
        String name = ENDINGS.stream()
                .filter(ending -> whole.endsWith(ending) && whole.length() > ending.length())
                .findFirst()
                .map(ending -> whole.substring(0, whole.length() - ending.length()))
                .orElse(whole);
        return table(Words.snakeCase(name), store.schema()).flatMap(table -> of(table, store));
    }

    private static Optional<Table> table(String name, Schema schema) {
        for (String known : List.of(name, name + "s", name.replaceFirst("ies$", "y"), name.replaceFirst("s$", ""))) {
            Optional<Table> table = schema.table(known);
            if (table.isPresent()) {
                return table;
            }
        }
        return Optional.empty();
    }

    private static Optional<DocumentTable> of(Table table, MemoryRows store) {
        List<Column> documents = table.columns().stream()
                .filter(column -> column.type().kind() == Kind.JSON)
                .toList();
        boolean others = table.columns().stream()
                .anyMatch(column -> column.isRequired()
                        && !table.keyColumns().contains(column.name())
                        && !documents.contains(column));
        return documents.size() != 1 || table.keyColumns().size() != 1 || others
                ? Optional.empty()
                : Optional.of(new DocumentTable(
                        table, table.requireColumn(table.keyColumns().get(0)), documents.get(0), store));
    }

    /** Returns what a method does; its name begins with a verb that is known. */
    Behaviour behaviour(Signature signature, String verb) throws UnknownMethodException {
        Optional<Saving.Mode> mode = Saving.mode(verb, signature.name());
        if (mode.isPresent()) {
            return saving(signature, mode.get());
        }
        String rest = signature.name().substring(verb.length());
        boolean all = rest.isEmpty() || rest.equals("All") || rest.equals("Documents");
        boolean byKey = signature.size() == 1
                && JavaValue.kindOf(signature.parameter(0)) != Kind.OTHER
                && (rest.isEmpty()
                        || rest.equals("ById")
                        || rest.equals("ByKey")
                        || rest.equals("By" + capital(key.name())));
        if (!byKey && !(all && signature.size() == 0)) {
            throw new UnknownMethodException("of the documents in " + table.name()
                    + " one is found by its key, or all are: a document that is to be found by what it holds needs a type with a"
                    + " key of its own");
        }
        Class<?> result = signature.resultClass();
        if (Deleting.isVerb(verb)) {
            return arguments -> Answer.count(result, store.delete(table, meant(arguments)));
        }
        if (result == boolean.class || result == Boolean.class || verb.equals("count")) {
            return arguments ->
                    Answer.count(result, store.rows(table, meant(arguments)).size());
        }
        return byKey ? finding(signature.result()) : listing(signature.result());
    }

    private static String capital(String name) {
        return name.isEmpty() ? name : Character.toUpperCase(name.charAt(0)) + name.substring(1);
    }

    private Condition meant(@Nullable Object[] arguments) {
        return arguments.length == 0 ? Condition.all() : keyIs(arguments[0]);
    }

    private Condition keyIs(@Nullable Object value) {
        return new Condition.Equal(key.name(), EntityType.canonical(key, value));
    }

    private Behaviour saving(Signature signature, Saving.Mode mode) throws UnknownMethodException {
        boolean keyed = signature.size() == 2 && JavaValue.kindOf(signature.parameter(0)) != Kind.OTHER;
        boolean numbered = signature.size() == 1 && key.isNumbered() && mode != Saving.Mode.CHANGED;
        if (!keyed && !numbered) {
            throw new UnknownMethodException("a document in " + table.name() + " is stored by its key and itself: "
                    + signature.name() + "(" + key.name() + ", document)");
        }
        Class<?> result = signature.resultClass();
        boolean givesKey = numbered && JavaValue.kindOf(result) == Kind.INTEGER;
        if (!givesKey
                && result != void.class
                && result != boolean.class
                && !Answer.counts().contains(result)) {
            throw new UnknownMethodException(
                    "it returns " + result.getSimpleName() + ", and neither a number of rows nor nothing");
        }
        return arguments -> {
            Object held = arguments[arguments.length - 1];
            Row values = Row.row(document.name(), held == null ? null : PlainDocument.write(PlainDocument.of(held)));
            if (numbered) {
                Row stored = store.insert(table, values);
                return givesKey ? JavaValue.to(result, stored.get(key.name())) : Answer.count(result, 1);
            }
            Condition where = keyIs(arguments[0]);
            boolean known = mode != Saving.Mode.NEW && store.holds(table, where);
            if (known || mode == Saving.Mode.CHANGED) {
                return Answer.count(result, store.update(table, where, values));
            }
            store.insert(table, values.with(key.name(), EntityType.canonical(key, arguments[0])));
            return Answer.count(result, 1);
        };
    }

    private Behaviour finding(Type result) {
        boolean optional = Signature.raw(result) == Optional.class;
        Type type = optional ? Signature.element(result) : result;
        return arguments -> {
            Object found = store.rows(table, keyIs(arguments[0])).stream()
                    .findFirst()
                    .map(row -> read(type, row))
                    .orElse(null);
            return optional ? Optional.ofNullable(found) : found;
        };
    }

    private Behaviour listing(Type result) throws UnknownMethodException {
        Class<?> raw = Signature.raw(result);
        if (raw == Map.class && result instanceof ParameterizedType map) {
            Type keys = map.getActualTypeArguments()[0];
            return arguments -> {
                Map<@Nullable Object, @Nullable Object> all = new LinkedHashMap<>();
                for (Row row : store.rows(table, Condition.all())) {
                    all.put(
                            JavaValue.to(Signature.raw(keys), row.get(key.name())),
                            read(map.getActualTypeArguments()[1], row));
                }
                return all;
            };
        }
        if (!raw.isAssignableFrom(ArrayList.class)) {
            throw new UnknownMethodException(
                    "it returns " + raw.getSimpleName() + ", and neither a list nor a map by the key");
        }
        Type type = Signature.element(result);
        return arguments -> {
            List<@Nullable Object> all = new ArrayList<>();
            store.rows(table, Condition.all()).forEach(row -> all.add(read(type, row)));
            return all;
        };
    }

    private @Nullable Object read(Type type, Row row) {
        try {
            return DocumentValue.of(type, PlainDocument.read(row.get(document.name())));
        } catch (InexactValueException e) {
            throw new ZabbetException("The document of " + table.name() + " " + Objects.toString(row.get(key.name()))
                    + " is no " + Signature.raw(type).getSimpleName() + ": " + e.clause() + ".");
        }
    }
}
