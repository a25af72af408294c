package dev.zabbet.internal.fake;

import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Condition;
import dev.zabbet.type.Kind;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Methods that delete rows: by object, by objects, by key or by a condition. */
final class Deleting {
    private static final Set<String> VERBS = Set.of("delete", "remove", "drop", "erase");

    private Deleting() {}

    static boolean isVerb(String verb) {
        return VERBS.contains(verb);
    }

    static Behaviour read(Signature signature, EntityType entity, MemoryRows store) throws UnknownMethodException {
        Class<?> result = signature.resultClass();
        boolean counted = result == void.class
                || result == boolean.class
                || Answer.counts().contains(result);
        boolean one = signature.size() == 1;
        if (one && entity.isOf(signature.parameter(0))) {
            requireCounted(counted, result);
            entity.requireKey();
            return arguments -> Answer.count(result, delete(signature, entity, store, arguments[0]));
        }
        boolean many = one
                && entity.isOf(
                        Signature.raw(Signature.element(signature.parameters().get(0))))
                && Iterable.class.isAssignableFrom(signature.parameter(0));
        if (many) {
            requireCounted(counted, result);
            entity.requireKey();
            return arguments -> {
                int deleted = 0;
                for (Object object : Terms.elements(arguments[0])) {
                    deleted += delete(signature, entity, store, object);
                }
                return Answer.count(result, deleted);
            };
        }
        Query query = Query.read(signature, entity, store);
        if (signature.size() == 0 && !signature.name().matches("(?i).*all.*|(?i).*every.*")) {
            throw new UnknownMethodException("it deletes without saying what; deleteAll() would delete all rows");
        }
        if (counted) {
            Query.requireKnownSubject(query.phrase(), entity, Object.class);
            return arguments -> Answer.count(result, delete(entity, store, query.condition(arguments)));
        }
        Answer answer = new Answer(signature, entity, query.phrase());
        return arguments -> {
            List<Row> rows = new ArrayList<>(query.rows(arguments));
            delete(entity, store, query.condition(arguments));
            return answer.of(rows, new Answer.Found(rows.size(), Window.none(), arguments));
        };
    }

    /** Tells whether a name means a deletion that a column says: softDelete, or restore which takes it back. */
    static boolean isSoft(String name) {
        return name.startsWith("softDelete") || name.startsWith("softRemove") || name.startsWith("restore");
    }

    static Behaviour readSoft(Signature signature, EntityType entity, MemoryRows store) throws UnknownMethodException {
        Class<?> result = signature.resultClass();
        requireCounted(
                result == void.class
                        || result == boolean.class
                        || Answer.counts().contains(result),
                result);
        List<Column> columns = entity.table().deletionColumns();
        if (columns.size() != 1) {
            throw new UnknownMethodException((columns.isEmpty() ? "no column" : "more than one column") + " of "
                    + entity.table().name() + " says when a row was deleted");
        }
        Column column = columns.get(0);
        boolean restores = signature.name().startsWith("restore");
        boolean byObject = signature.size() == 1 && entity.isOf(signature.parameter(0));
        boolean timed = !byObject && !restores && isTime(signature, signature.size() - 1);
        Query query = byObject ? null : Query.read(timed ? signature.withoutLast() : signature, entity, store);
        return arguments -> {
            Condition where = query == null
                    ? entity.keyOf(entity.row(Objects.requireNonNull(arguments[0])))
                    : query.condition(arguments);
            Object present = column.type().kind() == Kind.DATE
                    ? LocalDate.ofInstant(store.clock().instant(), ZoneOffset.UTC)
                    : store.clock().instant();
            Object now = timed ? arguments[arguments.length - 1] : present;
            Condition open = new Condition.Equal(column.name(), null);
            return Answer.count(
                    result,
                    store.update(
                            entity.table(),
                            where.and(restores ? new Condition.Not(open) : open),
                            Row.row(column.name(), restores ? null : now)));
        };
    }

    /** softDeleteById(id, at): the last parameter says when. */
    private static boolean isTime(Signature signature, int parameter) {
        return parameter > 0
                && switch (JavaValue.kindOf(signature.parameter(parameter))) {
                    case DATE, TIMESTAMP, INSTANT -> true;
                    default -> false;
                };
    }

    private static void requireCounted(boolean counted, Class<?> result) throws UnknownMethodException {
        if (!counted) {
            throw new UnknownMethodException("it deletes and returns " + result.getSimpleName() + ", and not how many");
        }
    }

    private static int delete(Signature signature, EntityType entity, MemoryRows store, @Nullable Object object)
            throws StaleObjectException {
        Object given =
                Objects.requireNonNull(object, () -> "A " + entity.type().getSimpleName() + " to delete is null.");
        Condition where = Condition.all();
        for (Prop part : entity.key()) {
            Optional<Column> column = entity.columnOf(part);
            where = where.and(new Condition.Equal(
                    column.orElseThrow().name(),
                    Terms.stored(part, column.get(), entity.shape().readStored(given, part))));
        }
        VersionColumn version = VersionColumn.of(entity, store).orElse(null);
        if (version != null) {
            version.requireCurrent(entity.row(given), signature.describe());
        }
        return delete(entity, store, where);
    }

    /** Deletes rows, of entities with those that the deletion is passed on to. */
    private static int delete(EntityType entity, MemoryRows store, Condition where) {
        if (!Cascades.concerns(entity)) {
            Row deletion = entity.softDeletion().orElse(null);
            return deletion == null
                    ? store.delete(entity.table(), where)
                    : store.update(entity.table(), where.and(entity.own()), deletion);
        }
        boolean own = store.transaction().isEmpty();
        var transaction = own ? store.begin() : store.transaction().get();
        try {
            int deleted = 0;
            for (Row row : List.copyOf(store.rows(entity.table(), where))) {
                deleted += new Cascades(store).delete(entity, row);
            }
            if (own) {
                transaction.commit();
            }
            return deleted;
        } finally {
            if (own && transaction.isOpen()) {
                transaction.rollback();
            }
        }
    }
}
