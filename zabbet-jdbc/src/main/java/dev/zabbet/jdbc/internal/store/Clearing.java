package dev.zabbet.jdbc.internal.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.jdbc.internal.guard.LabelTable;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Empties tables, children before their parents. */
final class Clearing {
    /** So many rows that no stage stored are not deleted without a word. */
    private static final int MANY_OF_OTHERS = 1_000;

    private final JdbcStore store;

    Clearing(JdbcStore store) {
        this.store = store;
    }

    void clear(List<Table> emptied) {
        List<Table> order = new ArrayList<>(store.tables.schema().storingOrder().tables());
        Collections.reverse(order);
        order.retainAll(emptied);
        store.session.run("The rows cannot be deleted", connection -> {
            // What nobody watches yet may go without checks, all at once: nothing is left that could refer to anything.
            if (!store.tables.areWatched()
                    && order.size() == store.tables.schema().tables().size()
                    && store.dialect.withoutReferences(connection, () -> clearAll(connection, order))) {
                return;
            }
            try {
                Transactions.atomically(connection, () -> clearAll(connection, order));
            } catch (SQLException e) {
                boolean referred = String.valueOf(e.getSQLState()).startsWith("23")
                        || String.valueOf(e.getMessage()).contains("FOREIGN KEY");
                if (!referred) {
                    throw e;
                }
                throw new ZabbetException(
                        "The rows cannot be deleted, and none was: rows of other tables refer to them. The database says: "
                                + String.valueOf(e.getMessage()).replaceAll("; SQL statement:(?s:.*)", ""),
                        e);
            }
        });
    }

    private void clearAll(Connection connection, List<Table> order) throws SQLException {
        int left = order.stream().anyMatch(t -> !t.nature().triggers().isEmpty()) ? order.size() : 1;
        boolean more = true;
        while (more && left-- > 0) { // a trigger may store rows when others are deleted
            more = false;
            for (Table table : order) {
                more |= new TableSql(store.dialect, table).clear(connection) > 0;
            }
        }
        new LabelTable(store.dialect).forgetNotes(connection);
    }

    void clear(List<Table> emptied, @Nullable String mayLose) {
        if (mayLose != null && !mayLose.equals(store.place.lastPart())) {
            throw new ZabbetException(
                    "The database is named " + store.place.lastPart() + ", not " + mayLose + ". Nothing was deleted.");
        }
        long held = emptied.stream().mapToLong(store::count).sum();
        long left = store.session.call("The number of rows that stages left cannot be read", store.record::rowsLeft);
        if (mayLose == null && !store.place.inThisProcess() && held - left > MANY_OF_OTHERS) {
            throw new ZabbetException(
                    "The " + store.place.describe() + " holds " + held + " rows, and stages left " + left
                            + " of them there: the others came from elsewhere since it was dedicated to tests. Nothing was deleted."
                            + " If all may be lost, say so by its name:\n  zabbet clear … --may-lose "
                            + store.place.lastPart());
        }
        clear(emptied);
        store.session.run("The counters cannot be set", connection -> {
            store.counters.restart(connection, emptied);
            if (left > 0 && emptied.size() == store.tables.schema().tables().size()) {
                store.record.rowsLeft(connection, 0);
            }
        });
    }
}
