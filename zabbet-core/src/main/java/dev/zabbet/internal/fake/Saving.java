package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Methods that store objects: save, insert, update and their like, of one object or many. */
final class Saving {
    private static final Set<String> NEW = Set.of("insert", "add", "create", "persist", "append", "register");
    private static final Set<String> CHANGED = Set.of("update", "modify", "change", "replace");
    private static final Set<String> EITHER = Set.of("save", "store", "write");
    private static final Set<String> ASSIGNED = Set.of("upsert", "merge", "put");

    private final EntityType entity;
    private final MemoryRows store;
    private final String what;
    private final Mode mode;
    private final Optional<VersionColumn> version;
    private final Condition own; // what a provider does not find is not there for it

    enum Mode {
        NEW,
        CHANGED,
        EITHER,
        ASSIGNED
    }

    private Saving(EntityType entity, MemoryRows store, String what, Mode mode) {
        this.entity = entity;
        this.store = store;
        this.what = what;
        this.mode = mode;
        this.version = VersionColumn.of(entity, store);
        this.own = entity.own();
    }

    static boolean isVerb(String verb) {
        return mode(verb, verb).isPresent();
    }

    static Optional<Mode> mode(String verb, String name) {
        if (ASSIGNED.contains(verb) || name.matches("(insert|save|add|create)OrUpdate.*|(add|insert)OrReplace.*")) {
            return Optional.of(Mode.ASSIGNED);
        }
        if (NEW.contains(verb)) {
            return Optional.of(Mode.NEW);
        }
        if (CHANGED.contains(verb)) {
            return Optional.of(Mode.CHANGED);
        }
        if (EITHER.contains(verb)) {
            return Optional.of(Mode.EITHER);
        }
        return Optional.empty();
    }

    static Behaviour read(Signature signature, EntityType entity, MemoryRows store) throws UnknownMethodException {
        String verb = Phrase.verbOf(signature.name());
        Mode mode = mode(verb, signature.name()).orElseThrow();
        Saving saving = new Saving(entity, store, signature.describe(), mode);
        entity.requireKey();
        if (signature.size() == 1 && signature.parameter(0).isAssignableFrom(entity.type())) {
            return saving.one(signature);
        }
        boolean many = signature.size() == 1
                && (Iterable.class.isAssignableFrom(signature.parameter(0))
                        || signature.parameter(0).isArray());
        if (many) {
            return saving.many(signature);
        }
        if (mode == Mode.CHANGED) {
            return saving.columns(signature);
        }
        throw new UnknownMethodException(
                "it takes neither one " + entity.type().getSimpleName() + " nor a collection of them");
    }

    private Behaviour one(Signature signature) throws UnknownMethodException {
        Class<?> result = signature.resultClass();
        Result how = result(result);
        return arguments -> how.of(together(() -> save(required(arguments[0]))));
    }

    /** Stores all or nothing. */
    private <V> V together(Stored<V> work) throws StaleObjectException {
        if (!Cascades.concerns(entity) || store.transaction().isPresent()) {
            return work.store();
        }
        var transaction = store.begin();
        try {
            V result = work.store();
            transaction.commit();
            return result;
        } finally {
            if (transaction.isOpen()) {
                transaction.rollback();
            }
        }
    }

    /** Work that stores objects. */
    private interface Stored<V> {
        V store() throws StaleObjectException;
    }

    /** What a call hands back. */
    private interface Result {
        @Nullable
        Object of(Saved saved);
    }

    private record Saved(@Nullable Object object, @Nullable Object key, int rows, boolean written) {}

    private Result result(Class<?> result) throws UnknownMethodException {
        if (result == void.class || result == Void.class) {
            return saved -> null;
        }
        if (result.isAssignableFrom(entity.type()) && result != Object.class) {
            return Saved::object;
        }
        if (result == Optional.class) {
            return saved -> Optional.ofNullable(saved.object());
        }
        boolean keyed = entity.key().size() == 1
                && JavaValue.boxed(result)
                        == JavaValue.boxed(entity.key().get(0).storedType());
        if (keyed && mode != Mode.CHANGED) {
            return Saved::key;
        }
        if (result == boolean.class || Answer.counts().contains(result)) {
            return saved -> Answer.count(result, saved.rows());
        }
        if (result == Object.class) {
            return Saved::object;
        }
        throw new UnknownMethodException("it returns " + result.getSimpleName() + ", and neither the "
                + entity.type().getSimpleName() + ", its key, nor a number of rows");
    }

