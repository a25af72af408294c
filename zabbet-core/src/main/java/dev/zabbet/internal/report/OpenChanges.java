package dev.zabbet.internal.report;

import dev.zabbet.internal.text.Words;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;

/**
 * The changes of a footprint that no expectation has spoken of yet: whole rows, and of changed rows that were spoken of the
 * parts that were not: columns, and of documents the places that changed. Mutable, not thread-safe.
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
        private final Set<ChangedPart> parts = new LinkedHashSet<>();

        Entry(Change change) {
            this.change = change;
            if (change instanceof Change.Changed changed) {
                // a computed column follows from the others, so that it is no change of its own
                ChangedPart.of(changed).stream()
                        .filter(one -> !one.part().column().isComputed())
                        .flatMap(one -> one.leaves().stream())
                        .forEach(parts::add);
            }
        }

        Entry(Entry other) {
            this.change = other.change;
            this.spokenOf = other.spokenOf;
            this.parts.addAll(other.parts);
        }
    }

    /** A changed row that was spoken of, and what of it changed and was not. */
    public record Beyond(Change.Changed change, List<ChangedPart> parts) {
        /** Returns {@code 2 columns}, or {@code 5 places} if some are in documents. */
        public static String count(List<Beyond> rows) {
            List<ChangedPart> all =
                    rows.stream().flatMap(row -> row.parts().stream()).toList();
            boolean columns = all.stream().allMatch(one -> one.part().isColumn());
            return Words.count(all.size(), columns ? "column" : "place");
        }
    }

    /** Returns a copy without what is ignored; what was accounted for stays accounted for. */
    public OpenChanges without(Ignored ignored) {
        List<Entry> rest = new ArrayList<>();
        for (Entry entry : entries) {
            if (ignored.counts(entry.change)) {
                Entry copy = new Entry(entry);
                copy.parts.removeIf(leaf -> ignored.ignores(entry.change.table(), leaf.part()));
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
                .filter(entry -> entry.spokenOf && !entry.parts.isEmpty())
                .map(entry -> new Beyond((Change.Changed) entry.change, List.copyOf(entry.parts)))
                .toList();
    }

    /** Returns what of a changed row no expectation named. */
    public List<String> columns(Change.Changed change) {
        return entry(change).parts.stream().map(leaf -> leaf.part().name()).toList();
    }

    /** Accounts for whole changes. */
    public void close(Collection<? extends Change> changes) {
        for (Change change : changes) {
            Entry entry = entry(change);
            entry.spokenOf = true;
            entry.parts.clear();
        }
    }

    /** Accounts for a changed row, and for what of it an expectation names. */
    public void close(Change.Changed change, ExpectedRow expected) {
        Entry entry = entry(change);
        entry.spokenOf = true;
        expected.parts().forEach(named -> entry.parts.removeIf(leaf -> named.covers(leaf.part())));
    }

    /** Two rows of a table without a key may be alike: the very change is looked for. */
    private Entry entry(Change change) {
        return entries.stream()
                .filter(entry -> entry.change == change)
                .findFirst()
                .orElseThrow();
    }
}
