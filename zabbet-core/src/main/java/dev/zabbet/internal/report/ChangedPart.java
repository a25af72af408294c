package dev.zabbet.internal.report;

import dev.zabbet.error.ZabbetException;
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
        try {
            return DocumentEdit.between(
                    change.before().document(column.name()), change.after().document(column.name()));
        } catch (ZabbetException e) {
            return List.of(new DocumentEdit(
                    RowPart.of(column).path(),
                    DocumentEdit.Kind.CHANGED,
                    change.before().get(column.name()),
                    change.after().get(column.name()))); // what is no JSON is told whole
        }
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
                : shown(change.before()) + " → " + shown(change.after());
    }

    /** Returns {@code status CONFIRMED → CANCELLED}, {@code doc.guests[2] added: {"name":"Ada"}}. */
    String describe(Change.Changed change) {
        return part.name() + (word().equals("changed") ? " " : " " + word() + ": ") + values(change);
    }

    private String shown(Row row) {
        return part.isColumn()
                ? Text.brief(
                        DisplayValue.of(part.column(), row.get(part.column().name())))
                : RowPart.shown(part.in(row));
    }
}
