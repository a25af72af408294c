package dev.zabbet.internal.fake;

import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.memory.MemoryTransaction;
import dev.zabbet.row.Row;
import java.util.ArrayList;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * A unit of work: what is added, changed and removed is written at flush or commit, in a transaction. Objects read through
 * it that were changed since are written too, where the interface has no method to store a changed object.
 */
final class UnitOfWork {
    private static final Set<String> BEGIN = Set.of("begin", "beginTransaction", "start", "open", "startTransaction");
    private static final Set<String> FLUSH = Set.of("flush", "writeAll", "sync");
    private static final Set<String> COMMIT = Set.of("commit", "complete", "saveChanges", "commitTransaction", "done");
    private static final Set<String> ROLLBACK =
            Set.of("rollback", "abort", "discard", "discardChanges", "rollbackTransaction", "cancelChanges");
    private static final Set<String> CLOSE = Set.of("close", "dispose");

    private final MemoryRows store;
    private final boolean writesChanges;
    private final List<Pending> pending = new ArrayList<>();
    private final IdentityHashMap<Object, Read> read = new IdentityHashMap<>();

    /** Something to write at the next flush. */
    interface Pending {
        void write() throws Throwable;
    }

    private record Read(EntityType entity, Row row) {}

    UnitOfWork(MemoryRows store, boolean writesChanges) {
        this.store = store;
        this.writesChanges = writesChanges;
    }

    /** Tells whether an interface is one: whether it has a commit, a flush or a rollback. */
    static boolean isUnit(Class<?> type) {
        for (var method : type.getMethods()) {
            boolean ends = FLUSH.contains(method.getName())
                    || COMMIT.contains(method.getName())
                    || ROLLBACK.contains(method.getName());
            if (ends && method.getParameterCount() == 0) {
                return true;
            }
        }
        return false;
    }

    /** Returns what a method of the unit itself does; empty for any other. */
    Optional<Behaviour> behaviour(Signature signature) {
        String name = signature.name();
        if (signature.size() != 0) {
            return Optional.empty();
        }
        Class<?> result = signature.resultClass();
        if (BEGIN.contains(name)) {
            return Optional.of(arguments -> {
                store.begin();
                return null;
            });
        }
        if (FLUSH.contains(name)) {
            return Optional.of(arguments -> Answer.count(result, flush()));
        }
        if (COMMIT.contains(name)) {
            return Optional.of(arguments -> {
                int written = flush();
                store.transaction().ifPresent(MemoryTransaction::commit);
                return Answer.count(result, written);
            });
        }
        if (ROLLBACK.contains(name) || CLOSE.contains(name)) {
            return Optional.of(arguments -> {
                pending.clear();
                read.clear();
                store.transaction().ifPresent(MemoryTransaction::rollback);
                return null;
            });
        }
        return Optional.empty();
    }

    /** Keeps a change until the next flush; its result is not known before. */
    synchronized void later(Pending change) {
        pending.add(change);
    }

    /** Remembers an object as it was read. */
    synchronized void noteRead(EntityType entity, @Nullable Object object) {
        if (writesChanges
                && object != null
                && entity.type().isInstance(object)
                && entity.shape().isChangeable()) {
            read.put(object, new Read(entity, entity.row(object)));
        }
    }

    /** Writes what was kept; the first that is refused is thrown, and nothing of it stays kept. */
    synchronized int flush() throws Throwable {
        if (store.transaction().isEmpty() && (!pending.isEmpty() || !read.isEmpty())) {
            store.begin();
        }
        int written = 0;
        try {
            for (Pending change : pending) {
                change.write();
                written++;
            }
            for (Map.Entry<Object, Read> entry : read.entrySet()) {
                EntityType entity = entry.getValue().entity();
                Row now = entity.row(entry.getKey());
                if (!now.equals(entry.getValue().row())) {
                    write(entry.getKey(), entity, entry.getValue().row(), now, store);
                    entry.setValue(new Read(entity, entity.row(entry.getKey())));
                    written++;
                }
            }
            return written;
        } finally {
            pending.clear();
        }
    }

    /** Stores what was changed of an object, if nobody else has changed its row. */
    static void write(Object object, EntityType entity, Row before, Row now, MemoryRows store)
            throws StaleObjectException {
        VersionColumn version = VersionColumn.of(entity, store).orElse(null);
        if (version == null) {
            entity.update(entity.keyOf(before), now);
            return;
        }
        Row next = version.next(before);
        Row changed = version.withVersionOf(now, next);
        if (entity.update(entity.keyOf(before).and(version.isCurrent(before)), changed) == 0) {
            throw version.stale(before, "flush");
        }
        Row stored = store.rows(entity.table(), entity.keyOf(changed)).get(0);
        entity.shape().write(object, version.property(), entity.shape().read(entity.plain(stored), version.property()));
    }
}
