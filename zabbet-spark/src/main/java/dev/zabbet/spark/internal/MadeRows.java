package dev.zabbet.spark.internal;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Factory;
import dev.zabbet.files.RowDocument;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * All rows of a table that one call of {@code zabbet add} would store, numbered from 0 in storing order; a value is made when it is asked
 * for. Planned anew for each thread, which takes milliseconds. Not thread-safe.
 */
final class MadeRows {
    final Table table;
    private final List<Piece> pieces = new ArrayList<>();
    private int size;
    private int present; // the piece that was asked last

    /** Rows that were planned together. */
    private record Piece(
            int first, RowSource rows, int[] at, @Nullable RowSource later, int[] atLater) {}

    private MadeRows(Table table) {
        this.table = table;
    }

    static MadeRows of(Asked asked) {
        Schema schema = asked.tables();
        Table table = schema.require(asked.table());
        Bulk bulk = null;
        Map<String, Factory<Row>> factories = factories(asked, schema);
        for (Asked.Count count : asked.rows()) {
            String name = schema.require(count.table()).name();
            Factory<Row> known = factories.remove(name);
            Factory<Row> rows = known == null ? Factory.forTable(name) : known;
            bulk = bulk == null ? Bulk.of(count.rows(), rows) : bulk.and(count.rows(), rows);
        }
        if (!factories.isEmpty()) {
            throw new ZabbetException("The option defaults speaks of " + String.join(", ", factories.keySet())
                    + ", and the option rows does not.");
        }
        Bulk all = Objects.requireNonNull(bulk);
        try (Stage stage = Memory.stage(schema).inVariation(asked.variation())) {
            Load load = stage.planned(asked.filled() ? all.filled() : all);
            MadeRows made = new MadeRows(table);
            List<Load.Fill> fills = new ArrayList<>(load.updates());
            load.inserts().stream()
                    .filter(rows -> rows.table().name().equals(table.name()))
                    .forEach(rows -> made.add(rows, fills));
            return made;
        }
    }

    private static Map<String, Factory<Row>> factories(Asked asked, Schema schema) {
        Map<String, Factory<Row>> factories = new TreeMap<>();
        RowDocument.of("the option defaults", asked.defaults())
                .factories()
                .forEach((table, factory) -> factories.put(schema.require(table).name(), factory));
        return factories;
    }

    /** Columns of references that run against the storing order come later, for the same rows in the same order. */
    private void add(RowSource rows, List<Load.Fill> fills) {
        Load.Fill fill = fills.stream()
                .filter(one -> one.rows().table().name().equals(table.name())
                        && one.rows().size() == rows.size()
                        && isOf(one, rows))
                .findFirst()
                .orElse(null);
        fills.remove(fill);
        RowSource later = fill == null ? null : fill.rows();
        pieces.add(new Piece(
                size,
                rows,
                positions(rows, 0),
                later,
                fill == null ? new int[0] : positions(fill.rows(), fill.keyColumns())));
        size = Math.addExact(size, rows.size());
    }

    private static boolean isOf(Load.Fill fill, RowSource rows) {
        if (rows.size() == 0) {
            return true;
        }
        for (int key = 0; key < fill.keyColumns(); key++) {
            int at = rows.columns().indexOf(fill.rows().columns().get(key));
            if (at < 0 || !Objects.equals(rows.value(0, at), fill.rows().value(0, key))) {
                return false;
            }
        }
        return true;
    }

    private int[] positions(RowSource rows, int from) {
        int[] at = new int[table.columns().size()];
        Arrays.fill(at, -1);
        for (int i = from; i < rows.columns().size(); i++) {
            at[table.requirePosition(rows.columns().get(i).name())] = i;
        }
        return at;
    }

    int size() {
        return size;
    }

    /** Returns the value of a column of a row, in its form in memory; null where it is left to the database. */
    @Nullable
    Object value(int row, int column) {
        Piece piece = piece(row);
        int own = row - piece.first();
        RowSource later = piece.later();
        if (later != null && piece.atLater()[column] >= 0) {
            return later.value(own, piece.atLater()[column]);
        }
        int at = piece.at()[column];
        return at < 0 ? null : piece.rows().value(own, at);
    }

    /** Puts the values of a column of some rows into a column of a batch. */
    void fill(MadeColumn to, int column, int from, int count) {
        to.clear();
        int done = 0;
        while (done < count) {
            Piece piece = piece(from + done);
            int own = from + done - piece.first();
            int some = Math.min(count - done, piece.rows().size() - own);
            RowSource later = piece.later();
            int at = piece.at()[column];
            if (later != null && piece.atLater()[column] >= 0) {
                to.fill(later, piece.atLater()[column], own, done, some);
            } else if (at >= 0) {
                to.fill(piece.rows(), at, own, done, some);
            } else {
                to.fillNull(done, some);
            }
            done += some;
        }
    }

    private Piece piece(int row) {
        Piece piece = pieces.get(present);
        while (row < piece.first()) {
            piece = pieces.get(--present);
        }
        while (row >= piece.first() + piece.rows().size()) {
            piece = pieces.get(++present);
        }
        return piece;
    }

    /**
     * Returns the rows whose numbered key is from {@code least} to {@code most}, as the first and the one behind the last; all rows if the
     * key is not numbered row by row.
     */
    int[] rowsOfKeys(long least, long most) {
        Column key = table.numberedColumn().orElse(null);
        if (key == null || pieces.size() != 1 || size == 0) {
            return new int[] {0, size};
        }
        int column = table.requirePosition(key.name());
        boolean counted = value(0, column) instanceof Long first
                && value(size - 1, column) instanceof Long last
                && last - first == size - 1;
        if (!counted) {
            return new int[] {0, size};
        }
        long first = (Long) Objects.requireNonNull(value(0, column));
        long last = first + size - 1;
        long from = Math.max(first, least);
        long to = Math.min(last, most);
        return from > to ? new int[] {0, 0} : new int[] {(int) (from - first), (int) (to - first + 1)};
    }
}
