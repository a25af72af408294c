package dev.zabbet.jdbc.internal.track;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.SchemaChangedException;
import dev.zabbet.jdbc.internal.dialect.Sequences;
import dev.zabbet.jdbc.internal.dialect.Session;
import dev.zabbet.jdbc.internal.guard.Dedication;
import dev.zabbet.jdbc.internal.guard.Lease;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.Change;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * The tables of a database as a stage knows them, and what notes changes of their rows. Where somebody changes the tables
 * themselves, they are read and watched again.
 */
public final class WatchedTables {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");

    private final Session session;
    private final Dialect dialect;
    private final DatabaseIdentity place;
    private final Lease lease;
    private final boolean fixed;
    private Schema schema;
    private @Nullable Tracker tracker;
    private @Nullable TablesAsRead asRead;
    private int generation;
    private Session.Run installed = connection -> {};

    /** @param tracker what notes changes, where the tables stay as they are; null to install it when it is needed */
    public WatchedTables(
            Session session,
            Dialect dialect,
            DatabaseIdentity place,
            Lease lease,
            Schema schema,
            @Nullable Tracker tracker) {
        this.session = session;
        this.dialect = dialect;
        this.place = place;
        this.lease = lease;
        this.schema = schema;
        this.tracker = tracker;
        this.fixed = tracker != null;
    }

    public Schema schema() {
        return schema;
    }

    /** Says what to do once a journal has been installed. */
    public void onInstalled(Session.Run work) {
        installed = work;
    }

    /** Returns the journal that notes changes; null if there is none by now, or all is compared. */
    public @Nullable Journal journal() {
        return tracker instanceof JournalTracker way ? way.journal() : null;
    }

    /** Returns the tables as they are now; a look is cheap. */
    public Schema now() {
        if (!fixed) {
            try {
                session.run("The schema cannot be read", this::requireSame);
            } catch (SchemaChangedException e) {
                read(true);
            }
        }
        return schema;
    }

    private void requireSame(Connection connection) throws SQLException {
        Tracker way = tracker;
        TablesAsRead tables = asRead;
        if (way != null) {
            way.requireSameTables(connection);
        } else if (tables != null) {
            tables.require(connection);
        }
    }

    /** Notes what the tables look like, which have just been read. */
    public void note(Connection connection) throws SQLException {
        asRead = new TablesAsRead(dialect.journal(schema), connection);
    }

    /** Reads the tables again, and tells whether they were changed. */
    public boolean readAgain() {
        return !fixed && session.isAlive() && read(false);
    }

    private boolean read(boolean changed) {
        boolean read = session.call("The schema cannot be read", connection -> {
            Schema found = dialect.readSchema(connection);
            if (!changed && schema.differencesFrom(found).isEmpty()) {
                return false;
            }
            if (!lease.covers(dialect.places(connection, place, found))) {
                Dedication.require(connection, dialect, place, found);
                throw new ZabbetException("A reference leads to another database since this stage was opened on the "
                        + place.describe() + ". Close it, and open a new one.");
            }
            becomes(connection, found);
            return true;
        });
        if (read) {
            LOG.log(Level.INFO, "The tables of {0} were changed and read again.", place.describe());
        }
        return read;
    }

    /** Switches to a newly read schema. */
    public void becomes(Connection connection, Schema found) throws SQLException {
        schema = found;
        tracker = null;
        generation++;
        note(connection);
    }

    /** Returns a number that is another one each time the tables have become others. */
    public int generation() {
        return generation;
    }

    /** Refuses to tell what changed across a change of the tables. */
    public void requireGeneration(int begun) {
        if (begun != generation) {
            throw new ZabbetException("The tables of " + place.describe()
                    + " were changed (CREATE, ALTER or DROP) since this point, so that its rows cannot be told apart from those"
                    + " of now. Change tables outside an act: afterwards the stage knows them as they are then.");
        }
    }

    /** Tells whether anything notes changes by now. */
    public boolean areWatched() {
        return tracker != null;
    }

    public Tracker.Position here() {
        try {
            return tracked("Changes cannot be noticed", t -> session.call("", t::here));
        } catch (SchemaChangedException e) {
            read(true);
            return tracked("Changes cannot be noticed", t -> session.call("", t::here));
        }
    }

    /** Returns a position for a rewind alone. */
    public Tracker.Position point() {
        return tracked("A rewind point cannot be noted", t -> session.call("", t::point));
    }

    /** Returns the position's changes; throws {@link SchemaChangedException}, the tables having been read, if they were changed. */
    public List<Change> changes(Tracker.Position from) {
        try {
            return tracked("What changed cannot be read", t -> session.call("", c -> t.changes(c, from)));
        } catch (SchemaChangedException e) {
            read(true);
            throw e;
        }
    }

    /**
     * Takes the rows back to a position; throws {@link SchemaChangedException} as {@link #changes} does.
     *
     * @return what is told of sequences, for {@link Sequences#next}
     */
    public Optional<String> undo(Tracker.Position to) {
        try {
            return tracked("The database cannot be rewound", t -> session.call("", c -> t.undo(c, to)));
        } catch (SchemaChangedException e) {
            read(true);
            throw e;
        }
    }

    /** Nothing is noted from now on. */
    public void unwatch() {
        Tracker way = tracker;
        if (way != null && session.isAliveAgain()) {
            session.run("The triggers cannot be made to rest", way::end);
        }
    }

    /** Runs work with the journal; where none can be installed, everything is compared from then on. */
    private <V> V tracked(String trouble, Function<Tracker, V> work) {
        Tracker way = tracker;
        if (way != null) {
            try {
                return attempt(trouble, way, work);
            } catch (ZabbetException e) {
                if (e.getCause() instanceof SQLException && readAgain()) { // which may well be the reason
                    throw new SchemaChangedException();
                }
                throw e;
            }
        }
        now(); // an application may have brought its tables up to date since the stage was opened
        Tracker journal = new JournalTracker(dialect, schema, dialect.journal(schema));
        try {
            V value = attempt(trouble, journal, work);
            tracker = journal;
            session.run("The stage cannot write down that it is open", installed);
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
            Tracker comparing = new ComparingTracker(dialect, schema, asRead);
            tracker = comparing;
            return attempt(trouble, comparing, work);
        }
    }

    private static <V> V attempt(String trouble, Tracker way, Function<Tracker, V> work) {
        try {
            return work.apply(way);
        } catch (ZabbetException e) {
            String message = String.valueOf(e.getMessage());
            if (e.getCause() instanceof SQLException
                    && message.startsWith(": ")) { // what the database said, and no more
                throw new ZabbetException(trouble + message, e.getCause());
            }
            throw e;
        }
    }
}
