package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Difference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Load;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.RowAtHand;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** Rows in a database that is meant for tests, and that nobody else has a stage on. */
final class JdbcStore implements Store, SqlInserts.Writable {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");

    private final DataSource dataSource;
    private final List<Labels.Name> labelled = new ArrayList<>();
    private final Session session;
    private final Dialect dialect;
    private final Place place;
    private final Lease lease;
    private final AtEnd atEnd;
    private final @Nullable SqlScript script;
    private final Counters counters;
    private final WatchedTables tables;
    private final StageRecord record;
    private final Map<String, String> keySequences;
    private final String stage = UUID.randomUUID().toString();
    private final List<String> prepared = new CopyOnWriteArrayList<>(); // what is run on each connection
    private boolean closed;
    private long stored; // rows that were stored and not taken back

    private @Nullable Contents base;
    private int scripted; // the generation of tables that the script has made
    private Tracker.@Nullable Position lastMarked;
    private List<Change> lastChanges = List.of();
    private @Nullable RewindPoint start;
    private @Nullable OneTransaction transaction;
    private @Nullable Journal together; // notes what happens in the transaction

    /** So many rows that no stage stored are not deleted without a word. */
    private static final int MANY_OF_OTHERS = 1_000;

    /** What becomes of the database when the stage is closed. */
    enum AtEnd {
        /** It stays as it is. */
        KEEP,
        /** It ends with the stage. */
        END,
        /** Its rows are as they were when the stage was opened. */
        REWIND
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
        Contents base;

        List<Change> sinceBase;

        Point(
                Tracker.Position position,
                int generation,
                Counters.State numbers,
                @Nullable Contents base,
                List<Change> sinceBase) {
            this.position = position;
            this.generation = generation;
            this.numbers = numbers;
            this.base = base;
            this.sinceBase = sinceBase;
        }
    }

    private JdbcStore(
            DataSource dataSource,
            Session session,
            Dialect dialect,
            Place place,
            Lease lease,
            Schema schema,
            @Nullable Tracker tracker,
            AtEnd atEnd,
            @Nullable SqlScript script,
            Map<String, String> keySequences) {
        this.keySequences = keySequences;
        this.dataSource = dataSource;
        this.session = session;
        this.dialect = dialect;
        this.tables = new WatchedTables(session, dialect, place, lease, schema, tracker);
        this.counters = new Counters(dialect, tables::schema, keySequences);
        this.place = place;
        this.lease = lease;
        this.atEnd = atEnd;
        this.script = script;
        this.record = new StageRecord(dialect, place);
        tables.onInstalled(this::writeDown);
    }

    /** The journal outlives this process: whoever opens the next stage has to know whose it is. */
    private void writeDown(Connection connection) throws SQLException {
        if (place.inThisProcess()) {
            return;
        }
        Map<String, String> items = new LinkedHashMap<>();
        items.put(StageRecord.STAGE, stage);
        items.putAll(Counters.written(counters.state(connection, true, null)));
        record.begin(connection, items);
    }

    /**
     * A connection that takes the place of a lost one has to find the database as the stage left it: the lock that went with
     * the old connection may have let others in, who have undone this stage's changes and made their own.
     */
    private void regain(Connection connection) throws SQLException {
        String over = "This stage on the " + place.describe() + " is over: its connection was lost, and ";
        String other = lease.takeAgain(connection).orElse(null);
        if (other != null) {
            throw new ZabbetException(over + "another stage holds the database now, " + other
                    + ". That stage has undone what this one left. Open a new stage.");
        }
        Dedication.require(connection, dialect, place, tables.schema());
        boolean own = stage.equals(record.all(connection).get(StageRecord.STAGE));
        if (tables.areWatched() && !place.inThisProcess() && !own) {
            throw new ZabbetException(over + "another stage was open on the database since, or may have been: it has"
                    + " undone what this one left. Open a new stage.");
        }
        dialect.prepare(connection);
        PreparingDataSource.run(connection, prepared);
        LOG.log(Level.INFO, "The stage on {0} lost its connection and goes on with another.", place.describe());
    }

