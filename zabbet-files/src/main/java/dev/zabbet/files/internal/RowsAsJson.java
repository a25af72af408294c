package dev.zabbet.files.internal;

import dev.zabbet.internal.document.DocumentEdit;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Change;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Rows and changes as trees that {@link JsonTree} writes. */
public final class RowsAsJson {
    private RowsAsJson() {}

    /** Returns a row as JSON has it: numbers, truth values, lists and null, all else as text. */
    public static Map<String, @Nullable Object> of(Row row) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        row.columns().forEach(column -> values.put(column, of(row.get(column))));
        return values;
    }

    private static @Nullable Object of(@Nullable Object value) {
        if (value instanceof byte[] bytes) {
            return "0x" + HexFormat.of().formatHex(bytes);
        }
        if (value instanceof List<?> list) {
            return list.stream().map(RowsAsJson::of).toList();
        }
        if (value == null || value instanceof Boolean || (value instanceof Number && !(value instanceof BigDecimal))) {
            return value;
        }
        return value.toString();
    }

    /**
     * Returns a footprint's changes: the table with the row added or removed, or with the row before and after, and the places that
     * changed in its documents.
     */
    public static List<Map<String, Object>> of(List<Change> changes) {
        return changes.stream().map(RowsAsJson::of).toList();
    }

    /** What changed in the documents of a row: each place with what stood there and what stands there now. */
    private static List<Map<String, @Nullable Object>> places(Change.Changed changed) {
        List<Map<String, @Nullable Object>> places = new ArrayList<>();
        for (String name : changed.columns()) {
            Column column = changed.table().requireColumn(name);
            if (column.type().kind() == Kind.JSON) {
                List<DocumentEdit> edits = DocumentEdit.between(
                        PlainDocument.read(changed.before().get(name)),
                        PlainDocument.read(changed.after().get(name)));
                for (DocumentEdit edit : edits) {
                    Map<String, @Nullable Object> place = new LinkedHashMap<>();
                    place.put("place", name + edit.path());
                    if (edit.kind() != DocumentEdit.Kind.ADDED) {
                        place.put("before", edit.before());
                    }
                    if (edit.kind() != DocumentEdit.Kind.REMOVED) {
                        place.put("after", edit.after());
                    }
                    places.add(place);
                }
            }
        }
        return places;
    }

    private static Map<String, Object> of(Change change) {
        Map<String, Object> one = new LinkedHashMap<>();
        one.put("table", change.table().name());
        if (change instanceof Change.Changed changed) {
            one.put("changed", changed.columns());
            List<Map<String, @Nullable Object>> places = places(changed);
            if (!places.isEmpty()) {
                one.put("places", places);
            }
            one.put("before", of(changed.before()));
            one.put("after", of(changed.after()));
        } else {
            one.put(change.word(), of(change.row()));
        }
        return one;
    }
}
