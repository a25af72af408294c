package dev.zabbet.jdbc.internal.track;

import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * All rows of a database at one moment, kept so that its tables can be made again after a test changed them.
 *
 * @param schema the tables
 * @param rows the rows of each table
 * @param at when that was, as the tracker knows it
 */
public record RetainedRows(Schema schema, Map<Table, List<Row>> rows, Tracker.Position at) {
    /** To read more at the first rewind point of every test class would cost more than it saves. */
    public static final int MOST_ROWS = 20_000;

    /** Reads the rows, unless there are more than it pays to keep. */
    public static Optional<RetainedRows> read(
            Dialect dialect, Connection connection, Schema schema, Tracker.Position at) throws SQLException {
        Map<Table, List<Row>> all = new LinkedHashMap<>();
        long found = 0;
        for (Table table : schema.tables()) {
            found += new TableSql(dialect, table).countUpTo(connection, MOST_ROWS + 1);
            if (found > MOST_ROWS) {
                return Optional.empty();
            }
        }
        for (Table table : schema.tables()) {
            List<Row> rows = new ArrayList<>();
            new TableSql(dialect, table).read(connection, Condition.all(), rows::add);
            all.put(table, rows);
        }
        return Optional.of(new RetainedRows(schema, all, at));
    }

    /** Returns the rows as they were after these changes, which began here. */
    public Map<Table, List<Row>> after(List<Change> changes) {
        Map<Table, List<Row>> all = new LinkedHashMap<>();
        rows.forEach((table, of) -> all.put(table, new ArrayList<>(of)));
        for (Change change : changes) {
            List<Row> of = all.computeIfAbsent(change.table(), t -> new ArrayList<>());
            change.rowBefore().ifPresent(of::remove);
            change.rowAfter().ifPresent(of::add);
        }
        return all;
    }
}
