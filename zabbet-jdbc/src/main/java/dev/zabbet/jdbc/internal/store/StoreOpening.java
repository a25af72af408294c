package dev.zabbet.jdbc.internal.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.internal.connect.DriverDataSource;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.Session;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.jdbc.internal.engine.Engines;
import dev.zabbet.jdbc.internal.guard.Dedication;
import dev.zabbet.jdbc.internal.guard.Lease;
import dev.zabbet.jdbc.internal.guard.StageRecord;
import dev.zabbet.jdbc.internal.script.SqlScript;
import dev.zabbet.jdbc.internal.track.ComparingTracker;
import dev.zabbet.jdbc.internal.track.JournalTracker;
import dev.zabbet.jdbc.internal.track.Tracker;
import dev.zabbet.jdbc.internal.track.TransactionTracker;
import dev.zabbet.schema.Schema;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** Opens stores: finds the engine, requires the mark, takes the lease, and settles what a dead process left. */
public final class StoreOpening {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");

    private StoreOpening() {}

    public static JdbcStore open(DataSource dataSource, JdbcStore.AtEnd atEnd, @Nullable SqlScript script) {
        return open(dataSource, atEnd, script, Map.of());
    }

    /**
     * Opens a store.
     *
     * @param keySequences sequences that the application takes keys from itself, by the names of tables
     */
    public static JdbcStore open(
            DataSource dataSource,
            JdbcStore.AtEnd atEnd,
            @Nullable SqlScript script,
            Map<String, String> keySequences) {
        return open(dataSource, atEnd, script, keySequences, Long.getLong("zabbet.leaseSeconds", 20));
    }

    public static JdbcStore open(
            DataSource dataSource, JdbcStore.AtEnd atEnd, @Nullable SqlScript script, long leaseSeconds) {
        return open(dataSource, atEnd, script, Map.of(), leaseSeconds);
    }

    /**
     * Opens a store.
     *
     * @param script what made the tables, as far as that is known
     * @param leaseSeconds how long to wait for another stage to end
     * @throws Lease.TakenException if it does not
     */
    private static JdbcStore open(
            DataSource dataSource,
            JdbcStore.AtEnd atEnd,
            @Nullable SqlScript script,
            Map<String, String> keySequences,
            long leaseSeconds) {
        Session session = new Session(dataSource);
        Lease held = null;
        Dialect prepared = null;
        try {
            Dialect dialect = session.call("The database cannot be opened", Engines::of);
            session.speaks(dialect);
            DatabaseIdentity place = session.call("The database cannot be opened", dialect::place);
            Schema before = session.call("The schema cannot be read", dialect::readSchema);
            session.run("The database's mark cannot be read", c -> Dedication.require(c, dialect, place, before));
            List<DatabaseIdentity> places =
                    session.call("The databases of the schema cannot be found", c -> dialect.places(c, place, before));
            Lease lease = Lease.take(session, dialect, places, leaseSeconds);
            held = lease;
            Schema schema = lease.hasWaited() // for one who may have made tables
                    ? session.call("The schema cannot be read", dialect::readSchema)
                    : before;
            requireAnother(dataSource);
            prepared = dialect;
            session.run("The connection cannot be set up", dialect::prepare);
            JdbcStore store = new JdbcStore(
                    dataSource, session, dialect, place, lease, schema, null, atEnd, script, keySequences);
            session.run("The database cannot be looked at", c -> dialect.requireWhole(c, place, schema));
            if (!schema.leftOut().isEmpty()) {
                LOG.log(
                        Level.WARNING,
                        "Tables of {0} are left out, neither stored in, watched nor rewound: {1}.",
                        place.describe(),
                        schema.leftOut().entrySet().stream()
                                .map(left -> left.getKey() + " (" + left.getValue() + ")")
                                .collect(Collectors.joining(", ")));
            }
            settleLeftovers(store);
            session.onRegain(store::regain);
            session.run("The schema cannot be read", store.tables::note);
            if (atEnd == JdbcStore.AtEnd.REWIND) {
                store.start = store.mark();
            }
            return store;
        } catch (RuntimeException e) {
            try (session) {
                if (held != null) {
                    held.close();
                }
                if (prepared != null && session.isAlive()) {
                    session.run("The connection cannot be set back", prepared::setBack);
                }
            } catch (RuntimeException left) {
                e.addSuppressed(left);
            }
            throw e;
        }
    }

