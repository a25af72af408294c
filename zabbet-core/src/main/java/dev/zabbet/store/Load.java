package dev.zabbet.store;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Rows to be stored together, all or none.
 *
 * @param inserts the rows, in an order in which they can be stored
 * @param updates columns that are filled afterwards, where rows refer to each other in a circle
 * @param labels what rows are called, to be found by {@link Store#labelled} later
 * @param notes short texts to be kept beside the rows, to be found by {@link Store#noted} later
 */
public record Load(List<RowSource> inserts, List<Fill> updates, List<Label> labels, List<Note> notes) {
    /**
     * Copies the lists.
     *
     * @param inserts the rows, in an order in which they can be stored
     * @param updates columns that are filled afterwards, where rows refer to each other in a circle
     * @param labels what rows are called
     * @param notes short texts to be kept beside the rows
     */
    public Load {
        inserts = List.copyOf(inserts);
        updates = List.copyOf(updates);
        labels = List.copyOf(labels);
        notes = List.copyOf(notes);
    }

    /**
     * Rows without notes.
     *
     * @param inserts the rows, in an order in which they can be stored
     * @param updates columns that are filled afterwards, where rows refer to each other in a circle
     * @param labels what rows are called
     */
    public Load(List<RowSource> inserts, List<Fill> updates, List<Label> labels) {
        this(inserts, updates, labels, List.of());
    }

    /**
     * Rows without labels.
     *
     * @param inserts the rows, in an order in which they can be stored
     * @param updates columns that are filled afterwards, where rows refer to each other in a circle
     */
    public Load(List<RowSource> inserts, List<Fill> updates) {
        this(inserts, updates, List.of(), List.of());
    }

    /**
     * {@return these rows, with a receiver of their progress}
     *
     * @param progress receives the number of stored rows
     */
    public Load told(Progress progress) {
        if (progress == Progress.NONE) {
            return this;
        }
        List<RowSource> told = inserts.stream()
                .<RowSource>map(rows -> new Told(rows, progress))
                .toList();
        return new Load(told, updates, labels, notes);
    }

    /** {@return how many rows of each table there are, in the order in which they are stored} */
    public Map<String, Integer> counts() {
        Map<String, Integer> counts = new LinkedHashMap<>();
        inserts.forEach(source -> counts.merge(source.table().name(), source.size(), Integer::sum));
        return counts;
    }

    private record Told(RowSource rows, Progress progress) implements RowSource {
        private static final int EVERY = 1 << 10;

        @Override
        public Table table() {
            return rows.table();
        }

        @Override
        public List<Column> columns() {
            return rows.columns();
        }

        @Override
        public int size() {
            return rows.size();
        }

        @Override
        public @Nullable Object value(int row, int column) {
            if (column == 0 && row % EVERY == 0) {
                progress.at(rows.table().name(), row, rows.size());
            }
            return rows.value(row, column);
        }
    }

    /**
     * Columns to fill in rows that are stored already.
     *
     * @param rows the key columns of each row, followed by the columns to fill
     * @param keyColumns how many of the first columns are the key
     */
    public record Fill(RowSource rows, int keyColumns) {}

    /**
     * The label of a row.
     *
     * @param table its table
     * @param label the label, unique in the table; one that another row has goes over to this one
     * @param key its key columns
     */
    public record Label(Table table, String label, Row key) {}

    /**
     * A short text kept beside the rows.
     *
     * @param name its name, at most 200 characters
     * @param text the text, at most 4,000 characters; empty to forget it
     */
    public record Note(String name, Optional<String> text) {}
}
