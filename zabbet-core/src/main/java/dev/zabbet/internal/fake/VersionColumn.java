package dev.zabbet.internal.fake;

import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.type.Kind;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * The version of an object, a property under an annotation named {@code Version}: 0 in a new row (of a time the present), 1
 * more with every save. Who saves or deletes an object of an earlier version is refused (Jakarta Persistence 3.1, 3.5.2
 * "Version attributes").
 */
final class VersionColumn {
    private static final Map<String, String> USUAL = Map.of(
            "jakarta.persistence.Version", "jakarta.persistence.OptimisticLockException",
            "javax.persistence.Version", "javax.persistence.OptimisticLockException",
            "org.springframework.data.annotation.Version", "org.springframework.dao.OptimisticLockingFailureException");

    private final EntityType entity;
    private final Prop prop;
    private final Column column;
    private final MemoryRows store;

    private VersionColumn(EntityType entity, Prop prop, Column column, MemoryRows store) {
        this.entity = entity;
        this.prop = prop;
        this.column = column;
        this.store = store;
    }

    static Optional<VersionColumn> of(EntityType entity, MemoryRows store) {
        return entity.shape().version().flatMap(prop -> entity.columnOf(prop)
                .map(column -> new VersionColumn(entity, prop, column, store)));
    }

    Prop property() {
        return prop;
    }

    /** Returns a new row with its first version. */
    Row first(Row row) {
        return with(row, isTime() ? store.clock().instant() : (Object) 0L);
    }

    /** Returns the changed row with the next version. */
    Row next(Row row) {
        if (isTime()) {
            return with(row, store.clock().instant());
        }
        return with(row, row.get(column.name()) instanceof Number number ? number.longValue() + 1 : 0L);
    }

    /** Returns a row with the version of another. */
    Row withVersionOf(Row row, Row other) {
        Object version = other.get(column.name());
        return version == null ? row : with(row, version);
    }

    /** Returns the condition that the row still has the version that an object was read with. */
    Condition isCurrent(Row row) {
        return new Condition.Equal(column.name(), EntityType.canonical(column, row.get(column.name())));
    }

    /** Refuses an object whose row is there with another version. */
    void requireCurrent(Row row, String what) throws StaleObjectException {
        Condition key = entity.keyOf(row);
        if (store.holds(entity.table(), key) && !store.holds(entity.table(), key.and(isCurrent(row)))) {
            throw stale(row, what);
        }
    }

    StaleObjectException stale(Row row, String what) {
        Object stored = store.rows(entity.table(), entity.keyOf(row)).stream()
                .findFirst()
                .map(found -> found.get(column.name()))
                .orElse(null);
        String message = what + ": the " + entity.table().name() + " was changed by another meanwhile. Its "
                + column.name() + " is " + stored + " now, and the object was read with "
                + row.get(column.name()) + ".\nThe object: " + row;
        ConstraintException refusal = new ConstraintException(
                message, entity.table().name(), column.name(), ConstraintException.STALE, row, null);
        return new StaleObjectException(refusal, usual(message, refusal));
    }

    /** What the library throws that the annotation is of. */
    private Throwable usual(String message, ConstraintException refusal) {
        @Nullable String name = USUAL.get(entity.shape().versionAnnotation());
        if (name != null) {
            try {
                Object made = Class.forName(name, true, entity.type().getClassLoader())
                        .getConstructor(String.class)
                        .newInstance(message);
                if (made instanceof Throwable thrown) {
                    return thrown;
                }
            } catch (ReflectiveOperationException e) {
                return refusal; // the annotation is there without the rest of its library
            }
        }
        return refusal;
    }

    private boolean isTime() {
        return column.type().kind() == Kind.TIMESTAMP || column.type().kind() == Kind.INSTANT;
    }

    private Row with(Row row, Object version) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        row.columns().forEach(name -> values.put(name, row.get(name)));
        values.put(column.name(), version);
        return Row.of(values);
    }
}
