package dev.zabbet.seed;

import dev.zabbet.row.Row;
import java.util.Map;
import java.util.Optional;

/**
 * A row of a seed. Columns that it does not name are filled as a factory fills them.
 *
 * @param table the table's name
 * @param label what others refer to it by, unique in the table
 * @param values plain values, null, or {@link SeedValue}s
 * @param times how many rows like this there are, at least 1; a labelled row is there once
 * @param place where it stands, for messages
 * @param places where its columns stand, for messages
 */
public record SeedRow(
        String table,
        Optional<String> label,
        Row values,
        int times,
        SourceLocation place,
        Map<String, SourceLocation> places) {
    /**
     * Copies the places.
     *
     * @param table the table's name; case matters only where two names differ in nothing else
     * @param label what other rows refer to it by, unique in the table
     * @param values the columns' values
     * @param times how many such rows, at least 1
     * @param place where it stands, for messages
     * @param places where its columns stand, for messages
     */
    public SeedRow {
        places = Map.copyOf(places);
    }

    /**
     * {@return where a column stands; where the row stands, if the column is not written down}
     *
     * @param column the column's name
     */
    public SourceLocation placeOf(String column) {
        return places.getOrDefault(column, place);
    }
}
