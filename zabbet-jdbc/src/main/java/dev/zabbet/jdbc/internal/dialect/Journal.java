package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import org.jspecify.annotations.Nullable;

/**
 * What notes every change of a row in the database itself, in the transaction that makes it: triggers, and the tables that they
 * write to. Events are numbered in an order in which each row's own changes follow one another.
 *
 * <h2>The idea</h2>
 *
 * A stage has to know what code under test changed, whichever connection it used, without reading the tables. Triggers write an
 * image of each row before and after into the journal. A position in the journal is a rewind point; what stands behind it is the
 * footprint; undoing is deleting every row that was touched since, and storing the oldest image of each again. All three cost as
 * much as there are changes. {@link NetEffect} leads from events to the net effect of each row.
 *
 * <h2>Invariants</h2>
 *
 * <ul>
 *   <li>A note is part of the transaction that it notes: what is rolled back leaves no note, and what is committed always does.
 *   <li>A rewind restores images while references are not checked and the application's own triggers rest, in one transaction, so
 *       that no order of rows has to be found. Where a user may not do that, the undo runs in an order that keeps references.
 *   <li>A rewind undoes and forgets what it has seen. What others commit meanwhile makes it look again; what they commit later
 *       stays noted. No note is forgotten whose change stays.
 *   <li>Statements that fire no trigger (TRUNCATE on some engines, cascades on MariaDB) are noticed otherwise or refused by name;
 *       they are never passed over.
 *   <li>The journal knows which tables it was made for by a {@link #fingerprint}; after CREATE, ALTER or DROP it is renewed before
 *       it is believed.
 *   <li>On servers it outlives the stage: the next stage finds it, and the notes of a process that died are undone by it.
 * </ul>
 *
 * <h2>Why not otherwise</h2>
 *
 * Comparing all rows before and after costs as much as there are rows; it remains as the fallback for users who may not make
 * triggers ({@code ComparingTracker}). Reading the server's own log (logical decoding, binary log) needs rights and settings that a
 * test database rarely has. A journal for each stage would cost seconds for each test class on MariaDB, where making triggers is slow.
 */
public interface Journal {

    /**
     * One change of one row.
     *
     * @param number its number
     * @param table the row's table
     * @param before the row before; null if it was stored
     * @param after the row after; null if it was deleted
     */
    record Event(
            long number,
            Table table,
            @Nullable Row before,
            @Nullable Row after) {}

    /**
     * What a look at the database finds.
     *
     * @param number what has happened so far is not after it, and what happens from now on is
     * @param seen tells later events from those that were seen, for {@link #forget(Connection, Stretch)}
     * @param events what was asked for
     * @param sequences what it tells of sequences, for {@link Sequences#next(Connection, Collection, String)}
     */
    record Look(long number, long seen, List<Event> events, Optional<String> sequences) {}

    /**
     * What is undone: the events after a number, as far as a look has seen them. What others write while they are undone is
     * not among them; it stays noted.
     *
     * @param seen what the look said; empty if the rest is to be forgotten, too
     */
    record Stretch(long after, OptionalLong seen) {
        /** What a look has seen of the events after a number. */
        public static Stretch of(long after, Look look) {
            return new Stretch(after, OptionalLong.of(look.seen()));
        }

        /** All that was noted after a number. */
        public static Stretch all(long after) {
            return new Stretch(after, OptionalLong.empty());
        }
    }

    /** Returns what is another text once tables are created, altered or dropped. */
    String fingerprint(Connection connection) throws SQLException;

    /** Makes sure that all tables are watched; cheap if they are. The connection commits what it has open. */
    void install(Connection connection) throws SQLException;

    /** As {@link #install}, and looks at all that can be changed about a table, whatever it costs. */
    default void installAfterAll(Connection connection) throws SQLException {
        install(connection);
    }

