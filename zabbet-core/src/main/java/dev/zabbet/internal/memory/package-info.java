/**
 * The store in memory: what a database does to rows, done to rows in this process.
 *
 * <h2>The idea</h2>
 *
 * A table is a map from keys to arrays of values, with an index for each unique key ({@code MemoryTable}). Every change goes through
 * one log ({@code MemoryLog}) of images before and after. The log serves four purposes: a statement that fails and a transaction that
 * is rolled back undo to the place where they began, a {@code Watch} reads the net effect since its place, and a rewind undoes to the
 * place of its point. So all four cost as much as there are changes.
 *
 * <h2>Invariants</h2>
 *
 * <ul>
 *   <li>The lock of the store is held whenever rows are read or written. {@code MemoryTurns} waits on it for the
 *       end of another thread's transaction.
 *   <li>Stored arrays are never changed; a row that changes gets another array. A reader may therefore keep what it was given.
 *   <li>A table remembers the committed image of each row that the open transaction has changed, and nothing else, so that other
 *       threads read what was committed without a copy of the table.
 *   <li>Constraints are tested in the order of PostgreSQL: rights, then not null and checks, then keys; references at the end of the
 *       statement, or at commit if they are deferred. What follows a reference (CASCADE, SET NULL) is part of the statement.
 *   <li>Numbers that were given stay given after a rollback, as those of a sequence do; only a rewind takes them back.
 * </ul>
 *
 * <h2>Why not otherwise</h2>
 *
 * Copies of all tables at each rewind point would be simpler, but a suite would pay for its rows and not for its changes. Versions
 * of each row, as databases keep them, would let several writers in at once, which a test rarely needs, and would refuse in
 * conflicts that the database under test does not have.
 */
@NullMarked
package dev.zabbet.internal.memory;

import org.jspecify.annotations.NullMarked;
