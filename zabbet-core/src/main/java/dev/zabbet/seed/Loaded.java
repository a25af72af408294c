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
    private final List<Found> found;

    /**
     * A row that was there already.
     *
     * @param table its table
     * @param label what the seed calls it; empty if it has no label
     * @param key the unique key that it was found by
     * @param differences what is stored otherwise than the seed says, as clauses: {@code "beds is 34, not 30"}
     */
    public record Found(String table, String label, Row key, List<String> differences) {
        /**
         * Copies the differences.
         *
         * @param table its table
         * @param label what the seed calls it
         * @param key the unique key that it was found by
         * @param differences what is stored otherwise than the seed says
         */
        public Found {
            differences = List.copyOf(differences);
        }
    }

    /**
     * Makes the result of a load.
     *
     * @param labelled the labelled rows as stored, by table and label
     * @param counts how many rows of which table there are
     * @param found the rows that were there already
     */
    public Loaded(Map<String, Map<String, Row>> labelled, Map<String, Integer> counts, List<Found> found) {
        this.found = List.copyOf(found);
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

    /** {@return the rows that were there already, of tables whose stored rows are used, with what differs} */
    public List<Found> found() {
        return found;
    }
}
