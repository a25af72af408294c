package dev.zabbet.internal.report;

import dev.zabbet.schema.Column;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;

/**
 * The changes of a footprint that no expectation has spoken of yet: whole rows, and of changed rows that were spoken of the
 * columns that were not. Mutable, not thread-safe.
 */
public final class OpenChanges {
    private final List<Entry> entries;

    private OpenChanges(List<Entry> entries) {
        this.entries = entries;
    }

    public static OpenChanges of(List<Change> changes) {
        return new OpenChanges(changes.stream().map(Entry::new).toList());
    }

    /** One change, and what of it is still open. */
    private static final class Entry {
        final Change change;
        private boolean spokenOf;
        private final Set<String> columns = new LinkedHashSet<>();

        Entry(Change change) {
            this.change = change;
            if (change instanceof Change.Changed changed) {
                // a computed column follows from the others, so that it is no change of its own
                changed.columns().stream()
                        .filter(column -> !change.table().requireColumn(column).isComputed())
                        .forEach(columns::add);
            }
        }

        Entry(Entry other) {
            this.change = other.change;
            this.spokenOf = other.spokenOf;
            this.columns.addAll(other.columns);
        }
    }

    /** A changed row that was spoken of, and its columns that changed and were not. */
    public record Beyond(Change.Changed change, List<String> columns) {}

    /** Returns a copy without what is ignored; what was accounted for stays accounted for. */
    public OpenChanges without(Ignored ignored) {
        List<Entry> rest = new ArrayList<>();
        for (Entry entry : entries) {
            if (ignored.counts(entry.change)) {
                Entry copy = new Entry(entry);
                copy.columns.removeIf(column -> ignored.ignores(entry.change.table(), column));
                rest.add(copy);
            }
        }
        return new OpenChanges(rest);
    }

    /** Returns the rows that nobody spoke of. */
    public List<Change> rows() {
        return entries.stream()
                .filter(entry -> !entry.spokenOf)
                .map(entry -> entry.change)
                .toList();
    }

    /** Returns the changed rows that were spoken of, but not with all columns that changed. */
    public List<Beyond> beyond() {
        return entries.stream()
                .filter(entry -> entry.spokenOf && !entry.columns.isEmpty())
                .map(entry -> new Beyond((Change.Changed) entry.change, List.copyOf(entry.columns)))
                .toList();
    }

    /** Returns the columns of a changed row that no expectation named. */
    public List<String> columns(Change.Changed change) {
        return List.copyOf(entry(change).columns);
    }

    /** Accounts for whole changes. */
    public void close(Collection<? extends Change> changes) {
        for (Change change : changes) {
            Entry entry = entry(change);
            entry.spokenOf = true;
            entry.columns.clear();
        }
    }

    /** Accounts for a changed row, and for those of its columns that an expectation names. */
    public void close(Change.Changed change, ExpectedRow expected) {
        Entry entry = entry(change);
        entry.spokenOf = true;
        expected.columns().stream().map(Column::name).forEach(entry.columns::remove);
    }

    /** Two rows of a table without a key may be alike: the very change is looked for. */
    private Entry entry(Change change) {
        return entries.stream()
                .filter(entry -> entry.change == change)
                .findFirst()
                .orElseThrow();
    }
}
