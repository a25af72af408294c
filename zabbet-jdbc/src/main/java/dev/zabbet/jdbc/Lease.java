package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;

/**
 * The right of one stage to a database: in this process by a list of those taken, between processes by a lock that the
 * database (or, for a file, the system) takes back when the process dies.
 */
final class Lease implements AutoCloseable {
    private static final Set<String> TAKEN = ConcurrentHashMap.newKeySet();

    private static final int SECONDS_TO_NOTICE = 3;

    private final Session session;
    private final Dialect dialect;
    private final List<Place> places = new ArrayList<>();

    /** Another stage holds the database. */
    static final class Taken extends ZabbetException {
        private static final long serialVersionUID = 1L;

        Taken(String message) {
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
     * @throws Taken if the other stage does not end in time; the message names its holder
     */
    static Lease take(Session session, Dialect dialect, List<Place> places) {
        return take(session, dialect, places, Long.getLong("zabbet.leaseSeconds", 20));
    }

    static Lease take(Session session, Dialect dialect, List<Place> places, long seconds) {
        Lease lease = new Lease(session, dialect);
        try {
            // in one order for all, so that no two wait for each other
            for (Place place : places.stream()
                    .sorted(Comparator.comparing(Place::identity))
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
    private static boolean takeOne(Session session, Dialect dialect, Place place, long seconds) {
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
                throw new Taken("Another stage is open on the " + place.describe() + ", held by " + holder
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
    Optional<String> takeAgain(Connection connection) throws SQLException {
        for (Place place : places) {
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
    boolean hasWaited() {
        return waited;
    }

    /** Tells whether all of these places are held by it. */
    boolean covers(List<Place> all) {
        return places.containsAll(all);
    }

    /** Gives the lease back; where the stage's connection is broken, the lock of the database has ended with it. */
    @Override
    public void close() {
        boolean alive = session.isAlive();
        for (Place place : places) {
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
