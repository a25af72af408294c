package dev.zabbet.internal.report;

import dev.zabbet.internal.document.RowPart;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * What of expected rows counts: columns, and places in their documents.
 *
 * @param selected what counts alone; empty if all does
 * @param ignored what does not count
 */
public record Counted(Optional<List<RowPart>> selected, List<RowPart> ignored) {
    public static final Counted ALL = new Counted(Optional.empty(), List.of());

    public Counted select(List<RowPart> parts) {
        return new Counted(Optional.of(List.copyOf(parts)), ignored);
    }

    public Counted ignoring(List<RowPart> parts) {
        List<RowPart> all = new ArrayList<>(ignored);
        all.addAll(parts);
        return new Counted(selected, List.copyOf(all));
    }

    /** Tells whether it names places in documents, and not columns alone. */
    public boolean hasPlaces() {
        return ignored.stream().anyMatch(part -> !part.isColumn())
                || selected.stream().flatMap(List::stream).anyMatch(part -> !part.isColumn());
    }

    /** Tells whether a part counts as it is. */
    public boolean counts(RowPart part) {
        return ignored.stream().noneMatch(other -> other.covers(part))
                && selected.map(all -> all.stream().anyMatch(other -> other.covers(part)))
                        .orElse(true);
    }

    /** Returns the places below a part that count alone, where the part does not as a whole. */
    List<RowPart> below(RowPart part) {
        return selected.orElse(List.of()).stream()
                .filter(other -> part.covers(other) && !other.path().isPattern())
                .filter(this::counts)
                .toList();
    }

    /** Returns what does not count of a document that stands at a part. */
    List<RowPart> ignoredIn(RowPart part) {
        return ignored.stream()
                .filter(other -> !other.isColumn()
                        && other.column().name().equals(part.column().name()))
                .toList();
    }
}
