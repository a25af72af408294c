package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** Rows in a database that is meant for tests, and that nobody else has a stage on. */
final class JdbcStore implements Store {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");

    private final DataSource dataSource;
    private final Session session;
    private final Dialect dialect;
    private final Place place;
    private final Lease lease;
    private final boolean own;
    private final Map<Table, Long> ordinals = new HashMap<>();
    private Schema schema;
    private @Nullable Tracker tracker;
    private int generation;

    private record Point(
            Tracker.Position position, int generation, Map<Table, Long> counters, Map<Table, Long> ordinals)
            implements RewindPoint {}

    private JdbcStore(
            DataSource dataSource,
            Session session,
            Dialect dialect,
            Place place,
            Lease lease,
            Schema schema,
            boolean own) {
        this.dataSource = dataSource;
        this.session = session;
        this.dialect = dialect;
        this.place = place;
        this.lease = lease;
        this.schema = schema;
        this.own = own;
    }

    static JdbcStore open(DataSource dataSource, boolean own) {
        Session session = new Session(dataSource);
        Lease held = null;
        try {
            Dialect dialect = session.call("The database cannot be opened", Dialect::of);
            Place place = session.call("The database cannot be opened", dialect::place);
            Schema schema = session.call("The schema cannot be read", dialect::readSchema);
            session.run("The database's mark cannot be read", c -> Dedication.require(c, dialect, place, schema));
            Lease lease = Lease.take(session, dialect, place);
            held = lease;
            session.run("The connection cannot be set up", dialect::prepare);
            JdbcStore store = new JdbcStore(dataSource, session, dialect, place, lease, schema, own);
            store.settleLeftovers();
            return store;
        } catch (RuntimeException e) {
            if (held != null) {
                held.close();
            }
            session.close();
            throw e;
        }
    }

    /** A journal that is there although nobody holds the database was left by a process that died. */
    private void settleLeftovers() {
        session.run("What a process that died left behind cannot be undone", connection -> {
            Journal journal = dialect.journal(schema);
            if (!place.inThisProcess() && journal.isInstalled(connection)) {
                int rows = new JournalTracker(dialect, schema, journal).settleLeftovers(connection);
                LOG.log(
                        Level.WARNING,
                        "The last stage on {0} was not closed: {1} of its changes to rows were undone.",
                        place.describe(),
                        rows);
                journal.remove(connection);
            }
        });
    }

    @Override
    public Schema schema() {
        return schema;
    }

    @Override
    public String description() {
        return place.describe();
    }

    @Override
    public Optional<DataSource> dataSource() {
        return Optional.of(dataSource);
    }

    @Override
    public long reserve(Table table, int count) {
        return session.call("The keys of " + table.name() + " cannot be reserved", connection -> {
            Optional<Column> numbered = table.numberedColumn();
            if (numbered.isPresent()) {
                return dialect.reserve(connection, table, numbered.get(), count);
            }
            Long known = ordinals.get(table);
            long last = known != null ? known : new TableSql(dialect, table).count(connection);
            ordinals.put(table, last + count);
            return last + 1;
        });
    }

    @Override
    public void store(Load load) {
        session.run("The rows cannot be stored", connection -> new Storing(dialect, connection).store(load));
    }

    @Override
    public void read(Table table, Condition where, Consumer<Row> reader) {
        session.run("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .read(connection, where, reader));
    }

    @Override
    public Watch watch() {
        Tracker.Position from = here();
        int begun = generation;
        return new Watch() {
            @Override
            public List<Change> changes() {
                requireSameTables(begun);
                try {
                    return tracked("What changed cannot be read", t -> session.call("", c -> t.changes(c, from)));
                } catch (SchemaChanged e) {
                    readAgain();
                    requireSameTables(begun);
                    return List.of();
                }
            }

            @Override
            public void close() {}
        };
    }

    private Tracker.Position here() {
        try {
            return tracked("Changes cannot be noticed", t -> session.call("", t::here));
        } catch (SchemaChanged e) {
            readAgain();
            return tracked("Changes cannot be noticed", t -> session.call("", t::here));
        }
    }

    /** Runs work with the journal; where none can be installed, everything is compared from then on. */
    private <V> V tracked(String trouble, java.util.function.Function<Tracker, V> work) {
        Tracker way = tracker;
        if (way != null) {
            return attempt(trouble, way, work);
        }
        Tracker journal = new JournalTracker(dialect, schema, dialect.journal(schema));
        try {
            V value = work.apply(journal);
            tracker = journal;
            return value;
        } catch (ZabbetException e) {
            if (!(e.getCause() instanceof SQLException cause) || !dialect.isMissingRight(cause)) {
                throw e;
            }
            LOG.log(
                    Level.INFO,
                    "Triggers cannot be installed in {0} ({1}); changes are found by comparing all rows, which takes longer.",
                    place.describe(),
                    cause.getMessage());
            Tracker comparing = new ComparingTracker(dialect, schema);
            tracker = comparing;
            return work.apply(comparing);
        }
    }

    private static <V> V attempt(String trouble, Tracker way, java.util.function.Function<Tracker, V> work) {
        try {
            return work.apply(way);
        } catch (ZabbetException e) {
            if (e.getCause() instanceof SQLException) {
                throw new ZabbetException(trouble + String.valueOf(e.getMessage()), e.getCause());
            }
            throw e;
        }
    }

    /** The application's tables were changed: they are read again, and watched anew. */
    private void readAgain() {
        session.run("The schema cannot be read", connection -> {
            schema = dialect.readSchema(connection);
            tracker = null;
            generation++;
        });
        LOG.log(Level.INFO, "The tables of {0} were changed and read again.", place.describe());
    }

    private void requireSameTables(int begun) {
        if (begun != generation) {
            throw new ZabbetException("The tables of " + place.describe()
                    + " were changed (CREATE, ALTER or DROP) since this point, so that its rows cannot be told from those"
                    + " of now. Change tables before the first act, or open a new stage.");
        }
    }

    @Override
    public RewindPoint mark() {
        Tracker.Position position = here();
        Map<Table, Long> counters = session.call(
                "The counters cannot be read", connection -> dialect.counters(connection, schema.tables()));
        return new Point(position, generation, counters, Map.copyOf(ordinals));
    }

    @Override
    public void rewind(RewindPoint point) {
        Point to = (Point) point;
        requireSameTables(to.generation());
        try {
            tracked("The database cannot be rewound", t -> {
                session.run("", connection -> t.undo(connection, to.position()));
                return true;
            });
        } catch (SchemaChanged e) {
            readAgain();
            requireSameTables(to.generation());
        }
        session.run("The counters cannot be set", connection -> {
            Map<Table, Long> now = dialect.counters(connection, schema.tables());
            for (Map.Entry<Table, Long> counter : now.entrySet()) {
                Table table = counter.getKey();
                Long before = to.counters().getOrDefault(table, 1L); // SQLite has none before the first row
                if (!before.equals(counter.getValue())) {
                    dialect.setCounter(connection, table, table.numberedColumn().orElseThrow(), before);
                }
            }
        });
        ordinals.clear();
        ordinals.putAll(to.ordinals());
    }

    @Override
    public void close() {
        try {
            if (own) {
                session.run("The database cannot be closed", dialect::end);
            } else if (tracker != null && session.isAlive()) {
                Tracker way = tracker;
                session.run("The triggers cannot be removed", way::remove);
            }
        } finally {
            lease.close();
            if (!own) {
                session.close();
            }
        }
    }
}
