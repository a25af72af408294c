package dev.zabbet.jdbc.internal.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.jdbc.internal.track.ShadowJournal;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.SQLException;
import org.jspecify.annotations.Nullable;

/** What a stage leaves behind when it ends: the end written down, the lease given back, the connection set back. */
final class StoreClosing {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");

    private final JdbcStore store;
    private boolean closed;

    StoreClosing(JdbcStore store) {
        this.store = store;
    }

    /** A second call does nothing. */
    void close() {
        if (closed) {
            return;
        }
        closed = true;
        try {
            if (store.start != null && store.session.isAliveAgain()) {
                store.rewind(store.start);
            }
            if (store.atEnd == JdbcStore.AtEnd.END) {
                store.session.run("The database cannot be closed", store.dialect::end);
            } else {
                if (store.session.isAliveAgain()) {
                    store.bringCountersBack();
                }
                store.tables.unwatch();
                noteRowsLeft();
            }
        } catch (RuntimeException e) {
            try {
                writeDownTheEnd();
            } catch (RuntimeException unwritten) {
                e.addSuppressed(unwritten);
            }
            throw e;
        } finally {
            store.lease.close();
            if (store.transaction == null && store.atEnd != JdbcStore.AtEnd.END && store.session.isAlive()) {
                store.session.run("The connection cannot be set back", store.dialect::setBack);
            }
            if (store.transaction != null) {
                endTransaction(store.transaction, store.together);
            } else if (store.atEnd != JdbcStore.AtEnd.END) {
                store.session.close();
            }
            store.session.end("This stage on the " + store.place.describe() + " was closed. Open a new one.");
        }
    }

    /** A user may be without the right to; rows that are not known to be of stages are cleared by the database's name only. */
    private void noteRowsLeft() {
        if (store.stored == 0 || store.transaction != null || store.place.inThisProcess() || !store.session.isAlive()) {
            return;
        }
        try {
            store.session.run(
                    "The number of rows that stay cannot be written down",
                    connection -> store.record.rowsLeft(connection, store.record.rowsLeft(connection) + store.stored));
        } catch (ZabbetException e) {
            LOG.log(Level.INFO, "{0} To clear {1} may take its name.", e.getMessage(), store.place.describe());
            if (!store.session.isAlive()) {
                throw e;
            }
        }
    }

    /** Takes out of the database what is ours. */
    DatabaseIdentity undedicate() {
        store.session.run("What Zabbet keeps in the database cannot be taken out of it", connection -> {
            store.dialect.journal(store.tables.schema()).remove(connection);
            ShadowJournal.execute(connection, store.dialect.removing(connection));
        });
        return store.place;
    }

    /** What others change from now on, while the journal is still there, is not for the next stage to undo. */
    private void writeDownTheEnd() {
        Journal journal = store.tables.journal();
        if (journal != null && store.session.isAlive()) {
            store.session.run(
                    "The end of the stage cannot be written down",
                    connection -> store.record.end(
                            connection, (store.start == null ? "keep " : "undo ") + journal.end(connection)));
        }
    }

    private static void endTransaction(SharedTransaction transaction, @Nullable Journal journal) {
        try {
            transaction.end(journal);
        } catch (SQLException e) {
            throw new ZabbetException("The stage's transaction cannot be rolled back: " + e.getMessage(), e);
        }
    }
}
