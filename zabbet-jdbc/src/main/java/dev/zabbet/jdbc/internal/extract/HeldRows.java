package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Rows that were read whole when they were found, so that they need not be read again. Where there are too many, those of the
 * largest table are let go of.
 */
final class HeldRows {
    private static final int MOST = 20_000;

    private final Map<TableKeys, Map<Object, Row>> byTable = new HashMap<>();
    private final Set<TableKeys> tooLarge = new HashSet<>();
    private int count;

    /** Returns the columns by which rows of a table are to be found: all that is written of them, if they are held. */
    List<Column> columns(TableKeys keys) {
        return tooLarge.contains(keys) ? keys.looked() : whole(keys);
    }

    /** Returns the columns that are written, and those that lead to other rows. */
    static List<Column> whole(TableKeys keys) {
        if (keys.looked().size() == keys.table().columns().size()) {
            return keys.looked();
        }
        List<Column> columns = new ArrayList<>(keys.written());
        keys.looked().stream().filter(c -> !columns.contains(c)).forEach(columns::add);
        return columns;
    }

    /** Holds a row that was read with {@link #columns}, if there is room for it. */
    void add(TableKeys keys, Row row) {
        if (tooLarge.contains(keys) || !keys.hasKey(row)) {
            return;
        }
        if (byTable.computeIfAbsent(keys, k -> new HashMap<>()).put(keys.keyOf(row), row) == null && ++count > MOST) {
            TableKeys largest = Collections.max(byTable.entrySet(), Comparator.comparingInt(table -> table.getValue()
                            .size()))
                    .getKey();
            count -= Objects.requireNonNull(byTable.remove(largest)).size();
            tooLarge.add(largest);
        }
    }

    /** Returns all rows of a table that have keys, by these; null if they are not held. */
    @Nullable
    Map<Object, Row> of(TableKeys keys) {
        return tooLarge.contains(keys) ? null : byTable.getOrDefault(keys, Map.of());
    }
}
