package dev.zabbet.jdbc.internal.guard;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Session;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;

/**
 * The right of one stage to a database: in this process by a list of those taken, between processes by a lock that the database
 * (or, for a file, the operating system) takes back when the process dies. Not thread-safe; several leases may be taken at once.
 *
 * <h2>The idea</h2>
 *
 * Two guards stand before every write. The mark ({@link Dedication}) says that this database may be lost: it holds the identity of
 * the database that it was made for (server, name or file, and birth), so that a copy that carries the mark along is recognised as a
 * copy. The lease says that nobody else's stage is open: two stages would undo each other's rows. The mark is data and stays; the
 * lease is a lock and ends with the connection that holds it, so that a killed process never blocks the next one.
 *
 * <h2>Invariants</h2>
 *
 * <ul>
 *   <li>The mark is looked for before the lease is taken, and the lease before anything is written.
 *   <li>Every database that the tables lead to (through references, triggers, links) needs a mark and a lease of its own. Leases are
 *       taken in the order of their identities, so that two stages never wait for each other.
 *   <li>In one process the list comes first, because a lock of the database may let the same session in twice.
 *   <li>When the stage's connection is lost, the lock goes with it. {@link #takeAgain} takes it again, and the stage goes on only if
 *       nobody had a stage in between; otherwise its rows were undone already.
 * </ul>
 *
 * <h2>Why not otherwise</h2>
 *
 * A row in a table as the lock would have to be cleaned up after each crash, and a time limit on it would let two stages in when one is
 * slow. A mark without an identity would come along with restored dumps and copied volumes.
 */
public final class Lease implements AutoCloseable {
    private static final Set<String> TAKEN = ConcurrentHashMap.newKeySet();

    private static final int SECONDS_TO_NOTICE = 3;

    private final Session session;
    private final Dialect dialect;
    private final List<DatabaseIdentity> places = new ArrayList<>();

    /** Another stage holds the database. */
    public static final class TakenException extends ZabbetException {
        private static final long serialVersionUID = 1L;

        TakenException(String message) {
            super(message);
        }
    }

    private boolean waited;

    private Lease(Session session, Dialect dialect) {
        this.session = session;
        this.dialect = dialect;
    }

    /**
     * Takes the lease; waits for another stage to end, as long as the property zabbet.leaseSeconds says.
     *
     * @throws TakenException if the other stage does not end in time; the message names its holder
     */
    public static Lease take(Session session, Dialect dialect, List<DatabaseIdentity> places) {
        return take(session, dialect, places, Long.getLong("zabbet.leaseSeconds", 20));
    }

    public static Lease take(Session session, Dialect dialect, List<DatabaseIdentity> places, long seconds) {
        Lease lease = new Lease(session, dialect);
        try {
            // in one order for all, so that no two wait for each other
            for (DatabaseIdentity place : places.stream()
                    .sorted(Comparator.comparing(DatabaseIdentity::identity))
                    .toList()) {
                lease.waited |= takeOne(session, dialect, place, seconds);
                lease.places.add(place);
            }
            return lease;
        } catch (RuntimeException e) {
            lease.close();
            throw e;
        }
    }

    /** Returns whether another held it first. */
    private static boolean takeOne(Session session, Dialect dialect, DatabaseIdentity place, long seconds) {
        long deadline = System.nanoTime() + seconds * 1_000_000_000L;
        for (boolean waited = false; ; waited = true) {
            boolean here = TAKEN.add(place.identity());
            if (here) {
                try {
                    if (session.call("The lease cannot be taken", c -> dialect.lock(c, place))) {
                        return waited;
                    }
                } catch (RuntimeException e) {
                    TAKEN.remove(place.identity());
                    throw e;
                }
                TAKEN.remove(place.identity());
            }
            if (System.nanoTime() > deadline) {
                String holder = here
                        ? session.call("The lease's holder cannot be read", c -> dialect.holder(c, place))
                        : "another stage in this process; close it first";
                throw new TakenException("Another stage is open on the " + place.describe() + ", held by " + holder
                        + ". Two stages would rewind each other's rows. Give each a database of its own (Databases), or"
                        + " wait longer with -Dzabbet.leaseSeconds=….");
            }
            pause();
        }
    }

    /**
     * Takes the database's own locks again with a new connection, after the one that held them was lost.
     *
     * @return who holds the database instead; empty if nobody does
     */
    public Optional<String> takeAgain(Connection connection) throws SQLException {
        for (DatabaseIdentity place : places) {
            long deadline = System.nanoTime() + SECONDS_TO_NOTICE * 1_000_000_000L;
            while (!dialect.lock(connection, place)) { // the server may not know yet that the old connection is gone
                if (System.nanoTime() > deadline) {
                    return Optional.of(dialect.holder(connection, place));
                }
                pause();
            }
        }
        return Optional.empty();
    }

    private static void pause() {
        try {
            Thread.sleep(50);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new ZabbetException("Interrupted while waiting for another stage to end.", e);
        }
    }

    /** Tells whether another held one of the places first. */
    public boolean hasWaited() {
        return waited;
    }

    /** Tells whether all of these places are held by it. */
    public boolean covers(List<DatabaseIdentity> all) {
        return places.containsAll(all);
    }

    /** Gives the lease back; where the stage's connection is broken, the lock of the database has ended with it. */
    @Override
    public void close() {
        boolean alive = session.isAlive();
        for (DatabaseIdentity place : places) {
            try {
                if (alive) {
                    session.run("The lease cannot be given back", connection -> dialect.unlock(connection, place));
                }
            } finally {
                FileLease.release(place.database());
                TAKEN.remove(place.identity());
            }
        }
    }
}
