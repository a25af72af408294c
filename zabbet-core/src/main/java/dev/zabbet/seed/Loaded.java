package dev.zabbet.seed;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** What a seed has become: its labelled rows as stored, and how many rows of which table there are. Immutable. */
public final class Loaded {
    private final Map<String, Map<String, Row>> labelled;
    private final Map<String, Integer> counts;

    /**
     * Makes the result of a load.
     *
     * @param labelled the labelled rows as stored, by table and label
     * @param counts how many rows of which table there are
     */
    public Loaded(Map<String, Map<String, Row>> labelled, Map<String, Integer> counts) {
        this.labelled = labelled;
        this.counts = counts;
    }

    /**
     * {@return a labelled row as stored, with all columns}
     *
     * @param label the row's label
     * @throws UnknownNameException if there is no such label
     * @throws ZabbetException if rows of several tables have it
     */
    public Row row(String label) {
        List<String> tables = new ArrayList<>();
        List<String> known = new ArrayList<>();
        labelled.forEach((table, rows) -> {
            known.addAll(rows.keySet());
            if (rows.containsKey(label)) {
                tables.add(table);
            }
        });
        if (tables.isEmpty()) {
            throw new UnknownNameException("labelled row", label, known);
        }
        if (tables.size() > 1) {
            throw new ZabbetException("Rows of " + String.join(" and ", tables) + " have the label '" + label
                    + "'; name the table: row(\"" + tables.get(0) + "\", \"" + label + "\").");
        }
        return row(tables.get(0), label);
    }

    /**
     * {@return a labelled row of a table as stored, with all columns}
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param label the row's label
     * @throws UnknownNameException if there is no such label in the table
     */
    public Row row(String table, String label) {
        Map<String, Row> rows = labelled.getOrDefault(table, Map.of());
        Row row = rows.get(label);
        if (row == null) {
            throw new UnknownNameException("labelled row of " + table, label, rows.keySet());
        }
        return row;
    }

    /**
     * {@return all labelled rows as stored, with all columns: by the name of the table, then by the label, both in the order
     * in which they were stored}
     */
    public Map<String, Map<String, Row>> labelled() {
        Map<String, Map<String, Row>> copy = new LinkedHashMap<>();
        labelled.forEach((table, rows) -> copy.put(table, new LinkedHashMap<>(rows)));
        return copy;
    }

    /** {@return how many rows of each table were stored, generated parents included, in storing order} */
    public Map<String, Integer> counts() {
        return new LinkedHashMap<>(counts);
    }
}