    /**
     * Waits briefly until no transaction with changes is open.
     *
     * @return a number that what has happened so far is not after, and what happens from now on is
     * @throws dev.zabbet.error.ZabbetException if one stays open; the message names it
     */
    long settle(Connection connection) throws SQLException;

    /** Waits as {@link #settle} does, where nobody needs the number. */
    default void await(Connection connection) throws SQLException {
        settle(connection);
    }

    /**
     * Waits until no transaction with changes is open, and says where the journal stands. The tables are as they were when
     * it was installed.
     *
     * @param sequences whether it is to be told of sequences, where that can be
     * @throws SchemaChangedException if tables were created, altered or dropped
     */
    default Look here(Connection connection, boolean sequences) throws SQLException {
        install(connection);
        long number = settle(connection);
        return new Look(number, number, List.of(), Optional.empty());
    }

    /** As {@link #here}, with the events after a number as {@link #events} returns them. */
    default Look changed(Connection connection, long after) throws SQLException {
        install(connection);
        await(connection);
        return new Look(after, after, events(connection, after), Optional.empty());
    }

    /** As {@link #here}, with the events after a number as they were noted, for a rewind. */
    Look toUndo(Connection connection, long after) throws SQLException;

    /** Returns the events after a number as they were noted, in order. */
    List<Event> noted(Connection connection, long after) throws SQLException;

    /** Returns the events after a number, with what touched rows hold now. */
    default List<Event> events(Connection connection, long after) throws SQLException {
        return noted(connection, after);
    }

    /**
     * Deletes, for each of these events, one row that is as the event left it; all are of one table, which has no key.
     */
    void takeAway(Connection connection, Table table, Collection<Event> events) throws SQLException;

    /** Stores rows again as they were before the events of these numbers; all are of one table. */
    void restore(Connection connection, Table table, Collection<Event> events) throws SQLException;

    /**
     * Undoes events in one go, and forgets them as {@link #forget(Connection, Stretch)} does.
     *
     * @return false if there is no such way for these; nothing was done then
     */
    default boolean undoAtOnce(Connection connection, Map<Table, NetEffect.Undo> undo, Stretch stretch)
            throws SQLException {
        return false;
    }

    /**
     * Undoes events while references stay checked, in one transaction, for users who may not leave
     * them unchecked.
     *
     * @return false if there is no such way here; nothing was done then
     */
    default boolean undoChecked(Connection connection, Map<Table, NetEffect.Undo> undo, Stretch stretch)
            throws SQLException {
        return false;
    }

    /**
     * Says whether it is asked from now on in the very transaction whose changes it notes, so that it must not wait for that
     * one to end, or from outside as before.
     */
    default void joins(boolean transaction) {}

    /** Takes note that a transaction was taken back, and its notes with it. */
    default void undone() {}

    /**
     * Forgets events that have been undone, in the transaction that has done so: from here on nobody else can touch their
     * rows before it ends.
     *
     * @throws NotedMeanwhileException if others have been noted since the look
     */
    void forget(Connection connection, Stretch stretch) throws SQLException;

    /** Returns what {@link #noted(Connection, String)} tells later events by; waits for nobody, and writes nothing. */
    String end(Connection connection) throws SQLException;

    /** Returns the events after what {@link #end} returned. */
    default List<Event> noted(Connection connection, String end) throws SQLException {
        return noted(connection, Long.parseLong(end));
    }

    /** Forgets the events after what {@link #end} returned. */
    default void forget(Connection connection, String end) throws SQLException {
        forget(connection, Stretch.all(Long.parseLong(end)));
    }

    /** Tells whether it notes changes for a stage, or for one whose process died. */
    boolean isNoting(Connection connection) throws SQLException;

    /** Notes nothing from now on, until {@link #install} is called again; what was noted is forgotten. */
    default void rest(Connection connection) throws SQLException {
        remove(connection);
    }

    /** Takes out of the database what {@link #install} put in. */
    void remove(Connection connection) throws SQLException;
}