    /** Refuses a data source that has no second connection to give while the stage holds one. */
    private static void requireAnother(DataSource dataSource) {
        if (dataSource instanceof DriverDataSource) {
            return;
        }
        try {
            dataSource.getConnection().close();
        } catch (SQLException e) {
            throw new ZabbetException(
                    "The stage keeps one connection for itself, and the data source gives no second one for the code"
                            + " under test: " + e.getMessage()
                            + "\nLet the pool hold one more.",
                    e);
        }
    }

    /** Opens a store in a transaction that is rolled back at the end. */
    public static JdbcStore inTransaction(DataSource dataSource) throws SQLException {
        Connection connection = dataSource.getConnection();
        boolean autoCommit = connection.getAutoCommit();
        Lease lease = null;
        try {
            connection.setAutoCommit(true);
            Dialect dialect = Engines.of(connection);
            DatabaseIdentity place = dialect.place(connection);
            Schema before = dialect.readSchema(connection);
            Dedication.require(connection, dialect, place, before);
            List<DatabaseIdentity> places = dialect.places(connection, place, before);
            if (dialect.journal(new Schema(List.of())).isNoting(connection)) {
                open(dataSource, JdbcStore.AtEnd.KEEP, null).close(); // what a dead process left is undone first
            }
            dialect.prepare(connection);
            SharedTransaction transaction = SharedTransaction.of(connection, dialect, autoCommit);
            Session session = new Session(transaction);
            session.speaks(dialect);
            lease = Lease.take(session, dialect, places);
            Schema schema = session.call("The schema cannot be read", dialect::readSchema);
            Journal journal = journalTogether(connection, dialect, place, schema);
            transaction.begin();
            Tracker knowing = journal == null
                    ? new ComparingTracker(dialect, schema, null)
                    : new JournalTracker(dialect, schema, journal);
            JdbcStore store = new JdbcStore(
                    transaction,
                    session,
                    dialect,
                    place,
                    lease,
                    schema,
                    new TransactionTracker(transaction, knowing),
                    JdbcStore.AtEnd.KEEP,
                    null,
                    Map.of());
            store.transaction = transaction;
            store.together = journal;
            return store;
        } catch (SQLException | RuntimeException e) {
            try (connection) {
                if (lease != null) {
                    lease.close();
                }
                if (!connection.isClosed() && !connection.getAutoCommit()) {
                    connection.rollback();
                }
            }
            throw e;
        }
    }

    /** Returns a journal that notes what happens in one transaction; null if there can be none, and all is compared. */
    private static @Nullable Journal journalTogether(
            Connection connection, Dialect dialect, DatabaseIdentity place, Schema schema) throws SQLException {
        Journal journal = dialect.journalTogether(schema).orElse(null);
        if (journal == null) {
            return null;
        }
        try {
            journal.install(connection);
            return journal;
        } catch (SQLException e) {
            if (!dialect.isMissingRight(e)) {
                throw e;
            }
            LOG.log(
                    Level.INFO,
                    "Triggers cannot be installed in {0} ({1}); changes are found by comparing all rows, which takes longer.",
                    place.describe(),
                    e.getMessage());
            return null;
        }
    }

    /** A journal that is there although nobody holds the database was left by a process that died. */
    private static void settleLeftovers(JdbcStore store) {
        Dialect dialect = store.dialect;
        Schema schema = store.tables.schema();
        store.session.run("What a process that died left behind cannot be undone", connection -> {
            Journal journal = dialect.journal(schema);
            if (store.place.inThisProcess() || !journal.isNoting(connection)) {
                return;
            }
            String ended = store.record.ended(connection).orElse("undo ");
            if (ended.startsWith("undo ")) {
                JournalTracker.Settled settled = new JournalTracker(dialect, schema, journal)
                        .settleLeftovers(connection, ended.substring("undo ".length()));
                if (settled.others() == 0) {
                    Map<String, String> written = store.record.all(connection);
                    if (written.containsKey(StageRecord.STAGE)) {
                        store.counters.setBack(connection, Counters.read(written, schema), null);
                    }
                }
                LOG.log(
                        Level.WARNING,
                        "The last stage on {0} was not closed: {1} of its changes to rows were undone{2}.",
                        store.place.describe(),
                        settled.undone(),
                        settled.others() == 0
                                ? ""
                                : "; " + Words.count(settled.others(), "row")
                                        + " that others have changed since it ended were left alone");
            }
            journal.rest(connection);
        });
    }
}
