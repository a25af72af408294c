package dev.zabbet.jdbc.internal.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.jdbc.internal.connect.PreparingDataSource;
import dev.zabbet.jdbc.internal.connect.RoleDataSource;
import dev.zabbet.jdbc.internal.connect.ToldDataSource;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.SchemaChangedException;
import dev.zabbet.jdbc.internal.dialect.Session;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.guard.Dedication;
import dev.zabbet.jdbc.internal.guard.LabelTable;
import dev.zabbet.jdbc.internal.guard.Lease;
import dev.zabbet.jdbc.internal.guard.StageRecord;
import dev.zabbet.jdbc.internal.script.SqlInserts;
import dev.zabbet.jdbc.internal.script.SqlScript;
import dev.zabbet.jdbc.internal.track.Tracker;
import dev.zabbet.jdbc.internal.track.WatchedTables;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
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
public final class JdbcStore implements Store, SqlInserts.Writable {
    static final Logger LOG = System.getLogger("dev.zabbet.jdbc");

    private final JoinedTransactions joined = new JoinedTransactions(this);
    private final Clearing clearing = new Clearing(this);
    private final StoreClosing closing = new StoreClosing(this);
    private final DataSource dataSource;
    final List<LabelTable.Name> labelled = new ArrayList<>();
    final Session session;
    final Dialect dialect;
    final DatabaseIdentity place;
    final Lease lease;
    final AtEnd atEnd;
    final Counters counters;
    final WatchedTables tables;
    private final RewindPoints points;
    final StageRecord record;
    final Map<String, String> keySequences;
    private final String stage = UUID.randomUUID().toString();
    final List<String> prepared = new CopyOnWriteArrayList<>(); // what is run on each connection
    long stored; // rows that were stored and not taken back

    @Nullable
    RewindPoint start;

    @Nullable
    SharedTransaction transaction;

    @Nullable
    Journal together; // notes what happens in the transaction

    /** What becomes of the database when the stage is closed. */
    public enum AtEnd {
        /** It stays as it is. */
        KEEP,
        /** It ends with the stage. */
        END,
        /** Its rows are as they were when the stage was opened. */
        REWIND
    }

    JdbcStore(
            DataSource dataSource,
            Session session,
            Dialect dialect,
            DatabaseIdentity place,
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
        this.points = new RewindPoints(this, script);
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
    void regain(Connection connection) throws SQLException {
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

    /** Returns the source of connections as it was given. */
    DataSource plainDataSource() {
        return dataSource;
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
        DataSource plain = prepared.isEmpty() ? dataSource : new PreparingDataSource(dataSource, prepared);
        return Optional.of(Stories.of(this) == null ? plain : new ToldDataSource(plain, this));
    }

    @Override
    public Optional<DataSource> dataSource(String role) {
        return dialect.switchesRoles()
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
        LabelTable labels = new LabelTable(dialect);
        List<LabelTable.Name> names = LabelTable.names(load);
        if (!names.isEmpty()) {
            session.run("The labels cannot be kept", labels::prepare);
        }
        session.run("The rows cannot be stored", connection -> new LoadExecution(dialect, connection, tables.schema())
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
                "The labels cannot be read", connection -> new LabelTable(dialect).find(connection, table, label));
        return key.flatMap(where -> rows(table, where).stream().findFirst());
    }

    @Override
    public Optional<String> noted(String name) {
        return session.call("The notes cannot be read", connection -> new LabelTable(dialect).note(connection, name));
    }

    @Override
    public void read(Table table, Condition where, Consumer<Row> reader) {
        session.run("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .read(connection, where, reader));
    }

    @Override
    public void readStreaming(Table table, Condition where, Consumer<RowAtHand> reader) {
        session.run("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .readStreaming(connection, where, reader));
    }

    @Override
    public long count(Table table) {
        return session.call("Table " + table.name() + " cannot be read", c -> new TableSql(dialect, table).count(c));
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
    void bringCountersBack() {
        Map<Table, Long> left = dialect.takeCountersLeft();
        if (!left.isEmpty()) {
            session.run("The counters cannot be set", connection -> counters.bringBack(connection, left));
        }
    }

    @Override
    public Watch watch() {
        bringCountersBack();
        Tracker.Position from = tables.here();
        Story told = Stories.of(this);
        Tracker.Position back = told != null && told.isCounterproof() ? tables.point() : from;
        int begun = tables.generation();
        SharedTransaction.Spot before = joinedSpot();
        return new Watch() {
            @Override
            public List<Change> changes() {
                tables.requireGeneration(begun);
                if (before != null) {
                    takeBackIfAborted(before);
                }
                try {
                    return tables.changes(from);
                } catch (SchemaChangedException e) {
                    tables.requireGeneration(begun);
                    throw e;
                }
            }

            @Override
            public void takeBack() {
                tables.requireGeneration(begun);
                tables.undo(back);
            }

            @Override
            public void close() {}
        };
    }

    /** Returns a spot to come back to if a statement of the code under test ends the transaction; null if none can. */
    private SharedTransaction.@Nullable Spot joinedSpot() {
        SharedTransaction joined = transaction;
        return joined == null || !joined.isJoined() || !dialect.abortsTransactions()
                ? null
                : session.call("A savepoint cannot be set", connection -> joined.spot());
    }

    /** What a failed statement leaves of an act is nothing: the rest of its transaction could never be committed. */
    private void takeBackIfAborted(SharedTransaction.Spot before) {
        SharedTransaction joined = transaction;
        session.run("What a failed statement left cannot be taken back", connection -> {
            if (joined != null && joined.isAborted()) {
                joined.backTo(before);
            }
        });
    }

    @Override
    public RewindPoint mark() {
        return points.mark();
    }

    @Override
    public void rewind(RewindPoint point) {
        points.rewind(point);
    }

    @Override
    public boolean readAgain() {
        return tables.readAgain();
    }

    @Override
    public Schema schemaNow() {
        return tables.now();
    }

    /** A second call does nothing. */
    @Override
    public void close() {
        closing.close();
    }

    /** Takes out of the database what is ours. */
    public DatabaseIdentity undedicate() {
        return closing.undedicate();
    }

    /** Children go before their parents, and references stay checked: rows that others refer to are not left behind. */
    @Override
    public void clear(List<Table> emptied) {
        clearing.clear(emptied);
    }

    /**
     * Deletes all rows of tables as {@link #clear(List)}, and lets their counters begin again.
     *
     * @param mayLose the database's name, if it may be emptied though it holds many rows that no stage stored
     */
    public void clear(List<Table> emptied, @Nullable String mayLose) {
        clearing.clear(emptied, mayLose);
    }

    /**
     * Opens a store beside this one, in a transaction that somebody else began on a connection and will end. As long as it is
     * in use, this one is not. It needs no closing, but {@link #leaveTransaction} has to be called here when it is over.
     */
    JdbcStore within(Connection connection) throws SQLException {
        return joined.within(connection);
    }

    /** Takes note that the transaction which {@link #within} was called for has ended. */
    void leaveTransaction() {
        joined.leaveTransaction();
    }
}
