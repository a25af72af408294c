package dev.zabbet.jdbc.internal.dialect;

import java.sql.SQLException;
import java.util.Locale;
import java.util.Optional;

/** What a database means when it refuses a statement. A role of a {@link Dialect}. */
public interface Refusals {
    /** Returns the name of the constraint that a refusal speaks of, in the form to show, if the driver tells it. */
    default Optional<String> constraint(SQLException refusal) {
        return Optional.empty();
    }

    /** Tells whether the database refused something because the user has no right to it, or since it cannot do it there. */
    default boolean isMissingRight(SQLException refusal) {
        return "42501".equals(refusal.getSQLState());
    }

    /** Tells whether a row was refused since another has the same key. */
    default boolean isTwin(SQLException refusal) {
        return "23505".equals(refusal.getSQLState());
    }

    /** Tells whether a statement was given up since another connection holds what it needs. */
    default boolean isLocked(SQLException refusal) {
        return false;
    }

    /** Tells whether there was no room for what a statement writes (ISO 9075 knows no class for that; PostgreSQL's is 53100). */
    default boolean isFull(SQLException refusal) {
        String message = String.valueOf(refusal.getMessage()).toLowerCase(Locale.ROOT);
        return "53100".equals(refusal.getSQLState())
                || message.contains("sqlite_full")
                || message.contains("no space left")
                || message.contains("disk full")
                || message.contains("disk is full");
    }

    /** Tells whether a refused batch tells which row it was. */
    default boolean tellsRefusedRow() {
        return true;
    }
}
