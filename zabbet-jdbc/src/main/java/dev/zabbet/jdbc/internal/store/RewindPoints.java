package dev.zabbet.jdbc.internal.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.OpenTransactions;
import dev.zabbet.jdbc.internal.dialect.SchemaChangedException;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.jdbc.internal.guard.LabelTable;
import dev.zabbet.jdbc.internal.script.SqlScript;
import dev.zabbet.jdbc.internal.track.RetainedRows;
import dev.zabbet.jdbc.internal.track.Tracker;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Difference;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.RewindPoint;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Where a stage can come back to, and how. Where the script of the tables is known and they hold few rows, the rows are kept,
 * so that tables which were changed since can be made again.
 */
final class RewindPoints {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");
    private static final int MOST_ATTEMPTS = 20; // to set counters while others write

    private final JdbcStore store;
    private final @Nullable SqlScript script;
    private @Nullable RetainedRows base;
    private int scripted; // the generation of tables that the script has made
    private Tracker.@Nullable Position lastMarked;
    private List<Change> lastChanges = List.of();

    RewindPoints(JdbcStore store, @Nullable SqlScript script) {
        this.store = store;
        this.script = script;
    }

    /** What is needed to come back; position and generation are others once the tables were made again. */
    private static final class Point implements RewindPoint {
        final Counters.State numbers;
        Tracker.Position position;
        int generation;
        int labels;
        long stored;
        int prepared;
        int taken;

        @Nullable
        RetainedRows base;

        List<Change> sinceBase;

        Point(
                Tracker.Position position,
                int generation,
                Counters.State numbers,
                @Nullable RetainedRows base,
                List<Change> sinceBase) {
            this.position = position;
            this.generation = generation;
            this.numbers = numbers;
            this.base = base;
            this.sinceBase = sinceBase;
        }
    }

    RewindPoint mark() {
        Tracker.Position position = store.tables.point();
        Counters.State numbers = store.session.call(
                "The counters cannot be read",
                connection -> store.counters.state(
                        connection,
                        store.transaction == null,
                        position.sequences().orElse(null)));
        noteContents(position);
        Point point = new Point(position, store.tables.generation(), numbers, base, lastChanges);
        point.labels = store.labelled.size();
        point.stored = store.stored;
        point.prepared = store.prepared.size();
        point.taken = store.dialect.taken();
        return point;
    }

    /** Where the script is known and the rows are few, they are kept, so that changed tables can be made again. */
    private void noteContents(Tracker.Position position) {
        if (script == null || scripted != store.tables.generation()) {
            base = null;
            lastChanges = List.of();
        } else if (lastMarked == null) {
            base = store.session
                    .call(
                            "The rows cannot be read",
                            c -> RetainedRows.read(store.dialect, c, store.tables.schema(), position))
                    .orElse(null);
        } else if (base != null && !position.equals(lastMarked)) {
            lastChanges = store.tables.changes(base.at());
        }
        lastMarked = position;
    }

    void rewind(RewindPoint point) {
        Point to = (Point) point;
        store.stored = to.stored;
        store.prepared.subList(to.prepared, store.prepared.size()).clear();
        if (to.generation != store.tables.generation()) {
            makeAgain(to);
            return;
        }
        try {
            resetCounters(to, store.tables.undo(to.position).orElse(null));
        } catch (SchemaChangedException e) {
            makeAgain(to);
        } catch (ZabbetException e) {
            if (e.getCause() instanceof SQLException) {
                throw new ZabbetException(
                        e.getMessage()
                                + "\nWhat is to be undone stays written down. Once the cause is gone, call rewind again:"
                                + " that is safe, and so is the next stage, which undoes it too.",
                        e.getCause());
            }
            throw e;
        }
    }

    /** Labels of rows that are gone must not come to mean others that get the same keys. */
    private void forgetLabels(Point to) {
        if (store.labelled.size() > to.labels) {
            List<LabelTable.Name> later = store.labelled.subList(to.labels, store.labelled.size());
            store.session.run("The labels cannot be forgotten", connection -> new LabelTable(store.dialect)
                    .forget(connection, later));
            later.clear();
        }
    }

