package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.jdbc.internal.dialect.CurrentRows;
import dev.zabbet.jdbc.internal.dialect.Journal.Event;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Optional;
import java.util.TreeMap;

/** H2 calls no trigger for TRUNCATE: a table is found of which rows are missing that no event took away. */
final class H2Truncations {
    private final NavigableMap<Long, Map<Table, Long>> counts = new TreeMap<>();
    private Map<Table, Long> sizes = Map.of();

    /** Takes note of how many rows the tables have now. */
    void look(Map<Table, Long> now) {
        sizes = now;
    }

    /** Keeps the last look as what was so at a position. */
    void keep(long position) {
        counts.put(position, sizes);
    }

    void forget(long after) {
        counts.tailMap(after, false).clear();
    }

    void forgetAll() {
        counts.clear();
    }

    /** Returns a table with fewer rows than events tell, as far as the last look says. */
    Optional<Table> suspected(long after, List<Event> events) {
        Map<Table, Long> before = counts.get(after);
        if (before == null) {
            return Optional.empty();
        }
        Map<Table, Long> wanted = new LinkedHashMap<>(before);
        wanted.keySet().removeIf(table -> table.keyColumns().isEmpty());
        for (Event event : events) {
            if (event.before() == null) {
                wanted.merge(event.table(), 1L, Long::sum);
            } else if (event.after() == null) {
                wanted.merge(event.table(), -1L, Long::sum);
            }
        }
        return wanted.entrySet().stream()
                .filter(entry -> sizes.getOrDefault(entry.getKey(), 0L) < entry.getValue())
                .map(Map.Entry::getKey)
                .findFirst();
    }

    /**
     * Tells whether rows are missing that nobody has touched. Where several transactions met on a row, H2 has told of changes that
     * did not happen, so that counting events says nothing; which keys they speak of is right.
     */
    boolean isTruncated(Table table, long after, List<Event> events, List<Row> contents) {
        Map<Row, Boolean> touched = new HashMap<>(); // and whether it was there
        for (Event event : events) {
            if (event.table().equals(table)) {
                if (event.before() != null) {
                    touched.putIfAbsent(CurrentRows.key(table, event.before()), true);
                }
                if (event.after() != null) {
                    touched.putIfAbsent(CurrentRows.key(table, event.after()), false);
                }
            }
        }
        long then = counts.getOrDefault(after, Map.of()).getOrDefault(table, 0L)
                - touched.values().stream().filter(there -> there).count();
        long now = contents.stream()
                .filter(row -> !touched.containsKey(CurrentRows.key(table, row)))
                .count();
        return now < then;
    }
}