    static JdbcStore open(DataSource dataSource, AtEnd atEnd, @Nullable SqlScript script) {
        return open(dataSource, atEnd, script, Map.of());
    }

    /** @param keySequences sequences that the application takes keys from itself, by the names of tables */
    static JdbcStore open(
            DataSource dataSource, AtEnd atEnd, @Nullable SqlScript script, Map<String, String> keySequences) {
        return open(dataSource, atEnd, script, keySequences, Long.getLong("zabbet.leaseSeconds", 20));
    }

    static JdbcStore open(DataSource dataSource, AtEnd atEnd, @Nullable SqlScript script, long leaseSeconds) {
        return open(dataSource, atEnd, script, Map.of(), leaseSeconds);
    }

    /**
     * Opens a store.
     *
     * @param script what made the tables, as far as that is known
     * @param leaseSeconds how long to wait for another stage to end
     * @throws Lease.Taken if it does not
     */
    private static JdbcStore open(
            DataSource dataSource,
            AtEnd atEnd,
            @Nullable SqlScript script,
            Map<String, String> keySequences,
            long leaseSeconds) {
        Session session = new Session(dataSource);
        Lease held = null;
        Dialect prepared = null;
        try {
            Dialect dialect = session.call("The database cannot be opened", Dialect::of);
            session.speaks(dialect);
            Place place = session.call("The database cannot be opened", dialect::place);
            Schema before = session.call("The schema cannot be read", dialect::readSchema);
            session.run("The database's mark cannot be read", c -> Dedication.require(c, dialect, place, before));
            List<Place> places = session.call("The databases cannot be told", c -> dialect.places(c, place, before));
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
            store.settleLeftovers();
            session.onRegain(store::regain);
            session.run("The schema cannot be read", store.tables::note);
            if (atEnd == AtEnd.REWIND) {
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
    static JdbcStore inTransaction(DataSource dataSource) throws SQLException {
        Connection connection = dataSource.getConnection();
        boolean autoCommit = connection.getAutoCommit();
        Lease lease = null;
        try {
            connection.setAutoCommit(true);
            Dialect dialect = Dialect.of(connection);
            Place place = dialect.place(connection);
            Schema before = dialect.readSchema(connection);
            Dedication.require(connection, dialect, place, before);
            List<Place> places = dialect.places(connection, place, before);
            if (dialect.journal(new Schema(List.of())).isNoting(connection)) {
                open(dataSource, AtEnd.KEEP, null).close(); // what a dead process left is undone first
            }
            dialect.prepare(connection);
            OneTransaction transaction = OneTransaction.of(connection, dialect, autoCommit);
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
                    AtEnd.KEEP,
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

    /**
     * Opens a store beside this one, in a transaction that somebody else began on a connection and will end. As long as it is
     * in use, this one is not. It needs no closing, but {@link #leaveTransaction} has to be called here when it is over.
     */
    JdbcStore within(Connection connection) throws SQLException {
        if (!tables.areWatched()) {
            tables.point();
        }
        Journal journal = tables.journal();
        Dialect own = Dialect.of(connection);
        OneTransaction joined = OneTransaction.joined(connection, own);
        Session inside = new Session(joined);
        inside.speaks(own);
        if (journal != null) {
            journal.joins(true);
        }
        Tracker knowing = journal == null
                ? new ComparingTracker(own, tables.schema(), null)
                : new JournalTracker(
                        own,
                        tables.schema(),
                        journal,
                        dialect.readsSnapshots()
                                ? number -> session.call("What changed cannot be read", c -> journal.noted(c, number))
                                : null);
        JdbcStore store = new JdbcStore(
                joined,
                inside,
                own,
                place,
                lease,
                tables.schema(),
                new TransactionTracker(joined, knowing),
                AtEnd.KEEP,
                null,
                keySequences);
        store.transaction = joined;
        return store;
    }

    /** Takes note that the transaction which {@link #within} was called for has ended. */
    void leaveTransaction() {
        Journal journal = tables.journal();
        if (journal != null) {
            journal.joins(false);
        }
    }

    /** Returns the source of connections as it was given. */
    DataSource plainDataSource() {
        return dataSource;
    }

    /** Returns a journal that notes what happens in one transaction; null if there can be none, and all is compared. */
    private static @Nullable Journal journalTogether(Connection connection, Dialect dialect, Place place, Schema schema)
            throws SQLException {
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
    private void settleLeftovers() {
        session.run("What a process that died left behind cannot be undone", connection -> {
            Journal journal = dialect.journal(tables.schema());
            if (place.inThisProcess() || !journal.isNoting(connection)) {
                return;
            }
            String ended = record.ended(connection).orElse("undo ");
            if (ended.startsWith("undo ")) {
                JournalTracker.Settled settled = new JournalTracker(dialect, tables.schema(), journal)
                        .settleLeftovers(connection, ended.substring("undo ".length()));
                if (settled.others() == 0 && journal.outlivesProcess()) {
                    Map<String, String> written = record.all(connection);
                    if (written.containsKey(StageRecord.STAGE)) {
                        counters.setBack(connection, Counters.read(written, tables.schema()), null);
                    }
                }
                LOG.log(
                        Level.WARNING,
                        "The last stage on {0} was not closed: {1} of its changes to rows were undone{2}.",
                        place.describe(),
                        settled.undone(),
                        settled.others() == 0
                                ? ""
                                : "; " + Words.count(settled.others(), "row")
                                        + " that others have changed since it ended were left alone");
            }
            journal.rest(connection);
        });
    }

    @Override
    public Schema schema() {
        return tables.schema();
    }

    @Override
    public String description() {
        return place.describe();
    }

    @Override
    public void onEachConnection(List<String> statements) {
        session.run("The connection cannot be prepared", connection -> PreparingDataSource.run(connection, statements));
        prepared.addAll(statements);
    }

    @Override
    public Optional<DataSource> dataSource() {
        bringCountersBack();
        return Optional.of(prepared.isEmpty() ? dataSource : new PreparingDataSource(dataSource, prepared));
    }

    @Override
    public Optional<DataSource> dataSource(String role) {
        return dialect instanceof PostgresDialect
                ? dataSource().map(prepared -> new RoleDataSource(prepared, role))
                : Optional.empty();
    }

    @Override
    public boolean sharesKeys(Table table) {
        return table.numberedColumn().filter(dialect::sharesReserved).isPresent();
    }

    @Override
    public long reserve(Table table, int count) {
        return session.call(
                "The keys of " + table.name() + " cannot be reserved",
                connection -> counters.reserve(connection, table, count));
    }

    @Override
    public Map<Table, Long> reserve(Map<Table, Integer> counts) {
        return session.call(
                "The keys of "
                        + counts.keySet().stream().map(Table::name).collect(Collectors.joining(", "))
                        + " cannot be reserved",
                connection -> counters.reserve(connection, counts));
    }

    @Override
    public void store(Load load) {
        Labels labels = new Labels(dialect);
        List<Labels.Name> names = Labels.names(load);
        if (!names.isEmpty()) {
            session.run("The labels cannot be kept", labels::prepare);
        }
        session.run("The rows cannot be stored", connection -> new Storing(dialect, connection, tables.schema())
                .store(load, labels));
        dialect.stored(load);
        labelled.addAll(names);
        stored += load.counts().values().stream().mapToLong(Integer::longValue).sum();
    }

    @Override
    public boolean isTwin(ConstraintException refusal) {
        return refusal.getCause() instanceof SQLException cause && dialect.isTwin(cause);
    }

    @Override
    public void writeInserts(Load load, Appendable to) {
        session.run("The statements cannot be written", c -> new SqlInserts(dialect, c, to).write(load));
    }

    @Override
    public Optional<Row> labelled(Table table, String label) {
        Optional<Condition> key = session.call(
                "The labels cannot be read", connection -> new Labels(dialect).find(connection, table, label));
        return key.flatMap(where -> rows(table, where).stream().findFirst());
    }

    @Override
    public Optional<String> noted(String name) {
        return session.call("The notes cannot be read", connection -> new Labels(dialect).note(connection, name));
    }

    @Override
    public void read(Table table, Condition where, Consumer<Row> reader) {
        session.run("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .read(connection, where, reader));
    }

    @Override
    public void readLong(Table table, Condition where, Consumer<RowAtHand> reader) {
        session.run("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .readLong(connection, where, reader));
    }

    @Override
    public long count(Table table) {
        return session.call("Table " + table.name() + " cannot be read", c -> new TableSql(dialect, table).count(c));
    }

    /** Children go before their parents, and references stay checked: rows that others refer to are not left behind. */
    @Override
    public void clear(List<Table> emptied) {
        List<Table> order = new ArrayList<>(tables.schema().storingOrder().tables());
        Collections.reverse(order);
        order.retainAll(emptied);
        session.run("The rows cannot be deleted", connection -> {
            // What nobody watches yet may go without checks, all at once: nothing is left that could refer to anything.
            if (!tables.areWatched()
                    && order.size() == tables.schema().tables().size()
                    && dialect.withoutReferences(connection, () -> clearAll(connection, order))) {
                return;
            }
            try {
                Dialect.atomically(connection, () -> clearAll(connection, order));
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
                more |= new TableSql(dialect, table).clear(connection) > 0;
            }
        }
        new Labels(dialect).forgetNotes(connection);
    }

    @Override
    public boolean holds(Table table, Condition where) {
        return session.call("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .any(connection, where));
    }

    @Override
    public Optional<Boolean> keeps(Table table, Check check, Row row) {
        return session.call("", connection -> new TableSql(dialect, table).keeps(connection, check, row));
    }

    @Override
    public Optional<Object> blank(Table table, Column column) {
        return dialect.blankSql(column)
                .map(sql -> session.call("A large object for " + table.name() + " cannot be made", connection -> {
                    try (Statement statement = connection.createStatement();
                            ResultSet result = statement.executeQuery(sql)) {
                        result.next();
                        return result.getString(1);
                    }
                }));
    }

    @Override
    public boolean isExact() {
        return dialect.isExact();
    }

    /** Others may take numbers from now on. */
    private void bringCountersBack() {
        Map<Table, Long> left = dialect.takeCountersLeft();
        if (!left.isEmpty()) {
            session.run("The counters cannot be set", connection -> counters.bringBack(connection, left));
        }
    }

    @Override
    public Watch watch() {
        bringCountersBack();
        Tracker.Position from = tables.here();
        int begun = tables.generation();
        OneTransaction.Spot before = joinedSpot();
        return new Watch() {
            @Override
            public List<Change> changes() {
                tables.requireGeneration(begun);
                if (before != null) {
                    takeBackIfAborted(before);
                }
                try {
                    return tables.changes(from);
                } catch (SchemaChanged e) {
                    tables.requireGeneration(begun);
                    throw e;
                }
            }

            @Override
            public void close() {}
        };
    }

    /** Returns a spot to come back to if a statement of the code under test ends the transaction; null if none can. */
    private OneTransaction.@Nullable Spot joinedSpot() {
        OneTransaction joined = transaction;
        return joined == null || !joined.isJoined() || !dialect.abortsTransactions()
                ? null
                : session.call("A savepoint cannot be set", connection -> joined.spot());
    }

    /** What a failed statement leaves of an act is nothing: the rest of its transaction could never be committed. */
    private void takeBackIfAborted(OneTransaction.Spot before) {
        OneTransaction joined = transaction;
        session.run("What a failed statement left cannot be taken back", connection -> {
            if (joined != null && joined.isAborted()) {
                joined.backTo(before);
            }
        });
    }

    @Override
    public boolean readAgain() {
        return tables.readAgain();
    }

    @Override
    public Schema schemaNow() {
        return tables.now();
    }

    @Override
    public RewindPoint mark() {
        Tracker.Position position = tables.point();
        Counters.State numbers = session.call(
                "The counters cannot be read",
                connection -> counters.state(
                        connection, transaction == null, position.sequences().orElse(null)));
        noteContents(position);
        Point point = new Point(position, tables.generation(), numbers, base, lastChanges);
        point.labels = labelled.size();
        point.stored = stored;
        point.prepared = prepared.size();
        point.taken = dialect.taken();
        return point;
    }

    /** Where the script is known and the rows are few, they are kept, so that changed tables can be made again. */
    private void noteContents(Tracker.Position position) {
        if (script == null || scripted != tables.generation()) {
            base = null;
            lastChanges = List.of();
        } else if (lastMarked == null) {
            base = session.call("The rows cannot be read", c -> Contents.read(dialect, c, tables.schema(), position))
                    .orElse(null);
        } else if (base != null && !position.equals(lastMarked)) {
            lastChanges = tables.changes(base.at());
        }
        lastMarked = position;
    }

    @Override
    public void rewind(RewindPoint point) {
        Point to = (Point) point;
        stored = to.stored;
        prepared.subList(to.prepared, prepared.size()).clear();
        if (to.generation != tables.generation()) {
            makeAgain(to);
            return;
        }
        try {
            resetCounters(to, tables.undo(to.position).orElse(null));
        } catch (SchemaChanged e) {
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
        if (labelled.size() > to.labels) {
            List<Labels.Name> later = labelled.subList(to.labels, labelled.size());
            session.run("The labels cannot be forgotten", connection -> new Labels(dialect).forget(connection, later));
            later.clear();
        }
    }

    private void resetCounters(Point to, @Nullable String now) {
        forgetLabels(to);
        counters.countFrom(to.numbers);
        if (transaction != null) {
            session.run("The counters cannot be set", connection -> dialect.giveBack(connection, to.taken));
            return;
        }
        session.run("The counters cannot be set", connection -> counters.setBack(connection, to.numbers, now));
    }

    /** The tables are others than at the point: they are made again by the script, with the rows of the point. */
    private void makeAgain(Point to) {
        Contents from = to.base;
        SqlScript statements = script;
        if (from == null || statements == null) {
            throw new ZabbetException("The tables of " + place.describe()
                    + " were changed (CREATE, ALTER or DROP) since this point, so that its rows cannot be told from those"
                    + " of now. "
                    + (statements == null
                            ? "A stage that knows the script of its tables makes them again: open it by"
                                    + " Jdbc.stage(dataSource, script, …)."
                            : "To make them again, Zabbet would have had to keep more than " + Contents.MOST_ROWS
                                    + " rows, or tables had been changed before. Change tables before the first act, or"
                                    + " open a new stage."));
        }
        long begun = System.nanoTime();
        List<Difference> changed = tables.schema().differencesFrom(from.schema());
        Map<Table, List<Row>> rows = from.after(to.sinceBase);
        session.run("The tables cannot be made again", connection -> {
            dialect.journal(tables.schema()).remove(connection);
            dialect.dropAll(connection);
            statements.run(connection);
            tables.becomes(connection, dialect.readSchema(connection));
        });
        List<Difference> left = tables.schema().differencesFrom(from.schema());
        if (!left.isEmpty()) {
            throw new ZabbetException(
                    "The tables of " + place.describe() + " were made again by their script, but they had"
                            + " been changed after it, before the rewind point: " + left.get(0)
                            + ". Put all that makes tables into the script.");
        }
        session.run("The rows cannot be stored again", connection -> putBack(connection, rows));
        resetCounters(to, null);
        to.position = tables.here();
        to.generation = tables.generation();
        to.base = new Contents(tables.schema(), rows, to.position);
        to.sinceBase = List.of();
        base = to.base;
        lastMarked = to.position;
        lastChanges = List.of();
        scripted = tables.generation();
        LOG.log(
                Level.WARNING,
                "The tables of {0} were changed since the rewind point{1}; they were dropped and made again by their"
                        + " script, with {2} rows, in {3} ms.",
                place.describe(),
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
        Dialect.SqlWork work = () -> {
            List<Table> order = new ArrayList<>(tables.schema().storingOrder().tables());
            Collections.reverse(order);
            for (Table table : order) {
                new TableSql(dialect, table).clear(connection); // the script may store rows of its own
            }
            Collections.reverse(order);
            for (Table table : order) {
                new TableSql(dialect, table).restoreAll(connection, rows.getOrDefault(table, List.of()));
            }
        };
        if (!dialect.withoutReferences(connection, work)) {
            Dialect.atomically(connection, work);
        }
    }

    /** A second call does nothing. */
    @Override
    public void close() {
        if (closed) {
            return;
        }
        closed = true;
        try {
            if (start != null && session.isAliveAgain()) {
                rewind(start);
            }
            if (atEnd == AtEnd.END) {
                session.run("The database cannot be closed", dialect::end);
            } else {
                if (session.isAliveAgain()) {
                    bringCountersBack();
                }
                tables.unwatch();
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
            lease.close();
            if (transaction == null && atEnd != AtEnd.END && session.isAlive()) {
                session.run("The connection cannot be set back", dialect::setBack);
            }
            if (transaction != null) {
                endTransaction(transaction, together);
            } else if (atEnd != AtEnd.END) {
                session.close();
            }
            session.end("This stage on the " + place.describe() + " was closed. Open a new one.");
        }
    }

    /** A user may be without the right to; rows that are not known to be of stages are cleared by the database's name only. */
    private void noteRowsLeft() {
        if (stored == 0 || transaction != null || place.inThisProcess() || !session.isAlive()) {
            return;
        }
        try {
            session.run(
                    "The number of rows that stay cannot be written down",
                    connection -> record.rowsLeft(connection, record.rowsLeft(connection) + stored));
        } catch (ZabbetException e) {
            LOG.log(Level.INFO, "{0} To clear {1} may take its name.", e.getMessage(), place.describe());
            if (!session.isAlive()) {
                throw e;
            }
        }
    }

    /**
     * Deletes all rows of tables as {@link #clear(List)}, and lets their counters begin again.
     *
     * @param mayLose the database's name, if it may be emptied though it holds many rows that no stage stored
     */
    void clear(List<Table> emptied, @Nullable String mayLose) {
        if (mayLose != null && !mayLose.equals(place.lastPart())) {
            throw new ZabbetException(
                    "The database is named " + place.lastPart() + ", not " + mayLose + ". Nothing was deleted.");
        }
        long held = emptied.stream().mapToLong(this::count).sum();
        long left = session.call("The number of rows that stages left cannot be read", record::rowsLeft);
        if (mayLose == null && !place.inThisProcess() && held - left > MANY_OF_OTHERS) {
            throw new ZabbetException("The " + place.describe() + " holds " + held + " rows, and stages left " + left
                    + " of them there: the others came from elsewhere since it was dedicated to tests. Nothing was deleted."
                    + " If all may be lost, say so by its name:\n  zabbet clear … --may-lose " + place.lastPart());
        }
        clear(emptied);
        session.run("The counters cannot be set", connection -> {
            counters.restart(connection, emptied);
            if (left > 0 && emptied.size() == tables.schema().tables().size()) {
                record.rowsLeft(connection, 0);
            }
        });
    }

    /** Takes out of the database what is ours. */
    Dedicated undedicate() {
        session.run("What Zabbet keeps in the database cannot be taken out of it", connection -> {
            dialect.journal(tables.schema()).remove(connection);
            ShadowJournal.execute(connection, dialect.removing(connection));
        });
        return new Dedicated(place.describe());
    }

    /** What others change from now on, while the journal is still there, is not for the next stage to undo. */
    private void writeDownTheEnd() {
        Journal journal = tables.journal();
        if (journal != null && session.isAlive()) {
            session.run(
                    "The end of the stage cannot be written down",
                    connection ->
                            record.end(connection, (start == null ? "keep " : "undo ") + journal.end(connection)));
        }
    }

    private static void endTransaction(OneTransaction transaction, @Nullable Journal journal) {
        try {
            transaction.end(journal);
        } catch (SQLException e) {
            throw new ZabbetException("The stage's transaction cannot be rolled back: " + e.getMessage(), e);
        }
    }
}