    private void resetCounters(Point to, @Nullable String now) {
        forgetLabels(to);
        store.counters.countFrom(to.numbers);
        if (store.transaction != null) {
            store.session.run("The counters cannot be set", connection -> store.dialect.giveBack(connection, to.taken));
            return;
        }
        store.session.run("The counters cannot be set", connection -> setCountersBack(connection, to.numbers, now));
    }

    /** Whoever stores a row holds its table's counter: a database may break the circle at the cost of who sets it back. */
    private void setCountersBack(Connection connection, Counters.State then, @Nullable String now) throws SQLException {
        String told = now;
        for (int attempt = 1; attempt <= MOST_ATTEMPTS; attempt++) {
            try {
                store.counters.setBack(connection, then, told);
                return;
            } catch (SQLException e) {
                if (!OpenTransactions.isRolledBack(e)) {
                    throw e;
                }
                told = null; // read anew
            }
        }
        throw OpenTransactions.beside(MOST_ATTEMPTS);
    }

    /** The tables are others than at the point: they are made again by the script, with the rows of the point. */
    private void makeAgain(Point to) {
        RetainedRows from = to.base;
        SqlScript statements = script;
        if (from == null || statements == null) {
            throw new ZabbetException("The tables of " + store.place.describe()
                    + " were changed (CREATE, ALTER or DROP) since this point, so that its rows cannot be told apart from those"
                    + " of now. "
                    + (statements == null
                            ? "A stage that knows the script of its tables makes them again: open it by"
                                    + " Jdbc.stage(dataSource, script, …)."
                            : "To make them again, Zabbet would have had to keep more than " + RetainedRows.MOST_ROWS
                                    + " rows, or the tables had been changed before. Change them before the first act, or"
                                    + " open a new stage."));
        }
        long begun = System.nanoTime();
        List<Difference> changed = store.tables.schema().differencesFrom(from.schema());
        Map<Table, List<Row>> rows = from.after(to.sinceBase);
        store.session.run("The tables cannot be made again", connection -> {
            store.dialect.journal(store.tables.schema()).remove(connection);
            store.dialect.dropAll(connection);
            statements.run(connection);
            store.tables.becomes(connection, store.dialect.readSchema(connection));
        });
        List<Difference> left = store.tables.schema().differencesFrom(from.schema());
        if (!left.isEmpty()) {
            throw new ZabbetException(
                    "The tables of " + store.place.describe() + " were made again by their script, but they had"
                            + " been changed after it, before the rewind point: " + left.get(0)
                            + ". Put all that makes the tables into the script.");
        }
        store.session.run("The rows cannot be stored again", connection -> putBack(connection, rows));
        resetCounters(to, null);
        to.position = store.tables.here();
        to.generation = store.tables.generation();
        to.base = new RetainedRows(store.tables.schema(), rows, to.position);
        to.sinceBase = List.of();
        base = to.base;
        lastMarked = to.position;
        lastChanges = List.of();
        scripted = store.tables.generation();
        LOG.log(
                Level.WARNING,
                "The tables of {0} were changed since the rewind point{1}; they were dropped and made again by their"
                        + " script, with {2} rows, in {3} ms.",
                store.place.describe(),
                told(changed),
                rows.values().stream().mapToInt(List::size).sum(),
                (System.nanoTime() - begun) / 1_000_000);
    }

    private static String told(List<Difference> changed) {
        if (changed.isEmpty()) {
            return "";
        }
        Difference first = changed.get(0);
        return " (" + first.place() + " is " + first.here() + " now and was " + first.there() + " then"
                + (changed.size() == 1 ? "" : "; " + (changed.size() - 1) + " more") + ")";
    }

    private void putBack(Connection connection, Map<Table, List<Row>> rows) throws SQLException {
        Transactions.SqlWork work = () -> {
            List<Table> order =
                    new ArrayList<>(store.tables.schema().storingOrder().tables());
            Collections.reverse(order);
            for (Table table : order) {
                new TableSql(store.dialect, table).clear(connection); // the script may store rows of its own
            }
            Collections.reverse(order);
            for (Table table : order) {
                new TableSql(store.dialect, table).restoreAll(connection, rows.getOrDefault(table, List.of()));
            }
        };
        if (!store.dialect.withoutReferences(connection, work)) {
            Transactions.atomically(connection, work);
        }
    }
}