    private Behaviour many(Signature signature) throws UnknownMethodException {
        Class<?> result = signature.resultClass();
        boolean objects = result.isAssignableFrom(ArrayList.class) && result != Object.class;
        boolean counted = Answer.counts().contains(result) || result == boolean.class || result == void.class;
        if (!objects && !counted && result != int[].class) {
            throw new UnknownMethodException("it stores many and returns " + result.getSimpleName());
        }
        return arguments -> {
            List<@Nullable Object> saved = new ArrayList<>();
            int[] counts = new int[Terms.elements(arguments[0]).size()];
            int rows = 0;
            boolean own = store.transaction().isEmpty();
            var transaction = own ? store.begin() : store.transaction().get();
            try {
                for (Object object : Terms.elements(arguments[0])) {
                    Saved one = save(required(object));
                    counts[saved.size()] = one.rows();
                    saved.add(one.object());
                    rows += one.rows();
                }
                if (own) {
                    transaction.commit();
                }
            } finally {
                if (own && transaction.isOpen()) {
                    transaction.rollback();
                }
            }
            if (objects) {
                return saved;
            }
            if (result == int[].class) {
                return counts;
            }
            return Answer.count(result, rows);
        };
    }

    /** Stores an object as this method does, with all that it belongs together with. */
    private Saved save(Object object) throws StaleObjectException {
        EntityType of = entity.typeOf(object);
        Saving saving = of == entity ? this : new Saving(of, store, what, mode);
        return saving.save(object, new Cascades(store), Map.of());
    }

    /** Stores a changed or new object that is known to somebody else, with all that it belongs together with. */
    static void save(EntityType type, Object object, Cascades cascades, Map<String, Object> also, MemoryRows store)
            throws StaleObjectException {
        new Saving(type, store, "save", Mode.EITHER).save(object, cascades, also);
    }

    private Saved save(Object object, Cascades cascades, Map<String, Object> also) throws StaleObjectException {
        if (!Cascades.concerns(entity)) {
            return saveAlone(object, also);
        }
        Cascades.Storing storing = (type, other, more) -> save(type, other, cascades, more, store);
        cascades.isFirst(object);
        cascades.storeParents(entity, object, storing);
        Saved saved = saveAlone(object, also);
        Object stored = saved.object();
        boolean grown = stored != null && cascades.storeChildren(entity, stored, storing);
        if (grown && !saved.written()) {
            Row row = entity.row(Objects.requireNonNull(stored));
            GeneratedValues.beforeUpdate(entity, stored, store);
            UnitOfWork.write(stored, entity, row, entity.row(stored), store);
        }
        return saved;
    }

    private Saved saveAlone(Object object, Map<String, Object> also) throws StaleObjectException {
        Row row = entity.row(object);
        boolean known = mode != Mode.NEW && isKnown(row);
        if (known && entity.shape().isEntity() && also.isEmpty()) {
            Row stored = store.rows(entity.table(), entity.keyOf(row)).get(0);
            if (entity.row(entity.plain(stored)).equals(row)) {
                return saved(object, entity.keyOf(row), false); // nothing has changed
            }
        }
        if (known) {
            GeneratedValues.beforeUpdate(entity, object, store);
        } else if (mode != Mode.CHANGED) {
            GeneratedValues.beforeInsert(entity, object, store);
        }
        Row now = entity.row(object);
        for (Map.Entry<String, Object> column : also.entrySet()) {
            now = now.with(column.getKey(), column.getValue());
        }
        return save(object, now, known, !entity.hasKey(row));
    }

    /** A provider takes a row that is not there for one that another has deleted. */
    private RuntimeException unknown(Row row) {
        String message = what + ": there is no " + entity.table().name() + " with the key of " + row
                + ", and new keys are given by the store. Save it without a key, or arrange it by stage.add.";
        return entity.shape().isEntity()
                ? new ConstraintException(
                        message,
                        entity.table().name(),
                        entity.table().keyColumns().get(0),
                        ConstraintException.STALE,
                        row,
                        null)
                : new ZabbetException(message);
    }

    private boolean isKnown(Row row) {
        return entity.hasKey(row)
                && store.holds(entity.table(), entity.keyOf(row).and(own));
    }

    private Saved save(Object object, Row row, boolean known, boolean fresh) throws StaleObjectException {
        boolean keyed = entity.hasKey(row);
        if (known) {
            update(row);
            return saved(object, entity.keyOf(row), true);
        }
        if (mode == Mode.CHANGED) {
            if (!keyed) {
                throw new ZabbetException(what + ": the " + entity.type().getSimpleName() + " has no key yet: " + row);
            }
            return new Saved(null, null, 0, false);
        }
        if (mode == Mode.EITHER && keyed && entity.hasGeneratedKey() && !fresh) {
            throw unknown(row);
        }
        Row stored = entity.insert(version.map(of -> of.first(row)).orElse(row));
        return saved(object, entity.keyOf(stored), true);
    }

