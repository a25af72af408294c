package dev.zabbet.internal.seed;

import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SeedValue;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** A row of a seed on its way: its values so far, as their columns' types. */
final class SeedEntry {
    final SeedRow row;
    final Table table;
    final Map<String, @Nullable Object> values = new LinkedHashMap<>();
    boolean planned;

    /** Whether a name or value in it is wrong, so that it cannot be planned. */
    boolean wrong;

    SeedEntry(SeedRow row, Table table) {
        this.row = row;
        this.table = table;
    }

    /** Tells whether the seed itself says a value of the column that is not null. */
    boolean says(String column) {
        Object value = values.get(column);
        return row.values().has(column) && value != null && !(value instanceof SeedValue);
    }
}
