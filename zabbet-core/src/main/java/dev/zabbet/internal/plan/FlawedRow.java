package dev.zabbet.internal.plan;

import dev.zabbet.row.Row;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Puts a flaw into a row. */
public final class FlawedRow {
    private FlawedRow() {}

    /** Returns a row with some of its columns replaced. */
    public static Row of(Row row, Row flaw) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        row.columns().forEach(column -> values.put(column, row.get(column)));
        flaw.columns().forEach(column -> values.put(column, flaw.get(column)));
        return Row.of(values);
    }

    /** Returns a row that has the key of another. */
    public static Row like(Row row, Row other, List<String> key) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        key.forEach(column -> values.put(column, other.get(column)));
        return of(row, Row.of(values));
    }
}