    private void update(Row row) throws StaleObjectException {
        VersionColumn of = version.orElse(null);
        if (of == null) {
            entity.update(entity.keyOf(row), row);
        } else if (entity.update(entity.keyOf(row).and(of.isCurrent(row)), of.next(row)) == 0) {
            throw of.stale(row, what);
        }
    }

    /** An object that can be changed gets the key itself; others are made again from what is stored. */
    private Saved saved(Object object, Condition key, boolean written) {
        Row stored = store.rows(entity.table(), key).get(0);
        Object fresh = entity.shape().isChangeable() ? entity.plain(stored) : entity.object(stored);
        Object first = entity.shape().read(fresh, entity.key().get(0));
        if (!entity.shape().isChangeable()) {
            return new Saved(fresh, first, 1, written);
        }
        for (Prop part : entity.key()) {
            if (part.name().indexOf('.') < 0) {
                entity.shape().write(object, part, entity.shape().read(fresh, part));
            }
        }
        version.ifPresent(
                of -> entity.shape().write(object, of.property(), entity.shape().read(fresh, of.property())));
        return new Saved(object, first, 1, written);
    }

    /** updateStatus(id, status), updateStatusById(status, id): single columns of the rows that are meant. */
    private Behaviour columns(Signature signature) throws UnknownMethodException {
        Phrase phrase = Phrase.read(signature.name(), entity);
        List<Phrase.Named> props = new ArrayList<>();
        for (String part : phrase.subject().split("And(?=[A-Z])")) {
            props.add(Phrase.named(Phrase.words(part), entity)
                    .filter(named -> named.through().isEmpty())
                    .orElseThrow(() -> new UnknownMethodException("'" + part + "' is no property of "
                            + entity.type().getSimpleName() + "; its properties are " + entity.names())));
        }
        boolean keyFirst = !phrase.by();
        int first = keyFirst ? entity.key().size() : 0;
        int wanted = props.size() + (keyFirst ? first : phrase.arguments());
        if (signature.size() != wanted) {
            throw new UnknownMethodException("its name takes " + Words.count(wanted, "argument") + " and it has "
                    + Words.count(signature.size(), "parameter"));
        }
        Class<?> result = signature.resultClass();
        if (result != void.class && result != boolean.class && !Answer.counts().contains(result)) {
            throw new UnknownMethodException("it returns " + result.getSimpleName() + ", and not the number of rows");
        }
        for (Phrase.Named prop : props) {
            entity.column(prop.property());
        }
        Terms terms = new Terms(entity, store);
        boolean documents = props.stream().anyMatch(prop -> prop.inside().isPresent());
        return arguments -> {
            Condition where =
                    keyFirst ? keyIs(arguments) : terms.condition(phrase.alternatives(), arguments, props.size());
            if (!documents) {
                Row values = changed(props, arguments, first, Row.of(Map.of()));
                return Answer.count(result, store.update(entity.table(), where, values));
            }
            int count = 0;
            for (Row row : store.rows(entity.table(), where)) {
                count += store.update(entity.table(), entity.keyOf(row), changed(props, arguments, first, row));
            }
            return Answer.count(result, count);
        };
    }

    /** Returns the columns of a row that a call changes: of a document the whole, with other values at places. */
    private Row changed(List<Phrase.Named> props, @Nullable Object[] arguments, int first, Row row) {
        Row now = row;
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (int i = 0; i < props.size(); i++) {
            Phrase.Named prop = props.get(i);
            Column column = entity.columnOf(prop.property()).orElseThrow();
            Object argument = arguments[first + i];
            Object value = prop.inside().isPresent()
                    ? prop.inside().get().changed(now, column, argument)
                    : Terms.stored(prop.property(), column, argument);
            values.put(column.name(), value);
            now = now.with(column.name(), value);
        }
        return Row.of(values);
    }

    private Condition keyIs(@Nullable Object[] arguments) {
        Condition where = Condition.all();
        for (int i = 0; i < entity.key().size(); i++) {
            Column column = entity.columnOf(entity.key().get(i)).orElseThrow();
            where = where.and(
                    new Condition.Equal(column.name(), Terms.stored(entity.key().get(i), column, arguments[i])));
        }
        return where;
    }

    private Object required(@Nullable Object argument) {
        return Objects.requireNonNull(
                argument,
                () -> what + " was given null and takes a " + entity.type().getSimpleName() + ".");
    }
}
