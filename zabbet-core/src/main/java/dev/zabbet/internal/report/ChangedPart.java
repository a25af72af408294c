package dev.zabbet.internal.report;

import dev.zabbet.internal.document.DocumentEdit;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Change;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * What changed of a row: a column, or a place in a document that it holds.
 *
 * @param part what changed
 * @param edit what happened in the document; empty for a column
 */
record ChangedPart(RowPart part, Optional<DocumentEdit> edit) {

    /** Returns what changed, in the table's order. */
    static List<ChangedPart> of(Change.Changed change) {
        List<ChangedPart> parts = new ArrayList<>();
        for (String name : change.columns()) {
            Column column = change.table().requireColumn(name);
            if (column.type().kind() == Kind.JSON
                    && change.before().get(name) != null
                    && change.after().get(name) != null) {
                edits(change, column)
                        .forEach(edit ->
                                parts.add(new ChangedPart(new RowPart(column, edit.path()), Optional.of(edit))));
            } else {
                parts.add(new ChangedPart(RowPart.of(column), Optional.empty()));
            }
        }
        return parts;
    }

    private static List<DocumentEdit> edits(Change.Changed change, Column column) {
        String before = String.valueOf(change.before().get(column.name()));
        String after = String.valueOf(change.after().get(column.name()));
        return DocumentEdit.betweenTexts(before, after)
                .orElseGet(() -> List.of(new DocumentEdit(
                        RowPart.of(column).path(),
                        DocumentEdit.Kind.CHANGED,
                        before,
                        after))); // what is no JSON is told whole
    }

    /** Returns the parts that an expectation has to speak of. */
    List<ChangedPart> leaves() {
        return edit.map(one -> one.leaves().stream()
                        .map(leaf -> new ChangedPart(new RowPart(part.column(), leaf.path()), Optional.of(leaf)))
                        .toList())
                .orElse(List.of(this));
    }

    /** Tells what happened: {@code added}, {@code changed} or {@code removed}. */
    String word() {
        return edit.map(one -> one.kind().name().toLowerCase(Locale.ROOT)).orElse("changed");
    }

    /** Returns {@code CONFIRMED → CANCELLED}, or what was added or removed. */
    String values(Change.Changed change) {
        if (edit.isPresent() && edit.get().kind() == DocumentEdit.Kind.ADDED) {
            return RowPart.shown(edit.get().after());
        }
        return edit.isPresent() && edit.get().kind() == DocumentEdit.Kind.REMOVED
                ? RowPart.shown(edit.get().before())
                : before(change) + " → " + after(change);
    }

    private String before(Change.Changed change) {
        return part.isColumn() || edit.isEmpty()
                ? shown(change.before())
                : RowPart.shown(edit.get().before());
    }

    private String after(Change.Changed change) {
        return part.isColumn() || edit.isEmpty()
                ? shown(change.after())
                : RowPart.shown(edit.get().after());
    }

    /** Returns {@code status CONFIRMED → CANCELLED}, {@code doc.guests[2] added: {"name":"Ada"}}. */
    String describe(Change.Changed change) {
        return part.name() + (word().equals("changed") ? " " : " " + word() + ": ") + values(change);
    }

    private String shown(Row row) {
        String name = part.column().name();
        return Text.brief(DisplayValue.of(part.column(), row.get(name)));
    }
}
