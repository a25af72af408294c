package dev.zabbet.internal.memory;

import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Reference.Action;
import dev.zabbet.schema.Reference.Deferral;
import dev.zabbet.schema.Schema;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** References between rows in memory: what happens to referring rows, and what is refused at the end. */
final class MemoryReferences {
    private final Map<String, List<Link>> from = new HashMap<>();
    private final Map<String, List<Link>> to = new HashMap<>();

    /** A reference with the places of its columns. */
    private record Link(Reference reference, MemoryTable child, int[] childAt, MemoryTable target, int[] targetAt) {}

    /** Changes a row that refers to another, as part of the current statement. */
    interface Editor {
        void replace(MemoryTable table, Object key, @Nullable Object[] values);

        void delete(MemoryTable table, Object key);
    }

    MemoryReferences(Schema schema, Map<String, MemoryTable> tables, Collection<MemoryTable> all) {
        for (MemoryTable child : all) {
            for (Reference reference : child.table.references()) {
                MemoryTable target =
                        tables.get(schema.require(reference.target()).name());
                if (target == null) {
                    continue;
                }
                Link link = new Link(
                        reference,
                        child,
                        MemoryTable.positions(child.table, reference.columns()),
                        target,
                        MemoryTable.positions(target.table, reference.targetColumns()));
                from.computeIfAbsent(child.table.name(), t -> new ArrayList<>()).add(link);
                to.computeIfAbsent(target.table.name(), t -> new ArrayList<>()).add(link);
            }
        }
    }

    /**
     * Does to referring rows what their references say, after a row went or changed.
     *
     * @param after the row as it is now; null if it is gone
     */
    void follow(MemoryTable target, @Nullable Object[] before, @Nullable Object @Nullable [] after, Editor editor) {
        for (Link link : to.getOrDefault(target.table.name(), List.of())) {
            Action action = after == null
                    ? link.reference().onDelete()
                    : link.reference().onUpdate();
            if (action == Action.REFUSE || MemoryTable.hasNull(before, link.targetAt())) {
                continue;
            }
            Object key = MemoryTable.part(before, link.targetAt());
            if (after != null && MemoryTable.part(after, link.targetAt()).equals(key)) {
                continue;
            }
            for (Object child : List.copyOf(link.child().find(link.childAt(), key))) {
                @Nullable Object[] row = link.child().get(child);
                if (row == null) {
                    continue;
                }
                if (after == null && action == Action.CASCADE) {
                    editor.delete(link.child(), child);
                } else {
                    editor.replace(link.child(), child, referring(link, row, action, after));
                }
            }
        }
    }

    private static @Nullable Object[] referring(
            Link link, @Nullable Object[] row, Action action, @Nullable Object @Nullable [] target) {
        @Nullable Object[] values = row.clone();
        for (int i = 0; i < link.childAt().length; i++) {
            values[link.childAt()[i]] = switch (action) {
                case CASCADE -> target == null ? null : target[link.targetAt()[i]];
                case SET_DEFAULT -> link.child().filling.defaultOf(link.childAt()[i]);
                case SET_NULL, REFUSE -> null;
            };
        }
        return values;
    }

    /**
     * Tests the references of all rows that were touched.
     *
     * @param atCommit whether those that wait for the commit are meant, or those that do not
     */
    void require(List<MemoryLog.Entry> touched, boolean atCommit) {
        for (MemoryLog.Entry entry : touched) {
            @Nullable Object[] now = entry.table().get(entry.key());
            if (now != null) {
                requireParents(entry.table(), now, atCommit);
            }
            if (entry.before() != null) {
                requireNoOrphans(entry.table(), entry.before(), atCommit);
            }
        }
    }

    private void requireParents(MemoryTable table, @Nullable Object[] row, boolean atCommit) {
        for (Link link : from.getOrDefault(table.table.name(), List.of())) {
            Reference reference = link.reference();
            if (isDue(reference, atCommit)) {
                requireParent(link, reference, table, row);
            }
        }
    }

    private static void requireParent(Link link, Reference reference, MemoryTable table, @Nullable Object[] row) {
        if (MemoryTable.hasNull(row, link.childAt())) {
            boolean allNull = true;
            for (int i : link.childAt()) {
                allNull &= row[i] == null;
            }
            if (!allNull && reference.match() == Reference.Match.FULL) {
                throw MemoryConstraints.refused(
                        table,
                        reference.describe() + " has to be null in all of its columns, or in none (MATCH FULL)",
                        "23503",
                        reference.name(),
                        row);
            }
            return;
        }
        Object key = MemoryTable.part(row, link.childAt());
        if (!link.target().holds(reference.targetColumns(), key)) {
            throw MemoryConstraints.refused(
                    table,
                    reference.describe() + ": there is no "
                            + link.target().table.name() + " with " + String.join(", ", reference.targetColumns())
                            + " = " + key,
                    "23503",
                    reference.name(),
                    row);
        }
    }

    private void requireNoOrphans(MemoryTable target, @Nullable Object[] gone, boolean atCommit) {
        for (Link link : to.getOrDefault(target.table.name(), List.of())) {
            Reference reference = link.reference();
            if (!isDue(reference, atCommit) || MemoryTable.hasNull(gone, link.targetAt())) {
                continue;
            }
            Object key = MemoryTable.part(gone, link.targetAt());
            if (!target.holds(reference.targetColumns(), key)
                    && !link.child().find(link.childAt(), key).isEmpty()) {
                throw MemoryConstraints.refused(
                        target,
                        link.child().table.name() + "." + reference.describe() + ": a "
                                + link.child().table.name() + " still refers to it",
                        "23503",
                        reference.name(),
                        gone);
            }
        }
    }

    private static boolean isDue(Reference reference, boolean atCommit) {
        return atCommit == (reference.deferral() == Deferral.INITIALLY);
    }
}
