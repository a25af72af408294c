package dev.zabbet.internal.fake;

import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.internal.memory.UnflushedChanges;
import dev.zabbet.internal.type.Lifecycle;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Condition;
import dev.zabbet.type.Kind;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;

/**
 * What a provider fills in when it stores an entity: keys that it takes from a sequence or makes itself, and times. Numbers go
 * on behind the largest that was ever stored or given.
 */
final class GeneratedValues implements UnflushedChanges {
    private final Map<String, Long> last = new ConcurrentHashMap<>(); // by tables

    private GeneratedValues() {}

    @Override
    public void flush() {}

    /** Numbers go on from what is stored. */
    @Override
    public void discard() {
        last.clear();
    }

    /** Fills in what an entity lacks before it is stored first. */
    static void beforeInsert(EntityType entity, Object object, MemoryRows store) {
        if (!isConcerned(entity)) {
            return;
        }
        Lifecycle lifecycle = Lifecycle.of(entity.type());
        Lifecycle.call(lifecycle.beforeInsert(), object);
        fillTimes(entity, object, lifecycle.created(), store, true);
        fillTimes(entity, object, lifecycle.changed(), store, false);
        for (Prop prop : entity.key()) {
            Column column = entity.columnOf(prop).orElseThrow();
            boolean own = prop.name().indexOf('.') < 0 && entity.shape().isGenerated(prop) && !column.isNumbered();
            if (own && isUnset(entity.shape().read(object, prop))) {
                entity.shape().write(object, prop, key(entity, prop, column, store));
            }
        }
    }

    /** Fills in what changes with each change. */
    static void beforeUpdate(EntityType entity, Object object, MemoryRows store) {
        if (isConcerned(entity)) {
            Lifecycle lifecycle = Lifecycle.of(entity.type());
            Lifecycle.call(lifecycle.beforeUpdate(), object);
            fillTimes(entity, object, lifecycle.changed(), store, false);
        }
    }

    private static boolean isConcerned(EntityType entity) {
        return entity.shape().isEntity() && entity.shape().isChangeable();
    }

    private static boolean isUnset(@Nullable Object key) {
        return key == null || (key instanceof Number number && number.longValue() == 0);
    }

    private static Object key(EntityType entity, Prop prop, Column column, MemoryRows store) {
        long number = next(entity, column, store);
        if (JavaValue.kindOf(prop.type()) == Kind.INTEGER || JavaValue.kindOf(prop.type()) == Kind.DECIMAL) {
            return number;
        }
        UUID made = UUID.nameUUIDFromBytes((entity.table().name() + " " + number).getBytes(StandardCharsets.UTF_8));
        return prop.type() == UUID.class ? made : made.toString();
    }

    private static long next(EntityType entity, Column column, MemoryRows store) {
        long stored = 0;
        for (Row row : store.rows(entity.table(), Condition.all())) {
            if (row.get(column.name()) instanceof Number number) {
                stored = Math.max(stored, number.longValue());
            } else {
                stored++;
            }
        }
        if (!(store instanceof MemoryStore memory)) {
            return stored + 1;
        }
        long least = stored;
        return memory.heldBack(GeneratedValues.class, GeneratedValues::new)
                .last
                .merge(entity.table().name(), least + 1, (known, one) -> Math.max(known + 1, one));
    }

    private static void fillTimes(
            EntityType entity, Object object, Set<String> properties, MemoryRows store, boolean onlyUnset) {
        for (String name : properties) {
            Prop prop = entity.shape().find(name).orElse(null);
            if (prop != null && !(onlyUnset && entity.shape().read(object, prop) != null)) {
                Object now = now(prop.type(), store.clock().instant());
                if (now != null) {
                    entity.shape().write(object, prop, now);
                }
            }
        }
    }

    private static @Nullable Object now(Class<?> type, Instant now) {
        if (type == LocalDate.class) {
            return LocalDate.ofInstant(now, ZoneOffset.UTC);
        }
        if (type == LocalDateTime.class) {
            return LocalDateTime.ofInstant(now, ZoneOffset.UTC);
        }
        if (type == OffsetDateTime.class) {
            return now.atOffset(ZoneOffset.UTC);
        }
        if (type == ZonedDateTime.class) {
            return now.atZone(ZoneOffset.UTC);
        }
        if (type == Instant.class) {
            return now;
        }
        if (type == long.class || type == Long.class) {
            return (Object) now.toEpochMilli();
        }
        if (java.util.Date.class.isAssignableFrom(type)) {
            return java.util.Date.from(now);
        }
        return null;
    }
}
