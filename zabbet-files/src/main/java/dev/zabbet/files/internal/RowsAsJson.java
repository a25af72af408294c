package dev.zabbet.files.internal;

import dev.zabbet.row.Row;
import dev.zabbet.store.Change;
import java.math.BigDecimal;
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

    /** Returns a footprint's changes: the table with the row added or removed, or with the row before and after. */
    public static List<Map<String, Object>> of(List<Change> changes) {
        return changes.stream().map(RowsAsJson::of).toList();
    }

    private static Map<String, Object> of(Change change) {
        Map<String, Object> one = new LinkedHashMap<>();
        one.put("table", change.table().name());
        if (change instanceof Change.Changed changed) {
            one.put("changed", changed.columns());
            one.put("before", of(changed.before()));
            one.put("after", of(changed.after()));
        } else {
            one.put(change.word(), of(change.row()));
        }
        return one;
    }
}
