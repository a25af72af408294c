package dev.zabbet.extract;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * What an extract took, and why. Immutable.
 *
 * @param database what and where the database is, without a password
 * @param tables how many rows of which table there are, in storing order
 * @param reasons why they were taken, by table: the words for it, with the number of rows that came for that reason first
 * @param columns what became of the columns, in the order of the tables
 * @param notes what cost more than it need have, and how to mend it
 */
public record ExtractSummary(
        String database,
        Map<String, Integer> tables,
        Map<String, Map<String, Integer>> reasons,
        List<MaskedColumn> columns,
        List<String> notes) {

    /**
     * Copies what it is given.
     *
     * @param database what and where the database is
     * @param tables how many rows of which table there are
     * @param reasons why they were taken
     * @param columns what became of the columns
     * @param notes what cost more than it need have
     */
    public ExtractSummary {
        tables = new LinkedHashMap<>(tables);
        reasons = new LinkedHashMap<>(reasons);
        columns = List.copyOf(new ArrayList<>(columns));
        notes = List.copyOf(notes);
    }

    /** {@return how many rows there are in all} */
    public int rows() {
        return tables.values().stream().mapToInt(Integer::intValue).sum();
    }
}
